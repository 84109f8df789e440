"""One start as the causes look at it, from its log or from what somebody saw."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np

from ..causes import (
    Observed,
    cranked_anew_s,
    lambda_lag_s,
    map_spread,
    rail_falls,
    rail_share,
    stretches_of,
)
from ..charge import expected_start_value
from ..engine import EngineSpec
from ..logs.pedal import BoolArray
from ..logs.trace import Trace
from ..logs.usable_lambda import fuel_need, usable_lambda
from ..tables import Calibration
from .acceptance import Acceptance
from .figures import IDLE_MAP_KPA, lambda_target_of
from .model import StartFigures, StartSetting
from .outcomes import RAN, Verdict
from .phases import Moments

_IDLES_FROM_S = 8.0


def observed_in(
    trace: Trace,
    moments: Moments,
    figures: StartFigures,
    verdict: Verdict,
    acceptance: Acceptance,
    setting: StartSetting,
    calibration: Calibration,
    rests: BoolArray,
) -> Observed:
    """Return what the log of one start shows of the causes.

    Parameters
    ----------
    trace : Trace
        The part of the log that belongs to the start.
    moments, figures, verdict : Moments, StartFigures, Verdict
        What was found in it.
    acceptance : Acceptance
        How the start stands against the limits.
    setting, calibration
        Engine, and tables in force.
    rests : ndarray of bool
        Where the pedal rests.
    """
    m, spec = moments, setting.spec
    seen = replace(
        _by_figures(figures, verdict, acceptance),
        channels=tuple(name for name in trace.channels if trace.get(name) is not None),
        rest_map_kpa=_at_rest(trace, m.crank_s),
        barometric_kpa=trace.mean("barometric_kpa", m.key_s, m.end_s + 1.0),
        map_spread=map_spread(
            calibration,
            spec,
            figures.steady_rpm or figures.target_rpm,
            figures.steady_map_kpa or IDLE_MAP_KPA,
        ),
        departure=_departure(calibration, spec, figures.coolant_c),
    )
    if m.run_s is None:
        return seen
    end = m.stall_s if m.stall_s is not None else m.end_s
    mask, from_s = usable_lambda(trace, m.run_s)
    need = None
    if from_s is not None:
        need = fuel_need(trace, mask & rests, lambda_target_of(trace, calibration))
    anew = cranked_anew_s(trace, m.run_s, end, spec.crank_to_run_rpm)
    return replace(
        seen,
        ran_s=end - m.run_s,
        lambda_alive=None if trace.get("lambda") is None else from_s is not None,
        rail_share=rail_share(trace, spec, m.run_s, end),
        rail_falls=rail_falls(trace, m.run_s, end),
        lambda_lag_s=lambda_lag_s(trace, m.run_s, end),
        roughness=_roughness(trace, m.run_s + _IDLES_FROM_S, end - 1.0, rests),
        stretches=stretches_of(
            trace,
            need,
            calibration,
            spec,
            m.run_s,
            end,
            rests,
            figures.coolant_c,
            setting.fading,
            anew,
        ),
        cranked_anew=len(anew),
    )


def observed_by_person(figures: StartFigures, verdict: Verdict, acceptance: Acceptance) -> Observed:
    """Return what a person's observation shows of the causes."""
    return _by_figures(figures, verdict, acceptance)


def _departure(calibration: Calibration, spec: EngineSpec, coolant_c: float) -> float:
    """Return how far the fuel tables of a start stand from the engine data, as |ln|. [–]"""
    farthest = 0.0
    for key, offset in (
        ("cranking_fuel", 0.0),
        ("warm_up_enrichment", 0.0),
        ("after_start_enrichment", 100.0),
    ):
        value = offset + calibration.at_coolant(key, coolant_c)
        expected = offset + expected_start_value(spec, key, coolant_c)
        farthest = max(farthest, abs(math.log(max(value, 1.0) / max(expected, 1.0))))
    return farthest


def _by_figures(f: StartFigures, verdict: Verdict, acceptance: Acceptance) -> Observed:
    ran = verdict in RAN
    return Observed(
        channels=(),
        coolant_c=f.coolant_c,
        turned=verdict != "no crank",
        fired=ran or verdict == "fired and died",
        ran=ran,
        stalled=verdict == "started and died",
        accepted=acceptance.accepted,
        wrong=acceptance.asks_for_change,
        no_position=verdict == "no sync",
        turned_slowly=verdict == "slow crank",
        cranking_rpm=f.cranking_rpm,
        battery_rest_v=f.battery_rest_v,
        battery_low_v=f.battery_low_v,
        sync_late_s=f.sync_late_s,
        pressure_late_s=f.pressure_late_s,
        pressure_share=f.pressure_share,
        idle_off_rpm=f.idle_off_rpm,
        valve_pct=f.idle_valve_pct,
    )


def _at_rest(trace: Trace, crank_s: float | None) -> float | None:
    """Return manifold pressure before the engine turned, from half a second on. [kPa]"""
    pressure = trace.get("map_kpa")
    if pressure is None or crank_s is None:
        return None
    rest = (trace.time_s < crank_s - 0.05) & (trace["rpm"] <= 0.0) & np.isfinite(pressure)
    if rest.sum() < 3:
        return None
    return float(np.median(pressure[rest]))


def _roughness(trace: Trace, begin_s: float, end_s: float, rests: BoolArray) -> float | None:
    """Return the spread of speed from sample to sample over its height, a slow swing left out. [–]"""
    if trace.rate_hz < 8.0:
        return None
    inside = (trace.time_s >= begin_s) & (trace.time_s < end_s) & rests
    speed = trace["rpm"][inside]
    if speed.size < 40:
        return None
    swing = np.convolve(speed, np.ones(5) / 5.0, "valid")
    jumps = speed[2:-2] - swing
    return float(np.std(jumps) / np.mean(speed))
