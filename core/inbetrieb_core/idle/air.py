"""Idle air: how much an engine breathes, what of it nobody measures, and the same air on another valve."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..bounds import out_of_bounds
from ..errors import InputRefused, field_refused

#: Less unmetered air than this share of the idle air speed-density cannot see. [–]
SEEN_SHARE = 0.2
#: How well a filling is known at idle, temperature and pressure apart: generated, and worked out. [–]
FILLING_UNSURE, _METER_UNSURE, _PARTS_UNSURE = 0.09, 0.03, 0.08
#: 90 % of a normal distribution. [–]
_BAND = 1.645


@dataclass(frozen=True)
class IdleAir:
    """Where the idle air comes from.

    Attributes
    ----------
    breathed_gps, breathed_error_gps : float
        By speed-density, and half of its 90 % width. [g/s]
    known_gps : float or None
        By the meter, or through stop and valve; None where neither is known. [g/s]
    unmetered_gps, unmetered_error_gps : float or None
        The difference and half of its 90 % width; None where it is not told. [g/s]
    told : bool
        Whether anything can be said of unmetered air.
    leaks : bool
        Whether there is more than could be chance.
    sentences : tuple of str
    """

    breathed_gps: float
    breathed_error_gps: float
    known_gps: float | None
    unmetered_gps: float | None
    unmetered_error_gps: float | None
    told: bool
    leaks: bool
    sentences: tuple[str, ...]


def judge_idle_air(
    breathed_gps: float,
    *,
    meter_gps: float | None = None,
    valve_gps: float | None = None,
    stop_gps: float | None = None,
    filling_unsure: float = FILLING_UNSURE,
) -> IdleAir:
    """Return whether an engine breathes more than what is measured, or than stop and valve pass.

    Parameters
    ----------
    breathed_gps : float
        By speed-density. [g/s]
    meter_gps : float or None
        By an air meter. [g/s]
    valve_gps, stop_gps : float or None
        Through idle valve and throttle stop; used where there is no meter. [g/s]
    filling_unsure : float
        Standard deviation of the filling. [–]

    Raises
    ------
    InputRefused
        If a figure cannot be.
    """
    values = {
        "breathed_gps": breathed_gps,
        "meter_gps": meter_gps,
        "valve_gps": valve_gps,
        "stop_gps": stop_gps,
    }
    problems = [
        out_of_bounds(name, value, 0.0, 200.0, "g/s", "The air") for name, value in values.items() if value is not None
    ]  # fmt: skip
    found = [problem for problem in problems if problem is not None]
    if found:
        raise InputRefused(found)
    error = _BAND * filling_unsure * breathed_gps
    first = f"It breathes {breathed_gps:.2f} ± {error:.2f} g/s at idle."
    if meter_gps is not None:
        known, unsure, where = meter_gps, _METER_UNSURE * meter_gps, "the meter sees"
    elif valve_gps is not None and stop_gps is not None:
        known, where = valve_gps + stop_gps, "stop and valve pass"
        unsure = _PARTS_UNSURE * known
    else:
        return IdleAir(
            breathed_gps, error, None, None, None, False, False,
            (first, "Without a meter, or the flow of stop and valve, unmetered air is not told."),
        )  # fmt: skip
    unmetered = breathed_gps - known
    width = math.hypot(error, _BAND * unsure)
    seen = max(SEEN_SHARE * breathed_gps, width)
    if unmetered > seen:
        said = (
            f"{unmetered:.2f} ± {width:.2f} g/s more than {where} ({known:.2f} g/s): unmetered air. Close hoses "
            "one by one with the engine idling: the one at which speed falls leaks; then gaskets, brake booster "
            "and crankcase breather. Spray nothing that burns on a hot engine.",
        )
        return IdleAir(breathed_gps, error, known, unmetered, width, True, True, (first, *said))
    if unmetered < -seen:
        said = (
            f"{-unmetered:.2f} g/s less than {where}: the filling at idle, or what is entered of stop, valve or "
            "meter, is wrong before there is any leak to look for.",
        )
        return IdleAir(breathed_gps, error, known, unmetered, width, True, False, (first, *said))
    said = (
        f"That is what {where}, {known:.2f} g/s, within what can be told: a leak below {seen:.2f} g/s would not "
        "be seen.",
    )
    return IdleAir(breathed_gps, error, known, None, width, False, False, (first, *said))


@dataclass(frozen=True)
class ValveFlow:
    """What an actuator passes at warm-idle pressure.

    Attributes
    ----------
    openings : tuple of float
        In its own unit: duty, steps, angle; strictly rising or falling.
    flows_gps : tuple of float
        [g/s]
    """

    openings: tuple[float, ...]
    flows_gps: tuple[float, ...]

    def check(self, field: str) -> ValveFlow:
        """Return itself once it can be inverted; `field` names it.

        Raises
        ------
        InputRefused
            If points are too few, or flow does not rise or fall throughout.
        """
        if len(self.openings) != len(self.flows_gps) or len(self.openings) < 2:
            raise field_refused(field, "At least two openings, each with its flow.")
        steps, flows = np.diff(self.openings), np.diff(self.flows_gps)
        for values in (steps, flows):
            if not np.isfinite(values).all() or not ((values > 0).all() or (values < 0).all()):
                raise field_refused(
                    field, "Openings and flows have to rise, or fall, from point to point."
                )
        if min(self.flows_gps) < 0.0:
            raise field_refused(field, "A flow is never below zero.")
        return self

    def flow_at(self, opening: float) -> float:
        """Return the flow at an opening; the ends hold. [g/s]"""
        order = np.argsort(self.openings)
        return float(
            np.interp(opening, np.array(self.openings)[order], np.array(self.flows_gps)[order])
        )

    def opening_for(self, flow_gps: float) -> float:
        """Return the opening that passes a flow [g/s]; the ends hold."""
        order = np.argsort(self.flows_gps)
        return float(
            np.interp(flow_gps, np.array(self.flows_gps)[order], np.array(self.openings)[order])
        )


@dataclass(frozen=True)
class CarriedAir:
    """A table of openings on another actuator.

    Attributes
    ----------
    flows_gps : tuple of float
        Of each cell. [g/s]
    openings : tuple of float
        On the other actuator.
    short_gps : tuple of float
        What the other cannot pass, or cannot shut off; 0 where it can. [g/s]
    sentences : tuple of str
    """

    flows_gps: tuple[float, ...]
    openings: tuple[float, ...]
    short_gps: tuple[float, ...]
    sentences: tuple[str, ...]


def carried_air(openings: Sequence[float], here: ValveFlow, there: ValveFlow) -> CarriedAir:
    """Return a table of openings as the same mass flow on another actuator.

    Parameters
    ----------
    openings : sequence of float
        In the unit of the first actuator.
    here, there : ValveFlow
        The first, and the other.

    Raises
    ------
    InputRefused
        If one of them cannot be inverted.
    """
    here.check("here")
    there.check("there")
    flows = [here.flow_at(opening) for opening in openings]
    carried = [there.opening_for(flow) for flow in flows]
    short = [flow - there.flow_at(opening) for flow, opening in zip(flows, carried, strict=True)]
    missed = [s for s in short if abs(s) > 0.01]
    sentences = (
        (f"{len(missed)} of {len(flows)} cells ask for what the other valve cannot give: up to "
         f"{max(missed, key=abs):+.2f} g/s. Move its stop.",)
        if missed
        else ("Every cell has its opening.",)
    )  # fmt: skip
    return CarriedAir(
        tuple(flows), tuple(carried), tuple(0.0 if abs(s) <= 0.01 else s for s in short), sentences
    )
