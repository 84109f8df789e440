"""Hands that play a season: the estimate's advice, and a plain hand by the rules of the trade."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from ..bench import Fault
from ..causes import CAUSES
from ..starts import PastTry, StartAnalysis
from ..starts.acceptance import (
    DIP_BELOW_TARGET_RPM,
    FLARE_ABOVE_TARGET_RPM,
    LAMBDA_BAND,
    SETTLED_BAND_RPM,
    run_within_s,
)
from ..tables import Calibration, Provenance, apply, move_by_factor, rounded

#: What every fault looks like under the bonnet: causes of the same family are tested together.
_FOUND_BY = {
    "injector_flow": "injector-flow",
    "dead_time": "dead-time",
    "weak_battery": "weak-battery",
    "slow_pressure": "late-pressure",
    "lost_sync": "no-sync",
    "idle_valve_limit": "too-little-air",
}
_MARK = Provenance("calculated", "trainer")
#: After so many mornings without a good start a plain hand looks under the bonnet.
_VAIN_MORNINGS = 3
#: A plain hand's steps. Common practice, no source. [–]
_MORE, _LESS, _LESS_AIR, _LESS_IDLE = 1.1, 0.9, 0.8, 0.92
#: A start below this is a cold one. [°C]
_COLD_C = 25.0


@dataclass(frozen=True)
class Done:
    """What a hand did after a start.

    Attributes
    ----------
    calibration : Calibration
        Tables from then on.
    checked : tuple of str
        Causes that were looked for under the bonnet.
    """

    calibration: Calibration
    checked: tuple[str, ...] = ()


Hand = Callable[[StartAnalysis, Calibration, Sequence[PastTry]], Done]


def mends(checked: Sequence[str], fault: Fault) -> bool:
    """Return whether looking for causes finds and mends a fault."""
    found_by = CAUSES[_FOUND_BY[fault.kind]]
    return any(CAUSES[key].family == found_by.family for key in checked if key in CAUSES)


def by_advice(
    analysis: StartAnalysis,
    calibration: Calibration,
    history: Sequence[PastTry],
    *,
    parts: bool = True,
) -> Done:
    """Follow the advice, with or without what was measured by the way."""
    advice = analysis.advice[0] if analysis.advice else None
    if advice is None:
        return Done(calibration)
    if advice.table is None:
        return Done(calibration, (advice.rule,))
    taken = {advice.table: advice.changes}
    if parts:
        taken |= {part.table: part.changes for part in advice.measured}
    for key, changes in taken.items():
        calibration = calibration.with_table(apply(calibration[key], changes, _MARK))
    return Done(calibration)


def one_at_a_time(
    analysis: StartAnalysis, calibration: Calibration, history: Sequence[PastTry]
) -> Done:
    """Follow the advice by the school of one change per start."""
    return by_advice(analysis, calibration, history, parts=False)


def by_hand(analysis: StartAnalysis, calibration: Calibration, history: Sequence[PastTry]) -> Done:
    """Change the earliest phase that fails by ten per cent, the other way if it got worse."""
    cold = [past for past in history if past.figures.coolant_c < _COLD_C]
    vain = len(cold) >= _VAIN_MORNINGS and not any(
        past.verdict == "started" for past in cold[-_VAIN_MORNINGS:]
    )
    checked = tuple(CAUSES) if vain and not any(past.mended for past in history) else ()
    step = _plain_step(analysis, history)
    if step is None:
        return Done(calibration, checked)
    key, factor = step
    table = calibration[key]
    changes = rounded(table, move_by_factor(table, factor, analysis.figures.coolant_c))
    return Done(calibration.with_table(apply(table, changes, _MARK)), checked)


def _plain_step(analysis: StartAnalysis, history: Sequence[PastTry]) -> tuple[str, float] | None:
    f, verdict = analysis.figures, analysis.verdict
    late = f.run_after_s is not None and f.run_after_s > run_within_s(f.coolant_c)
    dip, never = f.dip_rpm or f.target_rpm, 9.0
    if verdict in ("no fire", "fired and died") or late:
        before = history[-1].figures.run_after_s or never if history else never
        return "cranking_fuel", _LESS if before < (f.run_after_s or never) else _MORE
    if f.flare_rpm is not None and f.flare_rpm > f.target_rpm + FLARE_ABOVE_TARGET_RPM:
        return "cranking_air", _LESS_AIR
    if verdict == "started and died" or dip < f.target_rpm - DIP_BELOW_TARGET_RPM:
        return "after_start_enrichment", _MORE
    if f.idle_off_rpm is not None and abs(f.idle_off_rpm) > SETTLED_BAND_RPM:
        return "idle_valve", _MORE if f.idle_off_rpm < 0 else _LESS_IDLE
    if f.mixture_off is not None and abs(f.mixture_off) > LAMBDA_BAND:
        return "warm_up_enrichment", math.exp(f.mixture_off)
    return None


#: By name, as they are told.
HANDS: dict[str, Hand] = {
    "the estimate's advice": by_advice,
    "one change a start": one_at_a_time,
    "a plain hand": by_hand,
}
