"""What one start taught of the start tables, as evidence for the estimate."""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np

from ..causes import Stretch
from ..charge import expected_start_value
from ..charge.idle_air import idle_gain, idle_valve_pct
from ..estimate import (
    COORDINATES,
    CrankingOutcome,
    Evidence,
    RunUpOutcome,
    basis_of,
)
from .acceptance import run_within_s
from .case import Case
from .cranking_remedies import LOOP_AIM, dipped_by_loop, failed_at_handover
from .given_back import GIVEN_BACK_SPREAD, lasts_by_what_came_back
from .outcomes import RAN, STARTED
from .rich_or_lean import run_up_log_odds, seen_beside, signs_of
from .steady_readings import (
    MIXTURE,
    fuel_map_place,
    idle_air_readings,
    settled_stretches,
    warm_up_readings,
)

#: Flares that are as wanted, seen from the target; the opening that a flare asks for. [1/min, ln]
_WANTED_FLARE_RPM, _FLARE_TELLS, _FLARE_RIGHT = (80.0, 370.0), 0.15, 0.35
#: More than this a valve cannot open. [%]
_WIDE_OPEN_PCT = 100.0
#: How well a dip that the loop made tells the opening. [ln]
_LOOP_TELLS = 0.2
#: Where a flare that was too low, and one that was too high, should come to, seen from the target; a
#: start this many limits late says nothing of air. [1/min, –]
_FLARE_AIM, _FAR_TOO_LATE = (135.0, 292.5), 1.3
#: How much more the opening has to change than the flare: fuel and inertia have their part in it. [–]
_OPENING_BY_FLARE = 1.7
#: A start that caught late was lean rather than rich, and so was one without any sign: more fuel is
#: what the trade tries first. [log odds]
_CAUGHT_AT_LAST, _NO_SIGN = 1.0, 0.0
#: Above this a restart stands on heat that soaked into rail and intake: it says nothing of colder ones. [°C]
HEAT_SOAKED_C = 92.0
#: A start within this share of the limit was prompt. [–]
_PROMPT_SHARE = 0.65
#: Outcomes of the starter and the crank signal say nothing of fuel.
_NOT_FUEL = ("no sync", "slow crank", "no crank")


def taught_by(case: Case) -> tuple[Evidence, ...]:
    """Return what a start taught, each with its error.

    Parameters
    ----------
    case : Case
        A start without a cause under the bonnet.
    """
    basis = basis_of(case.setting.spec)
    found = [*_cranking(case, basis), *_opening(case, basis)]
    found += [*_run_up_fuel(case, basis), *_fade_too_short(case, basis)]
    if case.verdict in STARTED and case.evidence == "log":
        found += [
            *warm_up_readings(case, basis),
            *idle_air_readings(case, basis),
            *_after_start(case, basis),
        ]
    return tuple(found)


def _cranking(case: Case, basis: str) -> Iterator[Evidence]:
    f = case.figures
    if case.verdict in _NOT_FUEL or f.coolant_c > HEAT_SOAKED_C:
        return
    handover = failed_at_handover(case)
    # Cranking fuel decides when it leaves cranking; how it goes on from there is what follows.
    ran, after = case.verdict in RAN and not case.hung, f.left_after_s or f.run_after_s
    # On a wet manifold it hangs on the walls that cranking left dry as much as on what follows.
    shared = handover and case.setting.spec.wet_manifold and case.verdict in STARTED
    # A person's count of a prompt start says that it was prompt; a log says how many charges it took.
    counted, prompt_s = case.evidence == "observation", _PROMPT_SHARE * run_within_s(f.coolant_c)
    if shared:
        handover, ran, after = False, True, f.run_after_s
    if case.verdict == "started on the pedal":
        after = None  # the foot started it: only that there was fuel to burn
    prompt = counted and after is not None and after < prompt_s
    outcome = CrankingOutcome(
        case.value("cranking_fuel") * case.cranked_share,
        case.value("prime_pulse"),
        ran,
        prompt_s if prompt else after,
        f.cranked_s,
        0.0 if handover else (0.5 if shared else 1.0) * _lean_log_odds(case, ran),
        case.value("idle_valve") + case.value("cranking_air"),
        counted,
        prompt,
        handover,
        case.setting.attempt,
        shared,
        case.thinner,
    )
    yield Evidence(
        "cranking_fuel", "outcome", f.coolant_c, outcome.fuel_pct, 0.0, basis, outcome=outcome
    )


def _lean_log_odds(case: Case, ran: bool) -> float:
    """Return how much likelier too little fuel is than too much, where it was the one or the other."""
    if ran:
        return _CAUGHT_AT_LAST + seen_beside(case)[0]
    odds, seen = signs_of(case)
    return odds if seen else _NO_SIGN


def _opening(case: Case, basis: str) -> Iterator[Evidence]:
    """Yield the opening while cranking that the flare asks for."""
    f = case.figures
    late = f.run_after_s is not None and f.run_after_s > _FAR_TOO_LATE * run_within_s(f.coolant_c)
    ran = case.verdict in ("started", "started and died")
    if f.flare_rpm is None or not ran or case.wound_up or (late and not case.hung):
        return
    opening = case.value("idle_valve") + case.value("cranking_air")
    opening = min(max(opening, 1.0), _WIDE_OPEN_PCT)
    low, high = (f.target_rpm + side for side in _WANTED_FLARE_RPM)
    if dipped_by_loop(case):
        aim = f.target_rpm + LOOP_AIM * (f.flare_rpm - f.target_rpm)
        needed = opening * (aim / f.flare_rpm) ** _OPENING_BY_FLARE
        yield Evidence("cranking_air", "measured", f.coolant_c, needed, _LOOP_TELLS, basis)
        return
    if low <= f.flare_rpm <= high:
        yield Evidence("cranking_air", "bounded", f.coolant_c, opening, _FLARE_RIGHT, basis)
        return
    aim = f.target_rpm + (_FLARE_AIM[1] if f.flare_rpm > high else _FLARE_AIM[0])
    needed = min(opening * (aim / f.flare_rpm) ** _OPENING_BY_FLARE, _WIDE_OPEN_PCT)
    yield Evidence("cranking_air", "measured", f.coolant_c, needed, _FLARE_TELLS, basis)


#: Amplitudes and fades that are tried, and until when a rest of after-start is looked for. [ln, s, s]
_AMPLITUDES = np.linspace(0.0, 0.9, 46)
_FADES_S = np.geomspace(3.0, 70.0, 40)
_UNTIL_S = 60.0
#: From here on hardly a rest of the after-start need is left even in the cold (common practice). [s]
_TAIL_S = 35.0
#: The warm need is read from so many stretches after that; how much steeper over temperature than the
#: engine data say it may be. [–, 1/K]
_LEVEL_OF, _SLOPE = 8, 0.01
#: How well that slope is known. [1/K]
_SLOPE_KNOWN = 0.004
#: A table that gives after-start enrichment so much longer than any need was seen lasts too long. [s, ln]
_ENDED_S, _ENDED_SPREAD = 3.0, 0.2
#: The amplitude is read where the sensor lives in this share of the fade. [–]
_EARLY_SHARE = 0.35
#: An idle that sags as the after-start enrichment ends (common practice, no source): from which share of its fade until how long
#: after it, and how far below its target; how much longer it should last. [–, s, 1/min, –, ln]
_ENDS_FROM, _ENDS_AFTER_S, _SAGS_RPM = 0.6, 5.0, 55.0
_LONGER, _LONGER_SPREAD = 1.45, 0.22
#: By then it has recovered, and how well a start that ran up well is known to have had enough, seen
#: from the engine data's width. [s, –]
_RECOVERS_BY_S, _RAN_UP_SHARE = 25.0, 0.6


def _after_start(case: Case, basis: str) -> Iterator[Evidence]:
    """Yield amplitude and fade that the mixture asks for while the after-start need fades."""
    settled = settled_stretches(case)
    early = [
        s
        for s in case.observed.stretches
        if s.total is not None and s.after_s < _UNTIL_S and s.after_s > 1.0
    ]
    if len(settled) < 2 or len(early) < 2:
        return
    spec, coolant_c = case.setting.spec, case.figures.coolant_c

    def expected_ln(at_c: float) -> float:
        return math.log(expected_start_value(spec, "warm_up_enrichment", at_c))

    late = [s for s in settled if s.after_s > _TAIL_S]
    first = (late if len(late) > 1 else settled[-3:])[:_LEVEL_OF]
    off = np.array([(s.total or 0.0) - expected_ln(s.coolant_c) for s in first])
    level, slope, place = _line(np.array([s.coolant_c for s in first]), off)
    after = np.array([s.after_s for s in early])
    clock = np.array([s.clock_s for s in early])
    rest = np.array(
        [
            (s.total or 0.0)
            + s.after_start
            - expected_ln(s.coolant_c)
            - level
            - slope * (s.coolant_c - place)
            for s in early
        ]
    )
    shape = case.setting.fading.left(clock[None, :], _FADES_S[:, None])
    off = rest[None, None, :] - np.log1p(np.expm1(_AMPLITUDES)[:, None, None] * shape[None])
    # Far from where the warm need was read its slope counts.
    far = _SLOPE_KNOWN * (np.array([s.coolant_c for s in early]) - place)
    weight = -0.5 * (off**2 / (MIXTURE**2 + far**2)).sum(axis=2) / max(1.0, len(early) / 4.0)
    believed, wide = _amplitude_beforehand(case)
    log_p = weight - 0.5 * (((_AMPLITUDES - believed) / wide) ** 2)[:, None]
    share = np.exp(log_p - log_p.max())
    share /= share.sum()
    amplitude, error = _moments(_AMPLITUDES, share.sum(axis=1))
    if clock.min() < _EARLY_SHARE * case.value("after_start_fade") and error < 0.8 * wide:
        value = float(COORDINATES["after_start_enrichment"].from_scale(amplitude))
        yield Evidence("after_start_enrichment", "measured", coolant_c, value, error, basis)
    in_force, first_s = case.value("after_start_fade"), float(clock.min())
    if (rest > 2.0 * np.hypot(MIXTURE, far))[after < _TAIL_S].any():
        fade, error = _moments(np.log(_FADES_S), share.sum(axis=0))
        value = float(COORDINATES["after_start_fade"].from_scale(fade))
        yield Evidence("after_start_fade", "measured", coolant_c, value, max(error, 0.1), basis)
    elif (lasts := _by_what_came_back(case, after, rest)) is not None:
        yield Evidence("after_start_fade", "measured", coolant_c, lasts, GIVEN_BACK_SPREAD, basis)
    elif in_force > first_s + _ENDED_S:
        # Nothing of it is needed where the table still gives some; how much sooner is not told.
        yield Evidence("after_start_fade", "bounded", coolant_c, first_s, _ENDED_SPREAD, basis)


def _by_what_came_back(case: Case, after_s: np.ndarray, rest: np.ndarray) -> float | None:
    """Return how long after-start should have lasted by what the walls gave back, None if not told. [s]"""
    if case.ran_late:  # as one that hung did
        return None  # it comes from what was given until it ran
    given = COORDINATES["after_start_enrichment"].to_scale(case.value("after_start_enrichment"))
    fading, fade_s = case.setting.fading, case.value("after_start_fade")
    return lasts_by_what_came_back(after_s, rest, float(given), fading, fade_s)


def _line(coolant_c: np.ndarray, off: np.ndarray) -> tuple[float, float, float]:
    """Return how far the warm need is off the engine data: at a place, its slope, and the place.

    An engine whose need falls faster with temperature than the data say needs more in the first
    seconds than later stretches say, and not because of the start. [–, 1/K, °C]
    """
    place = float(coolant_c.mean())
    apart = coolant_c - place
    ridge = (MIXTURE / _SLOPE) ** 2
    slope = float((apart * (off - off.mean())).sum() / ((apart**2).sum() + ridge))
    return float(np.median(off - slope * apart)), slope, place


def _amplitude_beforehand(case: Case) -> tuple[float, float]:
    """Return what is believed of the amplitude before the mixture was read, and how surely. [ln]

    An engine that ran up well had about the fuel it needs; else the engine data are all there is.
    """
    coordinate, coolant_c = COORDINATES["after_start_enrichment"], case.figures.coolant_c
    wide = float(coordinate.spread_at(np.array([coolant_c]))[0])
    if case.verdict == "started" and not case.dipped:
        given = coordinate.to_scale(case.value("after_start_enrichment"))
        return float(given), _RAN_UP_SHARE * wide
    expected = expected_start_value(case.setting.spec, "after_start_enrichment", coolant_c)
    return float(coordinate.to_scale(expected)), wide


def _moments(values: np.ndarray, share: np.ndarray) -> tuple[float, float]:
    mean = float((values * share).sum())
    return mean, max(float(((values - mean) ** 2 * share).sum()) ** 0.5, 0.02)


def _run_up_fuel(case: Case, basis: str) -> Iterator[Evidence]:
    """Yield how the engine lived through its first seconds, where that was a matter of fuel."""
    f, fade = case.figures, case.value("after_start_fade")
    died_early = case.verdict == "started and died" and (f.ran_s or 0.0) < _ENDS_FROM * fade
    handover = failed_at_handover(case)
    died = died_early or handover
    lived = case.verdict == "started" and not case.ran_late and not case.loop_dip
    if not (died or lived):
        return
    air_short = (case.valve_need or 1.0) > 1.1 or _starved_of_air(case)
    if air_short and not handover and (died or case.dipped):
        return  # it may as well have lacked air
    fall = None if f.dip_rpm is None else max(0.0, 1.0 - f.dip_rpm / f.target_rpm)
    outcome = RunUpOutcome(
        case.value("after_start_enrichment"),
        case.value("warm_up_enrichment"),
        died,
        None if died else fall,
        case.hung_s,
        run_up_log_odds(case) if died or case.dipped else 0.0,
        case.evidence == "observation",
        handover,
        0.0 if f.flare_rpm is None else f.flare_rpm / f.target_rpm - 1.0,
    )
    place = fuel_map_place(case, settled_stretches(case))
    yield Evidence(
        "after_start_enrichment", "outcome", f.coolant_c, outcome.after_start_pct, 0.0, basis,
        None, place, run_up=outcome,
    )  # fmt: skip


def _starved_of_air(case: Case) -> bool:
    """Say whether it ran up too little for the air to have been enough."""
    f = case.figures
    return f.flare_rpm is not None and f.flare_rpm < f.target_rpm


def _fade_too_short(case: Case, basis: str) -> Iterator[Evidence]:
    """Yield a longer fade where the engine sagged or died just as the enrichment ended."""
    fade, f = case.value("after_start_fade"), case.figures
    if case.verdict not in ("started", "started and died") or not 3.0 < fade < _TAIL_S:
        return
    if f.lambda_usable_from_s is not None and (f.need_after_start or 1.0) < 1.0:
        return  # it was read, and was rich
    if case.verdict == "started and died":
        sagged = f.ran_s is not None and _ENDS_FROM * fade < f.ran_s < fade + _ENDS_AFTER_S
    else:
        sagged = _sags_as_it_ends(case, fade)
    if sagged:
        value = min(_LONGER * fade, _TAIL_S)
        yield Evidence("after_start_fade", "bounded", f.coolant_c, value, _LONGER_SPREAD, basis)


def _sags_as_it_ends(case: Case, fade: float) -> bool:
    """Say whether speed fell below what it held before and after, while the enrichment ended.

    A loop that opens the valve against it hides a sag: counted is what speed would have been without.
    """
    off = [(s.after_s, _held_without_loop(case, s)) for s in case.observed.stretches]
    ends = [o for t, o in off if _ENDS_FROM * fade < t < fade + _ENDS_AFTER_S]
    before = [o for t, o in off if t <= _ENDS_FROM * fade]
    later = [o for t, o in off if fade + _ENDS_AFTER_S <= t < fade + _RECOVERS_BY_S]
    if not (ends and before and later):
        return False
    held = min(float(np.median(before)), float(np.median(later)))
    return min(ends) < held - _SAGS_RPM


def _held_without_loop(case: Case, stretch: Stretch) -> float:
    """Return speed from its target as it would be with the valve where engine data put it. [1/min]"""
    spec, target = case.setting.spec, case.calibration["idle_target"].at(stretch.coolant_c)
    off = stretch.rpm - target
    if not stretch.valve_pct:
        return off
    wider = math.log(stretch.valve_pct / idle_valve_pct(spec, stretch.coolant_c))
    return off - target * idle_gain(spec, stretch.valve_pct) * wider
