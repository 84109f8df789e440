"""The verdict on a start, and its one sentence."""

from __future__ import annotations

from ..causes import slow_crank_rpm
from ..sentences import celsius
from .model import StartFigures
from .outcomes import Verdict
from .phases import Moments

#: Fired, but never ran this long: it died at once.
DIED_AT_ONCE_S = 1.5
_SAW_NO_SYNC_S = 1.0
_STALLED_STARTER_V = 8.0


def verdict_of(moments: Moments, figures: StartFigures) -> Verdict:
    """Return the verdict on a start from its moments and figures."""
    if moments.crank_s is None:
        return "no crank"
    if moments.turn_s is None and (figures.battery_low_v or 12.0) < _STALLED_STARTER_V:
        return "no crank"  # the starter drew its current, and nothing turned
    if moments.fire_s is None:
        never_synced = (
            figures.sync_late_s is not None
            and figures.cranked_s is not None
            and (figures.sync_late_s >= max(_SAW_NO_SYNC_S, 0.95 * figures.cranked_s))
        )
        if never_synced:
            return "no sync"
        slow = figures.cranking_rpm is not None and (
            figures.cranking_rpm < slow_crank_rpm(figures.coolant_c)
        )
        return "slow crank" if slow else "no fire"
    if moments.run_s is None:
        return "fired and died"
    if moments.stall_s is not None:
        ran = moments.stall_s - moments.run_s
        return "fired and died" if ran < DIED_AT_ONCE_S else "started and died"
    return "started on the pedal" if (figures.pedal_pct or 0.0) > 0.0 else "started"


def sentence_of(verdict: Verdict, figures: StartFigures) -> str:
    """Return what happened in one plain sentence with its figures."""
    f = figures
    where = f"at {celsius(f.coolant_c)}"
    cranked = "" if f.cranked_s is None else f" in {f.cranked_s:.1f} s of cranking"
    if verdict == "no crank":
        return f"The engine did not turn {where}."
    if verdict == "slow crank":
        speed = "" if f.cranking_rpm is None else f" at only {f.cranking_rpm:.0f} rpm"
        return f"The starter turned the engine{speed} {where} and it did not fire."
    if verdict == "no sync":
        return f"The controller did not find the crankshaft's position{cranked} {where}."
    if verdict == "no fire":
        return f"The engine did not fire{cranked} {where}."
    if verdict == "fired and died":
        after = "" if f.fire_after_s is None else f" after {f.fire_after_s:.1f} s"
        return f"It fired{after} {where} but died at once."
    cranked_s = f.run_after_s if f.run_after_s is not None else f.fire_after_s
    after = "" if cranked_s is None else f" after {cranked_s:.1f} s of cranking"
    if verdict == "started and died":
        ran = "" if f.ran_s is None else f" {f.ran_s:.0f} s later"
        return f"It started{after} {where} and died{ran}."
    pedal = " only with the pedal" if verdict == "started on the pedal" else ""
    steady = "" if f.steady_rpm is None else f" and idles at {f.steady_rpm:.0f} rpm"
    target = "" if f.steady_target_rpm is None else f" (target {f.steady_target_rpm:.0f})"
    flare = "" if f.flare_rpm is None else f", flared to {f.flare_rpm:.0f} rpm"
    return f"It started{pedal}{after} {where}{flare}{steady}{target}."
