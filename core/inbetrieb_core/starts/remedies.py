"""When each rule of the rulebook applies, and what it proposes then.

Every function reads one :class:`.case.Case`: conditions return a truth, proposals the
changes of the rule's one table. All of it is common practice of the trade.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..charge.idle_air import expected_stop_gps, valve_full_gps
from ..sentences import celsius, kilopascal
from ..tables import CellChange, move_by_factor, rounded
from .acceptance import (
    FLARE_ABOVE_TARGET_RPM,
    LAMBDA_BAND,
    SETTLED_BAND_RPM,
    WARM_C,
    run_within_s,
)
from .case import MEASURED_LIMIT, Case, badness_of_cranking, badness_of_run_up
from .model import STARTED


@dataclass(frozen=True)
class Proposal:
    """What a rule wants changed in this case.

    Attributes
    ----------
    changes : tuple of CellChange
        Cells of the rule's table.
    because : str
        What was seen, with its numbers.
    confidence : float
        How sure, 0 to 1. [–]
    """

    changes: tuple[CellChange, ...]
    because: str
    confidence: float


def _way(log_step: float) -> str:
    return "richer" if log_step > 0 else "leaner"


def _cranking_direction(case: Case) -> int:
    """Return which way to try first: by a hot sensor, by engine data, else richer."""
    need = case.figures.need_after_start
    if need is not None and abs(need - 1.0) > 0.2:
        return 1 if need > 1.0 else -1
    return -1 if case.suspicion("cranking_fuel") < 0 else 1


def prime_applies(case: Case) -> bool:
    """Whether it never fired and a prime shot may still be the cure."""
    shot = case.setting.spec.schools.prime == "shot" and case.value("prime_pulse") > 0.0
    return (
        case.verdict == "no fire"
        and shot
        and case.moves("prime_pulse") < 2
        and _cranking_direction(case) > 0
        and case.moves("cranking_fuel") == 0
        and case.suspicion("cranking_fuel") == 0.0
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
    """Propose more or less cranking fuel: by evidence, engine data, or a try."""
    direction = _cranking_direction(case)
    step = case.searched_step(
        "cranking_fuel",
        badness_of_cranking,
        direction=direction,
        patience=4 if case.suspicion("cranking_fuel") else 1,
    )
    f = case.figures
    tried = case.moves("cranking_fuel")
    ratio = case.value("cranking_fuel") / case.expected("cranking_fuel")
    hint = ""
    if not tried and case.suspicion("cranking_fuel"):
        hint = (
            f" The table stands {abs(100 * (ratio - 1)):.0f} % "
            f"{'below' if ratio < 1 else 'above'} what the engine data suggest."
        )
    elif tried:
        hint = f" {tried} change{'s' if tried > 1 else ''} tried here so far."
    else:
        hint = " Rich and lean cannot be told apart yet, so this is a try."
    what = {
        "no fire": "It did not fire",
        "fired and died": "It fired and died at once",
    }.get(case.verdict)
    if what is None:
        limit = run_within_s(f.coolant_c)
        what = f"It cranked {f.run_after_s or f.fire_after_s:.1f} s before it ran (limit {limit:g} s)"
    return Proposal(
        case.scaled("cranking_fuel", step),
        f"{what}: try cranking fuel {_way(step)}.{hint}",
        0.35 + (0.2 if case.suspicion("cranking_fuel") else 0.0) + 0.1 * min(tried, 2),
    )


def never_fired(case: Case) -> bool:
    """Whether it never fired."""
    return case.verdict == "no fire"


def died_in_cranking(case: Case) -> bool:
    """Whether it fired and died while still on cranking fuel."""
    return case.verdict == "fired and died" and not _died_at_handover(case)


def fired_late(case: Case) -> bool:
    """Whether it fired, but too late."""
    return case.fired_late and case.verdict != "fired and died"


def _air_step(case: Case, ratio: float) -> float:
    """Return the change of total valve opening for a wanted speed ratio, limited. [–]"""
    limit = math.log1p(2.0 * case.setting.step)
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
    if f.flare_rpm is None or case.good or case.gross_need is not None:
        return False
    if case.verdict not in ("started", "started and died"):
        return False
    weak = f.flare_rpm < f.target_rpm - 150.0
    low_throughout = f.steady_rpm is not None and f.steady_rpm < f.flare_rpm + 60.0
    return weak and not low_throughout and case.moves("cranking_air") < 4


def flared_high(case: Case) -> bool:
    """Whether it flared too high for another reason than a high idle."""
    f = case.figures
    if f.flare_rpm is None or f.flare_rpm <= f.target_rpm + FLARE_ABOVE_TARGET_RPM:
        return False
    steady = f.steady_rpm if f.steady_rpm is not None else f.target_rpm
    # An idle that is far too high throughout is the running idle air's doing.
    return f.flare_rpm - max(f.target_rpm, steady) > 200.0 and case.value("cranking_air") > 0.5


def flared_without_air(case: Case) -> bool:
    """It flared although there is no cranking air left to take away."""
    f = case.figures
    if f.flare_rpm is None or f.flare_rpm <= f.target_rpm + FLARE_ABOVE_TARGET_RPM:
        return False
    off = case.steady_off_rpm
    return case.value("cranking_air") <= 0.5 and (off is None or off > -SETTLED_BAND_RPM)


def less_idle_air(case: Case) -> Proposal:
    """Propose one step less of running idle air."""
    f = case.figures
    return Proposal(
        case.scaled("idle_valve", -math.log1p(case.setting.step)),
        f"It flared to {f.flare_rpm:.0f} rpm with no cranking air left: less running idle air.",
        0.5,
    )


def less_cranking_air(case: Case) -> Proposal:
    """Propose less valve opening while cranking, by how far it flared."""
    f = case.figures
    assert f.flare_rpm is not None
    wanted = f.target_rpm + 0.6 * FLARE_ABOVE_TARGET_RPM
    step = _air_step(case, wanted / f.flare_rpm)
    return Proposal(
        case.scaled("cranking_air", step, case.value("idle_valve")),
        f"It flared to {f.flare_rpm:.0f} rpm, {f.flare_rpm - f.target_rpm:.0f} above the target: "
        "less cranking air.",
        0.75,
    )


def _died_at_handover(case: Case) -> bool:
    """It fired promptly and crossed the crank-to-run speed: it died on running fuel."""
    peak = case.figures.peak_rpm
    crossed = peak is not None and peak > case.setting.spec.crank_to_run_rpm
    if case.verdict != "fired and died" or not crossed or not case.fired_promptly:
        return False
    # A cranking table far from what engine data suggest is looked at first, and again when
    # after-start fuel has brought nothing.
    if case.suspicion("cranking_fuel") != 0.0:
        return case.vain_moves("cranking_fuel", badness_of_cranking) >= 4
    return case.vain_moves("after_start_enrichment", badness_of_run_up) < 3


def _starved(case: Case) -> bool:
    """Whether a stall after the start looks like too little running idle air, not fuel."""
    f = case.figures
    if case.verdict != "started and died" or case.gross_need is not None:
        return False
    fuel = case.value("warm_up_enrichment") * (100.0 + case.value("after_start_enrichment"))
    usual = case.expected("warm_up_enrichment") * (100.0 + case.expected("after_start_enrichment"))
    for_fuel = abs(math.log(usual / fuel))
    for_air = max(0.0, case.suspicion("idle_valve"))
    # Caught well, and died only as the cranking air faded: air rather than fuel.
    caught = f.flare_rpm is not None and f.flare_rpm >= f.target_rpm and (f.ran_s or 0.0) > 3.0
    for_air += 0.1 if caught else -0.1
    off = case.steady_off_rpm
    if off is not None and off < -0.2 * f.target_rpm:
        for_air += 0.4  # it ran for long, far too slowly
    for_fuel -= 0.1 * case.vain_moves("after_start_enrichment", badness_of_run_up)
    for_air -= 0.1 * case.vain_moves("idle_valve", badness_of_run_up)
    return for_air > for_fuel and case.value("idle_valve") < 99.0


def after_start_applies(case: Case) -> bool:
    """Whether fuel right after the start does not match."""
    f = case.figures
    if case.gross_need is not None and case.verdict != "fired and died":
        return False  # the warm-up under it is measured and far off: that explains this
    if _died_at_handover(case):
        return True
    if case.verdict == "started and died":
        return not _starved(case)
    if case.verdict not in STARTED:
        return False
    off = f.need_after_start is not None and abs(f.need_after_start - 1.0) > 2 * LAMBDA_BAND
    # After changes that brought nothing the next phase gets its turn.
    in_vain = case.vain_moves("after_start_enrichment", badness_of_run_up) >= 4
    return off or (case.dipped and not in_vain)


def warm_up_suspected(case: Case) -> bool:
    """It dies on running fuel, and of the two tables the warm-up is the one far off."""
    return (
        after_start_applies(case)
        and case.figures.need_after_start is None
        and case.gross_need is None
        and case.suspicion("after_start_enrichment") == 0.0
        and case.suspicion("warm_up_enrichment") != 0.0
    )


def towards_engine_data(case: Case) -> Proposal:
    """Propose the warm-up one double step towards what engine data suggest."""
    suspicion = case.suspicion("warm_up_enrichment")
    limit = math.log1p(2.0 * case.setting.step)
    step = min(limit, max(-limit, suspicion))
    ratio = case.value("warm_up_enrichment") / case.expected("warm_up_enrichment")
    return Proposal(
        case.scaled("warm_up_enrichment", step),
        f"It does not survive on running fuel, and the warm-up stands {abs(100 * (ratio - 1)):.0f} % "
        f"{'below' if ratio < 1 else 'above'} what the engine data suggest: "
        f"{'more' if step > 0 else 'less'} warm-up enrichment.",
        0.55,
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
        # A hot engine needs hardly any, a cold one more often too little than too much.
        hot = f.coolant_c >= WARM_C and not case.suspicion("after_start_enrichment") > 0
        direction = -1 if hot or case.suspicion("after_start_enrichment") < 0 else 1
        step = case.searched_step(
            "after_start_enrichment",
            badness_of_run_up,
            direction=direction,
            offset=100.0,
            tolerance=1.2,
            patience=4 if case.suspicion("after_start_enrichment") else 2,
        )
        if case.verdict in ("started and died", "fired and died"):
            because = "It caught, then petered out when it left cranking fuel"
        else:
            because = (
                f"It dipped to {f.dip_rpm:.0f} rpm after the start "
                f"(target {f.target_rpm:.0f}) while lambda could not be read"
            )
        sure = 0.5
    changes = case.scaled("after_start_enrichment", step, 100.0)
    return Proposal(
        changes,
        f"{because}: {'more' if step > 0 else 'less'} after-start enrichment.",
        sure,
    )


def below_none(case: Case) -> bool:
    """A cold engine never needs less fuel than a warm one, nor a warm one any enrichment."""
    value = case.value("warm_up_enrichment")
    cold = case.figures.coolant_c < WARM_C
    return value < 99.0 or (not cold and value > 103.0)


def neutral_warm_up(case: Case) -> Proposal:
    """Propose 100 %, which means none."""
    value = case.value("warm_up_enrichment")
    return Proposal(
        case.moved("warm_up_enrichment", 100.0 - value),
        f"Warm-up enrichment is {value:.0f} % at {celsius(case.figures.coolant_c)}; 100 means none, "
        + ("and a cold engine never needs less" if value < 100 else "and a warm engine needs none")
        + ": set it to 100 first.",
        0.9,
    )


def _no_enrichment_left(case: Case) -> bool:
    """Whether the engine is rich although there is no warm-up enrichment to take away."""
    need = case.figures.need_settled
    return need is not None and need < 1.0 and case.steady_value("warm_up_enrichment") * need < 97.0


def warm_up_applies(case: Case) -> bool:
    """Whether the settled mixture of a cold engine is off."""
    need = case.figures.need_settled
    cold = case.figures.coolant_c < WARM_C
    if not cold or need is None or abs(need - 1.0) <= LAMBDA_BAND:
        return False
    return not _no_enrichment_left(case) or case.steady_value("warm_up_enrichment") > 103.0


def change_warm_up(case: Case) -> Proposal:
    """Propose the measured warm-up enrichment."""
    need = case.figures.need_settled
    assert need is not None
    limit = math.log1p(MEASURED_LIMIT)
    step = min(limit, max(-limit, math.log(need)))
    now = case.steady_value("warm_up_enrichment")
    delta = max(now * math.exp(step), 100.0) - now
    return Proposal(
        case.moved("warm_up_enrichment", delta, case.steady_coolant_c),
        f"Once it ran steadily, lambda showed {abs(100 * (need - 1)):.0f} % too "
        f"{'lean' if need > 1 else 'rich'}: {'more' if step > 0 else 'less'} warm-up enrichment.",
        0.85,
    )


def warm_fuel_applies(case: Case) -> bool:
    """Whether the mixture is off where no start table acts."""
    f = case.figures
    return (
        (f.coolant_c >= WARM_C or _no_enrichment_left(case))
        and f.need_settled is not None
        and abs(f.need_settled - 1.0) > LAMBDA_BAND
        and f.steady_map_kpa is not None
        and f.steady_rpm is not None
    )


def correct_warm_fuel(case: Case) -> Proposal:
    """Propose the measured fuel where the engine idles."""
    f = case.figures
    assert f.need_settled and f.steady_rpm is not None and f.steady_map_kpa is not None
    limit = math.log1p(MEASURED_LIMIT)
    factor = math.exp(min(limit, max(-limit, math.log(f.need_settled))))
    table = case.calibration["ve"]
    load = 0.0 if table.by_throttle else f.steady_map_kpa
    return Proposal(
        rounded(table, move_by_factor(table, factor, f.steady_rpm, load)),
        f"Without enrichment, at {f.steady_rpm:.0f} rpm and {kilopascal(f.steady_map_kpa)}, lambda shows "
        f"{abs(100 * (f.need_settled - 1)):.0f} % too {'lean' if f.need_settled > 1 else 'rich'}: "
        "correct the fuel table where it idles.",
        0.8,
    )


def idle_off(case: Case) -> bool:
    """Whether the steady speed is off its target, or it starved."""
    if _starved(case):
        return True
    off = case.steady_off_rpm
    return off is not None and abs(off) > SETTLED_BAND_RPM


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
    spec = case.setting.spec
    valve = valve_full_gps(spec) * case.value("idle_valve") / 100.0
    stop = expected_stop_gps(spec)
    return 0.85 * valve / max(valve + stop, 1e-6)


def change_idle_valve(case: Case) -> Proposal:
    """Propose the idle air that the steady speed asks for."""
    f = case.figures
    if case.steady_off_rpm is None:
        step = math.log1p(2.0 * case.setting.step)
        return Proposal(
            case.scaled("idle_valve", step),
            "It caught and ran, then died as the cranking air faded: more running idle air.",
            0.5,
        )
    assert f.steady_rpm and f.steady_target_rpm
    limit = math.log1p(MEASURED_LIMIT)
    wanted = math.log(f.steady_target_rpm / f.steady_rpm) / max(_idle_gain(case), 0.25)
    step = min(limit, max(-limit, wanted))
    return Proposal(
        case.scaled("idle_valve", step, at_c=case.steady_coolant_c),
        f"It idles at {f.steady_rpm:.0f} rpm, {abs(case.steady_off_rpm):.0f} "
        f"{'below' if case.steady_off_rpm < 0 else 'above'} its target of "
        f"{f.steady_target_rpm:.0f}: {'more' if step > 0 else 'less'} idle air.",
        0.8,
    )
