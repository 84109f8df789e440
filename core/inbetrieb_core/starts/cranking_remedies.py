"""When each rule of cranking and run-up applies, and what it proposes then.

Every function reads one :class:`.case.Case`: conditions return a truth, proposals the changes of the
rule's one table. All of it is common practice of the trade.
"""

from __future__ import annotations

import math

from ..sentences import quantity
from .acceptance import (
    FLARE_ABOVE_TARGET_RPM,
    FLARE_GOOD_RPM,
    SETTLED_BAND_RPM,
    run_within_s,
)
from .case import MEASURED_LIMIT, Case, badness_of_cranking, badness_of_run_up
from .outcomes import RAN
from .proposal import Proposal
from .rich_or_lean import leaning_of

#: From these log odds on a late start was lean; a prompt one takes this share of the limit; fuel that
#: is missing against time that was lost; what makes a try worse. [–, –, –, s]
_SURELY_LEAN, _PROMPT_SHARE, _LATE_POWER, _WORSE_S = 1.5, 0.7, 0.75, 0.15
#: A departure of the table above this is a try of its own. [ln]
_TRIED = 0.02
#: A run-up that ends lower, seen from the target, is too weak. [1/min]
_WEAK_RPM = -150.0
#: Air that explains this share of a flare is looked at first. [–]
_EXPLAINS_FLARE = 0.5
#: Near the lower bound of the table there is no air left to take away. [%]
_LEAST_AIR_PCT = -29.0
#: A flare above this gives the loop something to take away; how much of it is aimed at. [1/min, –]
_LOOP_FLARE_RPM, LOOP_AIM = 120.0, 0.6
#: After so many vain changes of the fuel after it, cranking fuel is looked at again.
_VAIN = 6
#: The table that stands farther from the engine data by this much is looked at first. [ln]
_SUSPECTS_MORE = 0.05


def _way(log_step: float) -> str:
    return "richer" if log_step > 0 else "leaner"


def prime_applies(case: Case) -> bool:
    """Whether it never fired and a prime shot may still be the cure."""
    shot = case.setting.spec.schools.prime == "shot" and case.value("prime_pulse") > 0.0
    return (
        case.verdict == "no fire"
        and shot
        and case.moves("prime_pulse") < 2
        and leaning_of(case).direction > 0
        and case.moves("cranking_fuel") == 0
        and case.departure("prime_pulse") >= case.departure("cranking_fuel") - _SUSPECTS_MORE
    )


def raise_prime(case: Case) -> Proposal:
    """Propose a longer prime pulse."""
    step = math.log1p(case.setting.step * (1.0 if case.moves("prime_pulse") == 0 else 2.0))
    seconds = case.figures.cranked_s
    cranked = "" if seconds is None else f" in {seconds:.1f} s of cranking"
    return Proposal(
        case.scaled("prime_pulse", step),
        f"It did not fire at all{cranked}: raise the prime pulse first.",
        0.4,
    )


def search_cranking_fuel(case: Case) -> Proposal:
    """Propose more or less cranking fuel: by earlier tries, by what this start says, or a try."""
    leaning = leaning_of(case)
    told = _by_how_late(case)
    step = told or case.searched_step(
        "cranking_fuel",
        badness_of_cranking,
        direction=leaning.direction,
    )
    tried = 0 if told else case.moves("cranking_fuel")
    if tried:
        hint = " Earlier tries at about this temperature say which way."
    else:
        hint = f" {leaning.sentence}"
    return Proposal(
        case.scaled("cranking_fuel", step),
        f"{how_cranking_went(case)}: try cranking fuel {_way(step)}.{hint}",
        0.45 if tried else 0.9 * leaning.probability - 0.1,
    )


def how_cranking_went(case: Case) -> str:
    """Return how cranking went, as the beginning of a sentence.

    Parameters
    ----------
    case : Case
        A start whose cranking fuel is in question.
    """
    f = case.figures
    if case.verdict == "no fire":
        return "It did not fire"
    if case.verdict == "fired and died":
        return "It fired and died at once"
    limit = run_within_s(f.coolant_c)
    return f"It cranked {f.run_after_s or f.fire_after_s:.1f} s before it ran (limit {limit:g} s)"


def _by_how_late(case: Case) -> float | None:
    """Return the step for a start that caught at last: so much later, so much too lean. [–]

    Fuel that does not burn adds up on the walls, turn by turn, so that the time until it runs falls
    with the fuel by somewhat more than the inverse. None where it does not apply, or where earlier
    tries at about this temperature speak against more fuel; seconds that somebody counted are none.
    """
    after = case.figures.run_after_s
    ran = case.verdict in RAN and case.evidence == "log"
    if not ran or after is None or leaning_of(case).log_odds < _SURELY_LEAN:
        return None
    now = badness_of_cranking(case.verdict, case.figures)
    for departure, entry in case.departures("cranking_fuel"):
        then = badness_of_cranking(entry.verdict, entry.figures)
        richer_was_worse = departure > _TRIED and then > now + _WORSE_S
        leaner_was_no_worse = departure < -_TRIED and then < now + _WORSE_S
        if richer_was_worse or leaner_was_no_worse:
            return None
    wanted = _LATE_POWER * math.log(after / (_PROMPT_SHARE * run_within_s(case.figures.coolant_c)))
    least, most = math.log1p(case.setting.step), math.log1p(MEASURED_LIMIT)
    return min(most, max(least, wanted))


def never_fired(case: Case) -> bool:
    """Whether it never fired."""
    return case.verdict == "no fire"


def died_in_cranking(case: Case) -> bool:
    """Whether it fired and died while still on cranking fuel."""
    return case.verdict == "fired and died" and not died_at_handover(case)


def ran_late(case: Case) -> bool:
    """Whether it ran, but too late."""
    return case.ran_late and not case.hung and case.verdict != "fired and died"


def _air_step(ratio: float) -> float:
    """Return the change of total valve opening for a wanted speed ratio, limited. [–]"""
    limit = math.log1p(MEASURED_LIMIT)
    return min(limit, max(-limit, math.log(ratio)))


def needed_the_pedal(case: Case) -> bool:
    """Whether the driver had to open the throttle."""
    return case.verdict == "started on the pedal"


def more_cranking_air(case: Case) -> Proposal:
    """Propose one step more of valve opening while cranking."""
    step = math.log1p(case.setting.step)
    if case.verdict == "started on the pedal":
        opened = case.figures.pedal_pct
        seen = "" if opened is None else f" ({opened:.0f} % throttle)"
        because = f"It started only with the pedal{seen}: more cranking air."
    else:
        because = (
            f"It ran up to only {case.figures.flare_rpm:.0f} rpm "
            f"(target {case.figures.target_rpm:.0f}): more cranking air."
        )
    return Proposal(case.scaled("cranking_air", step, case.value("idle_valve")), because, 0.7)


def weak_run_up(case: Case) -> bool:
    """Whether it ran up too little for another reason than a low idle."""
    f = case.figures
    if f.flare_rpm is None or case.acceptance.nothing_against or case.gross_need is not None:
        return False
    if case.verdict not in ("started", "started and died"):
        return False
    weak = f.flare_rpm < f.target_rpm + _WEAK_RPM
    low_throughout = f.steady_rpm is not None and f.steady_rpm < f.flare_rpm + 60.0
    return weak and not low_throughout and case.moves("cranking_air") < 4


def _idle_air_flares(case: Case, flare_rpm: float) -> bool:
    """Whether the loop later took away air that explains the flare: the idle table's, not cranking's."""
    need = case.valve_need
    if need is None or need >= 1.0:
        return False
    idle = case.value("idle_valve")
    whole = idle + max(case.value("cranking_air"), 0.0)
    too_much = math.log(whole / max(whole - (1.0 - need) * idle, 1.0))
    wanted = math.log(flare_rpm / (case.figures.target_rpm + FLARE_GOOD_RPM))
    return too_much > _EXPLAINS_FLARE * wanted


def flared_high(case: Case) -> bool:
    """Whether it flared too high for another reason than a high idle."""
    f = case.figures
    if f.flare_rpm is None or f.flare_rpm <= f.target_rpm + FLARE_GOOD_RPM or case.wound_up:
        return False
    if "flare" not in case.acceptance.failed and case.acceptance.failed:
        return False  # within its limit: what is outside comes first
    if _idle_air_flares(case, f.flare_rpm):
        return False
    steady = f.steady_rpm if f.steady_rpm is not None else f.target_rpm
    # What an idle that is too high throughout adds to the flare is the running idle air's doing.
    high = max(0.0, steady - (f.steady_target_rpm or f.target_rpm), f.idle_off_rpm or 0.0)
    left = f.flare_rpm - high > f.target_rpm + FLARE_GOOD_RPM
    return (left or high <= SETTLED_BAND_RPM) and case.value("cranking_air") > _LEAST_AIR_PCT


def runs_up_wrong(case: Case) -> bool:
    """Whether it ran up too far, too little, or fell because of the loop: an air that is not right.

    A run-up within its limits does not explain why the engine died or dipped after it.
    """
    f = case.figures
    if f.flare_rpm is None or case.hung:
        return False  # while it hung, the loop moved the air
    above = f.flare_rpm - f.target_rpm
    return not _WEAK_RPM <= above <= FLARE_GOOD_RPM or case.loop_dip


def flared_without_air(case: Case) -> bool:
    """It flared although there is no cranking air left to take away."""
    f = case.figures
    if f.flare_rpm is None or f.flare_rpm <= f.target_rpm + FLARE_GOOD_RPM:
        return False
    off = case.steady_off_rpm
    return case.value("cranking_air") <= _LEAST_AIR_PCT and (off is None or off > -SETTLED_BAND_RPM)


def less_idle_air(case: Case) -> Proposal:
    """Propose one step less of running idle air."""
    f = case.figures
    return Proposal(
        case.scaled("idle_valve", -math.log1p(case.setting.step)),
        f"It flared to {f.flare_rpm:.0f} rpm with no cranking air left: less running idle air.",
        0.5,
    )


def dipped_by_loop(case: Case) -> bool:
    """Whether it flared, and the loop then took so much air away that speed fell too low."""
    f = case.figures
    high = f.flare_rpm is not None and f.flare_rpm > f.target_rpm + _LOOP_FLARE_RPM
    return high and case.loop_dip and case.value("cranking_air") > _LEAST_AIR_PCT


def lower_flare(case: Case) -> Proposal:
    """Propose less valve opening while cranking, so that the loop has less to take away."""
    f = case.figures
    assert f.flare_rpm is not None and f.dip_valve_pct is not None
    air = case.value("idle_valve")
    wanted = f.target_rpm + LOOP_AIM * (f.flare_rpm - f.target_rpm)
    step = case.tempered("cranking_air", _air_step(wanted / f.flare_rpm), air)
    return Proposal(
        case.scaled("cranking_air", step, air),
        f"It flared to {f.flare_rpm:.0f} rpm; the loop closed the valve to "
        f"{quantity(f.dip_valve_pct, '%', 0)} meanwhile, and speed fell to {f.dip_rpm:.0f} rpm: "
        "less cranking air.",
        0.6,
    )


def less_cranking_air(case: Case) -> Proposal:
    """Propose less valve opening while cranking, by how far it flared."""
    f = case.figures
    assert f.flare_rpm is not None
    wanted = f.target_rpm + 0.6 * FLARE_ABOVE_TARGET_RPM
    air = case.value("idle_valve")
    step = case.tempered("cranking_air", _air_step(wanted / f.flare_rpm), air)
    return Proposal(
        case.scaled("cranking_air", step, air),
        f"It flared to {f.flare_rpm:.0f} rpm, {f.flare_rpm - f.target_rpm:.0f} above the target: "
        "less cranking air.",
        0.75,
    )


def failed_at_handover(case: Case) -> bool:
    """Whether it fired in time and then died or hung on leaving cranking.

    It was the last of cranking fuel, or the first of what follows: one of the two, and not told which.
    """
    return case.hung or died_at_handover(case)


def died_at_handover(case: Case) -> bool:
    """It fired promptly and crossed the crank-to-run speed: it died on running fuel."""
    peak = case.figures.peak_rpm
    crossed = peak is not None and peak > case.setting.spec.crank_to_run_rpm
    if case.hung and case.verdict in ("fired and died", "started and died"):
        return True
    if case.verdict != "fired and died" or not crossed or not case.fired_promptly:
        return False
    return case.vain_moves("after_start_enrichment", badness_of_run_up, 100.0) < _VAIN
