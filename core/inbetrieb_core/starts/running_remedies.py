"""When each rule of the running engine applies, and what it proposes then; see the cranking ones."""

from __future__ import annotations

import math

import numpy as np

from ..charge.idle_air import idle_gain
from ..estimate import HOT_C, NONE_PCT, changes_to
from ..sentences import celsius, kilopascal, quantity
from ..tables import CellChange, move_by_factor, rounded
from .acceptance import (
    LAMBDA_BAND,
    SETTLED_BAND_RPM,
    WARM_C,
)
from .case import MEASURED_LIMIT, Case, badness_of_run_up
from .cranking_remedies import failed_at_handover
from .outcomes import DIED, STARTED
from .proposal import Proposal
from .rich_or_lean import running_direction

#: What having caught well says for air, where nothing says what the valve passed, and where a log
#: does. [ln]
_CAUGHT_SEEN, _CAUGHT_LOGGED = 0.12, 0.05
#: What an engine that is warm, but not hot, may need beyond the fuel map. [ln]
_FEW_PERCENT = 0.1
#: Running for this share of the after-start's fade is having outlived it.
_OUTLIVED_SHARE = 0.6


def _starved(case: Case) -> bool:
    """Whether a stall after the start looks like too little running idle air, not fuel."""
    f = case.figures
    if case.verdict != "started and died" or case.gross_need is not None:
        return False
    # How far each stands below the engine data says which is looked at first.
    for_air = case.short_of_data("idle_valve")
    for_fuel = 0.1 + case.short_of_data("warm_up_enrichment")
    for_fuel += case.short_of_data("after_start_enrichment", 100.0)
    # Caught well, and died only as the cranking air faded: air rather than fuel.
    caught = f.flare_rpm is not None and f.flare_rpm >= f.target_rpm and (f.ran_s or 0.0) > 3.0
    likely = _CAUGHT_SEEN if case.evidence == "observation" else _CAUGHT_LOGGED
    for_air += likely if caught else -0.1
    off = case.steady_off_rpm
    if off is not None and off < -0.2 * f.target_rpm:
        for_air += 0.4  # it ran for long, far too slowly
    for_fuel -= 0.1 * case.vain_moves("after_start_enrichment", badness_of_run_up, 100.0)
    for_air -= 0.1 * case.vain_moves("idle_valve", badness_of_run_up)
    return for_air > for_fuel and case.value("idle_valve") < 99.0


def after_start_applies(case: Case) -> bool:
    """Whether fuel right after the start does not match."""
    f = case.figures
    if case.gross_need is not None and case.verdict != "fired and died":
        return False  # the warm-up under it is measured and far off: that explains this
    if failed_at_handover(case):
        return True
    if case.verdict == "started and died":
        return not _starved(case)
    if case.verdict not in STARTED:
        return False
    off = f.need_after_start is not None and abs(f.need_after_start - 1.0) > 2 * LAMBDA_BAND
    # After changes that brought nothing the next phase gets its turn.
    in_vain = case.vain_moves("after_start_enrichment", badness_of_run_up, 100.0) >= 4
    return off or (case.dipped and not in_vain)


def outlived_after_start(case: Case) -> bool:
    """Whether it died only when the after-start enrichment had nearly faded: running fuel."""
    f = case.figures
    if case.verdict != "started and died" or f.ran_s is None or _starved(case):
        return False
    if f.need_settled is not None or f.coolant_c >= WARM_C:
        return False
    return f.ran_s > _OUTLIVED_SHARE * case.value("after_start_fade")


def search_warm_up(case: Case) -> Proposal:
    """Propose more or less warm-up enrichment, by search: more first."""
    step = case.searched_step(
        "warm_up_enrichment",
        badness_of_run_up,
        direction=running_direction(case),
        tolerance=1.2,
        patience=2,
    )
    return Proposal(
        case.scaled("warm_up_enrichment", step),
        f"It ran {case.figures.ran_s:.0f} s and died when the after-start enrichment had nearly "
        f"faded: {'more' if step > 0 else 'less'} warm-up enrichment.",
        0.5,
    )


def change_after_start(case: Case) -> Proposal:
    """Propose more or less after-start enrichment: as measured, or by search."""
    f = case.figures
    need = f.need_after_start if f.need_after_start is not None else case.gross_need
    if need is not None and abs(need - 1.0) > LAMBDA_BAND:
        limit = math.log1p(MEASURED_LIMIT)
        step = min(limit, max(-limit, math.log(need)))
        because = (
            f"Lambda after the start says {abs(100 * (need - 1)):.0f} % too "
            f"{'lean' if need > 1 else 'rich'}"
        )
        sure = 0.8
    else:
        direction = running_direction(case)
        step = case.searched_step(
            "after_start_enrichment",
            badness_of_run_up,
            direction=direction,
            offset=100.0,
            tolerance=1.2,
            patience=2,
        )
        because = how_it_ran_up(case)
        sure = 0.5
    changes = case.scaled("after_start_enrichment", step, 100.0)
    return Proposal(
        changes,
        f"{because}: {'more' if step > 0 else 'less'} after-start enrichment.",
        sure,
    )


def how_it_ran_up(case: Case) -> str:
    """Return how the first seconds went, as the beginning of a sentence.

    Parameters
    ----------
    case : Case
        A start whose fuel after it is in question.
    """
    f = case.figures
    if case.hung and f.left_after_s is not None:
        return (
            f"It left cranking after {quantity(f.left_after_s, 's', 1)} and then hung at a low speed, "
            "on the fuel that follows cranking"
        )
    if case.verdict in DIED:
        return "It caught, then petered out when it left cranking fuel"
    if not case.dipped or f.dip_rpm is None:
        return "Lambda right after the start was off"
    unread = "" if f.need_after_start is not None else " while lambda could not be read"
    return f"It dipped to {f.dip_rpm:.0f} rpm after the start (target {f.target_rpm:.0f}){unread}"


def contradicts_itself(case: Case) -> bool:
    """Whether warm-up enrichment stands below none: no cause under the bonnet explains that."""
    return case.value("warm_up_enrichment") < 97.0


def neutral_warm_up(case: Case) -> Proposal:
    """Propose 100 %, which means none, wherever the table stands below it."""
    value, table = case.value("warm_up_enrichment"), case.calibration["warm_up_enrichment"]
    return Proposal(
        changes_to(table, np.full(table.values.shape, NONE_PCT), table.values < NONE_PCT),
        f"Warm-up enrichment is {value:.0f} % at {celsius(case.figures.coolant_c)}; 100 means none, "
        "and no engine needs less than a hot one: set it to 100 first.",
        0.9,
    )


def _no_enrichment_left(case: Case) -> bool:
    """Whether the engine is rich although there is no warm-up enrichment to take away."""
    need, value = (
        case.mixture_need,
        case.calibration.at_coolant("warm_up_enrichment", case.mixture_coolant_c),
    )
    return need is not None and need < 1.0 and value * need < 97.0


def warm_up_applies(case: Case) -> bool:
    """Whether the mixture is off, and warm-up enrichment is what acts there."""
    need = case.mixture_need
    if need is None:
        return False
    if _no_enrichment_left(case):
        return False  # less than none is the fuel map's to mend
    value = case.calibration.at_coolant("warm_up_enrichment", case.mixture_coolant_c)
    if case.figures.coolant_c >= WARM_C:
        if case.mixture_coolant_c < HOT_C and abs(math.log(need)) < _FEW_PERCENT:
            return True  # not hot yet: a few per cent are its own last need, not the fuel map's
        # It still enriches or leans a warm engine, and just that is what is off.
        return abs(value - 100.0) > 4.0 and abs(value * need - 100.0) < abs(value - 100.0)
    return not _no_enrichment_left(case) or value > 103.0


def change_warm_up(case: Case) -> Proposal:
    """Propose the measured warm-up enrichment."""
    need = case.mixture_need
    assert need is not None
    return Proposal(
        _warm_up_at_one_place(case, need),
        f"Once it ran steadily, lambda showed {abs(100 * (need - 1)):.0f} % too "
        f"{'lean' if need > 1 else 'rich'}: {'more' if need > 1 else 'less'} warm-up enrichment.",
        0.85,
    )


def _warm_up_at_one_place(case: Case, need: float) -> tuple[CellChange, ...]:
    limit = math.log1p(MEASURED_LIMIT)
    step = min(limit, max(-limit, math.log(need)))
    now = case.calibration.at_coolant("warm_up_enrichment", case.mixture_coolant_c)
    delta = max(now * math.exp(step), 95.0) - now
    return case.moved("warm_up_enrichment", delta, case.mixture_coolant_c)


def warm_fuel_applies(case: Case) -> bool:
    """Whether the mixture is off where no start table acts."""
    f = case.figures
    return (
        (f.coolant_c >= WARM_C or _no_enrichment_left(case))
        and not warm_up_applies(case)
        and case.mixture_need is not None
        and f.steady_map_kpa is not None
        and f.steady_rpm is not None
    )


def correct_warm_fuel(case: Case) -> Proposal:
    """Propose the measured fuel where the engine idles."""
    f = case.figures
    need = case.mixture_need
    assert need and f.steady_rpm is not None and f.steady_map_kpa is not None
    limit = math.log1p(MEASURED_LIMIT)
    factor = math.exp(min(limit, max(-limit, math.log(need))))
    table = case.calibration["ve"]
    load = 0.0 if table.by_throttle else f.steady_map_kpa
    return Proposal(
        rounded(table, move_by_factor(table, factor, f.steady_rpm, load)),
        f"Without enrichment, at {f.steady_rpm:.0f} rpm and {kilopascal(f.steady_map_kpa)}, lambda shows "
        f"{abs(100 * (need - 1)):.0f} % too {'lean' if need > 1 else 'rich'}: "
        "correct the fuel table where it idles.",
        0.8,
    )


def idle_off(case: Case) -> bool:
    """Whether the steady speed is off its target, or it starved."""
    if _starved(case):
        return True
    return case.idle_to_mend_rpm is not None


def loop_holds_idle(case: Case) -> bool:
    """Whether it idled well or dipped while the loop held the valve away from its table."""
    need = case.figures.need_settled
    mixture_right = need is None or abs(need - 1.0) <= LAMBDA_BAND
    held = case.valve_need is not None and case.verdict in STARTED
    # An engine that hung comes first, and a mixture that is all that failed: the air of its idle is measured by the way.
    other = case.hung or case.acceptance.failed == ("mixture",)
    return held and mixture_right and not other and not _settles_off(case)


def _settles_off(case: Case) -> bool:
    off = case.steady_off_rpm
    return off is None or abs(off) > SETTLED_BAND_RPM


def take_valve_as_held(case: Case) -> Proposal:
    """Propose the opening at which the loop held the speed."""
    need, f = case.valve_need, case.figures
    assert need is not None and f.idle_valve_pct is not None
    step = math.log(need)
    return Proposal(
        case.scaled("idle_valve", step, at_c=case.steady_coolant_c),
        f"Idle took {f.idle_valve_pct:.0f} % of valve where the table has "
        f"{case.steady_value('idle_valve'):.0f} %: the loop hides it, and until it acts the engine "
        f"{'starves' if step > 0 else 'runs on'}.",
        0.85,
    )


def _idle_gain(case: Case) -> float:
    """Return d ln(speed) / d ln(opening): from earlier tries, else from the sizes of valve and stop."""
    f = case.figures
    if f.steady_rpm is not None:
        for entry in reversed(case.earlier()):
            past, opening = entry.figures.steady_rpm, entry.start_values.get("idle_valve")
            if not past or not opening or not case.value("idle_valve"):
                continue
            moved = math.log(case.value("idle_valve") / opening)
            if abs(moved) > 0.03:
                return min(1.0, max(0.25, math.log(f.steady_rpm / past) / moved))
    return idle_gain(case.setting.spec, case.value("idle_valve"))


def change_idle_valve(case: Case) -> Proposal:
    """Propose the idle air that the speed asks for, from where the valve really stood."""
    f = case.figures
    off = case.idle_to_mend_rpm
    if off is None or f.steady_target_rpm is None:
        step = math.log1p(2.0 * case.setting.step)
        return Proposal(
            case.scaled("idle_valve", step),
            "It caught and ran, then died as the cranking air faded: more running idle air.",
            0.5,
        )
    speed = max(f.steady_target_rpm + off, 200.0)
    wanted = math.log(f.steady_target_rpm / speed) / _idle_gain(case)
    wanted += math.log(case.valve_need or 1.0)
    limit = math.log1p(MEASURED_LIMIT)
    step = case.tempered("idle_valve", min(limit, max(-limit, wanted)))
    return Proposal(
        case.scaled("idle_valve", step, at_c=case.idle_coolant_c),
        f"It idles at {speed:.0f} rpm, {abs(off):.0f} {'below' if off < 0 else 'above'} its target "
        f"of {f.steady_target_rpm:.0f}: {'more' if step > 0 else 'less'} idle air.",
        0.8,
    )
