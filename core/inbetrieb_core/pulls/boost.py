"""The boost staircase: duty 0 first, every step a pull, the next step with its reason, and what stops it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from ..errors import field_refused
from ..quantities import FloatArray
from ..sentences import kilopascal
from ..trade import BOOST_VALVE_LEAST_PCT, BOOST_VALVE_MOST_PCT
from .limits import Exceeded, Feed, PullLimits, passed_limits
from .pull import STEP_RPM, PullRecord
from .supply import supply_line

#: Most of one step, and near a limit. [%, kPa]
STEP_PCT, STEP_KPA, _NEAR_PCT = 10.0, 20.0, 4.0
#: What comes is judged steeper than what was seen. [–]
_STEEPER = 1.3
#: Kept from the limit. [kPa]
_MARGIN_KPA = 5.0
#: Creep: pressure that rises with speed although duty is held. Without effect: a step that moves it by less. [kPa, %, kPa]
_CREEPS_KPA, _STEP_COUNTS_PCT, _EFFECT_KPA = 10.0, 8.0, 2.0
#: One that has moved nothing up to here has no effect. [%]
_MOVES_FROM_PCT = 25.0
#: Spooled where it makes this share of what it holds. [–]
_SPOOLED = 0.9
#: What a first step does where nothing was tried yet. [kPa/%] (common practice: 25 % gave 20 to 25 kPa)
_USUAL_KPA_PER_PCT = 1.2
#: A pressure counts as made where it is missed by no more than this. [kPa]
_ACCURATE_KPA = 2.0

Outcome = Literal["begin", "step", "hold", "stop", "done"]


@dataclass(frozen=True)
class BoostStep:
    """A step that was driven: the duty that was held [%], and its pull."""

    duty_pct: float
    pull: PullRecord


@dataclass(frozen=True)
class Staircase:
    """Where the staircase stands.

    Attributes
    ----------
    outcome : {"begin", "step", "hold", "stop", "done"}
    next_duty_pct, next_kpa : float or None
        Duty of the next pull and the pressure that is expected at most. [%, kPa]
    duties, most_kpa : tuple of float
        What was held and what it made. [%, kPa]
    rpm : tuple of float
        [1/min]
    kpa : tuple of tuple of float or None
        Manifold pressure of each duty over speed, rising with duty. [kPa]
    good_duty_pct : float or None
        Most duty of a pull without a stop. [%]
    spooled_rpm : float or None
        From here on it makes what the valve asks for. [1/min]
    boost_cut_kpa : float or None
        That follows from the wastegate's pressure and the limit. [kPa]
    stops : tuple of str
    notes : tuple of str
        Creep, valve, wind-up.
    sentence : str
    """

    outcome: Outcome
    next_duty_pct: float | None
    next_kpa: float | None
    duties: tuple[float, ...]
    most_kpa: tuple[float, ...]
    rpm: tuple[float, ...]
    kpa: tuple[tuple[float | None, ...], ...]
    good_duty_pct: float | None
    spooled_rpm: float | None
    boost_cut_kpa: float | None
    stops: tuple[str, ...]
    notes: tuple[str, ...]
    sentence: str


def staircase(
    steps: Sequence[BoostStep], limits: PullLimits, feed: Feed, *, target_kpa: float | None = None
) -> Staircase:
    """Return where the staircase stands and what the next pull is.

    Parameters
    ----------
    steps : sequence of BoostStep
        In the order in which they were driven.
    limits : PullLimits
    feed : Feed
    target_kpa : float or None
        Where somebody wants to end, absolute. [kPa]

    Raises
    ------
    InputRefused
        If a duty cannot be.
    """
    if any(not 0.0 <= step.duty_pct <= 100.0 for step in steps):
        raise field_refused("duty_pct", "Duty lies between 0 and 100 %.")
    ceiling = min(limits.boost_kpa - _MARGIN_KPA, target_kpa if target_kpa is not None else 1e9)
    if not steps or min(step.duty_pct for step in steps) > 0.0:
        return Staircase("begin", 0.0, None, (), (), (), (), None, None, None, (), (), "Begin with duty 0: it shows what the wastegate holds by itself. Boost cut above it, finger on the kill switch.")  # fmt: skip
    duties = sorted({step.duty_pct for step in steps})
    rpm, rows = _rows(steps, duties)
    held = np.array([_holds(row) for row in rows])
    rising = _monotone(held)
    notes, stops = list(_notes(rpm, rows, duties, held)), []
    newest = steps[-1]
    passed = passed_limits(newest.pull, limits, feed)
    stops += [one.sentence for one in passed if one.key not in ("speed_rpm",)]
    line = supply_line([newest.pull], feed)
    if line.stop:
        stops.append(line.sentence)
    creeps = _creep(rpm, rows[duties.index(newest.duty_pct)])
    if creeps is not None and rows[duties.index(newest.duty_pct)][-1] > ceiling:
        stops.append(f"Boost creeps by {kilopascal(creeps)} with speed although duty is held: the wastegate is too small or in the way. No table mends it.")  # fmt: skip
    spooled, good = _spooled(rpm, rows[-1]), _last_good_duty(steps, limits, feed)
    cut = round(
        min(
            limits.boost_kpa,
            float(held[0]) + 30.0 if len(duties) == 1 else float(rising[-1]) + 20.0,
        ),
        0,
    )
    shape = (tuple(duties), tuple(held.round(1).tolist()), tuple(rpm.tolist()), tuple(_listed(row) for row in rows), good, spooled, cut)  # fmt: skip
    if stops:
        tail = "" if good is None else f" The last duty without a stop is {good:.0f} %."
        return Staircase(
            "stop", None, None, *shape, tuple(stops), tuple(notes), f"STOP. {stops[0]}{tail}"
        )
    top = float(rising[-1])
    if top >= ceiling - _ACCURATE_KPA:
        words = (
            "target"
            if target_kpa is not None and target_kpa < limits.boost_kpa - _MARGIN_KPA
            else "limit"
        )
        return Staircase("done", None, None, *shape, (), tuple(notes), f"Done: {duties[-1]:.0f} % makes {kilopascal(top)}, what the {words} allows.")  # fmt: skip
    near = passed_limits(newest.pull, _closer(limits), feed)
    step, expected = _next(duties, rising, ceiling, bool(near))
    duty = duties[-1] + step
    if step < 0.5 or duty > 100.0:
        return Staircase("done", None, None, *shape, (), tuple(notes), f"Done: {duties[-1]:.0f} % makes {kilopascal(top)}; a smaller step than 0.5 % is none.")  # fmt: skip
    why = _why(step, expected - top, ceiling - top, near)
    return Staircase("step", round(duty, 1), round(expected, 0), *shape, (), tuple(notes), f"Next: {duty:.1f} % duty, {kilopascal(expected)} at most are expected. {why}")  # fmt: skip


def _rows(steps: Sequence[BoostStep], duties: Sequence[float]) -> tuple[FloatArray, FloatArray]:
    """Return the speeds all steps have, and pressure over them for each duty, shape (duties, speeds)."""
    rpm = np.arange(
        max(s.pull.rpm[0] for s in steps), min(s.pull.rpm[-1] for s in steps) + 1.0, STEP_RPM
    )
    if len(rpm) < 5:
        raise field_refused("steps", "The pulls of the staircase share too few speeds.")
    rows = []
    for duty in duties:
        of = []
        for s in steps:
            values = s.pull.channel("map_kpa")
            known = np.isfinite(values)
            if s.duty_pct == duty and known.sum() > 4:
                of.append(np.interp(rpm, s.pull.speed[known], values[known]))
        if not of:
            raise field_refused("steps", f"The pull at {duty:g} % has no manifold pressure.")
        rows.append(np.mean(of, axis=0))
    return rpm, np.array(rows)


def _holds(row: FloatArray) -> float:
    """Return the pressure that a pull reaches: its highest, one bin alone left out. [kPa]"""
    return float(np.sort(row)[-2])


def _monotone(values: FloatArray) -> FloatArray:
    """Return the closest rising sequence (pool adjacent violators)."""
    blocks: list[list[float]] = []
    for value in values.tolist():
        blocks.append([value, 1.0])
        while len(blocks) > 1 and blocks[-2][0] > blocks[-1][0]:
            last, before = blocks.pop(), blocks.pop()
            weight = last[1] + before[1]
            blocks.append([(last[0] * last[1] + before[0] * before[1]) / weight, weight])
    return np.concatenate([np.full(int(n), v) for v, n in blocks])


def _next(
    duties: Sequence[float], rising: FloatArray, ceiling: float, is_near: bool
) -> tuple[float, float]:
    """Return the next step of duty and the pressure that is expected at most. [%, kPa]"""
    slope, room = _USUAL_KPA_PER_PCT, ceiling - float(rising[-1])
    if len(duties) > 1:
        slopes = np.diff(rising) / np.maximum(np.diff(duties), 0.1)
        # A valve that begins late grows steeper: what comes is judged by the steepest so far, and some more.
        slope = max(0.3, _STEEPER * float(slopes.max()))
    most = STEP_KPA if room > 2.0 * STEP_KPA else min(STEP_KPA, 0.8 * room)
    step = min(_NEAR_PCT if is_near else STEP_PCT, most / slope)
    step = max(0.5, np.floor(2.0 * step) / 2.0)
    return float(step), float(rising[-1]) + slope * float(step)


def _closer(limits: PullLimits) -> PullLimits:
    """Return limits that are near the limits: beyond them steps are small."""
    return replace(
        limits, leanest=limits.leanest - 0.03, exhaust_c=limits.exhaust_c - 40.0, knock=0.0,
        duty_pct=0.9 * limits.duty_pct, pressure_falls_kpa=0.6 * limits.pressure_falls_kpa,
        charge_c=limits.charge_c - 10.0, boost_kpa=limits.boost_kpa + 1e6, speed_rpm=limits.speed_rpm + 1e6,
    )  # fmt: skip


def _why(step: float, rise: float, room: float, near: Sequence[Exceeded]) -> str:
    if near:
        first = near[0]
        return f"{first.title} is near its limit at {first.rpm:.0f} rpm: no more than {_NEAR_PCT:.0f} % now."
    if room <= 2.0 * STEP_KPA:
        return f"{kilopascal(room)} are left to the limit: smaller steps now."
    if step >= STEP_PCT:
        return f"No step is larger than {STEP_PCT:.0f} %."
    return f"No step is larger than {kilopascal(STEP_KPA)}; by what was seen {step:.1f} % may make {kilopascal(rise)}."


def _notes(
    rpm: FloatArray, rows: FloatArray, duties: Sequence[float], held: FloatArray
) -> list[str]:
    told = []
    still = next(
        (
            i
            for i in range(len(duties) - 1, 0, -1)
            if duties[-1] - duties[i - 1] >= _STEP_COUNTS_PCT
        ),
        None,
    )
    moved = None if still is None else abs(float(held[-1] - held[still - 1]))
    if still is not None and moved is not None and moved < _EFFECT_KPA:
        if duties[-1] <= BOOST_VALVE_LEAST_PCT:
            told.append(
                f"Below {BOOST_VALVE_LEAST_PCT:.0f} % a valve hardly moves anything: that is usual."
            )
        elif duties[-1] > BOOST_VALVE_MOST_PCT:
            told.append(
                f"Above {BOOST_VALVE_MOST_PCT:.0f} % a valve hardly moves anything: that is usual."
            )
        elif duties[-1] >= _MOVES_FROM_PCT:
            told.append(f"From {duties[still - 1]:.0f} to {duties[-1]:.0f} % nothing moved: look at the valve's hoses, its wire, its frequency, and which port is which.")  # fmt: skip
    creeps = _creep(rpm, rows[-1])
    if creeps is not None:
        told.append(
            f"Boost creeps: it rises by {kilopascal(creeps)} with speed although duty is held at {duties[-1]:.0f} %."
        )
    if len(duties) > 1:
        slow = _spooled(rpm, rows[-1])
        if slow is not None:
            told.append(f"Before {slow:.0f} rpm the turbocharger cannot make it yet: a target above what it makes there only winds the integral up, and it overshoots afterwards.")  # fmt: skip
    return told


def _creep(rpm: FloatArray, row: FloatArray) -> float | None:
    """Return by how much pressure rises after it was held; None where it does not. [kPa]"""
    if len(row) < 10:
        return None
    low, middle, top = (
        float(np.median(row[int(a * len(row)) : int(b * len(row)) + 1]))
        for a, b in ((0.45, 0.55), (0.68, 0.76), (0.92, 0.99))
    )
    rise = top - low
    # What still spools rises ever slower; what creeps rises ever quicker.
    return rise if rise > _CREEPS_KPA and top - middle > 1.2 * (middle - low) else None


def _spooled(rpm: FloatArray, row: FloatArray) -> float | None:
    """Return the speed from which a pull makes nearly what it holds; None where it did from the first. [1/min]"""
    base = float(row.min())
    there = np.flatnonzero(row - 0.0 >= _SPOOLED * _holds(row))
    return (
        None
        if not len(there) or there[0] == 0 or base > _SPOOLED * _holds(row)
        else float(rpm[there[0]])
    )


def _listed(row: FloatArray) -> tuple[float | None, ...]:
    return tuple(round(float(v), 1) for v in row)


def _last_good_duty(steps: Sequence[BoostStep], limits: PullLimits, feed: Feed) -> float | None:
    """Return the most duty of a pull without a stop; None where every pull had one. [%]"""
    good = [
        s.duty_pct for s in steps
        if not [o for o in passed_limits(s.pull, limits, feed) if o.key != "speed_rpm"] and not supply_line([s.pull], feed).stop
    ]  # fmt: skip
    return max(good) if good else None


@dataclass(frozen=True)
class BoostTables:
    """What goes into the tables: speeds, duty and target over them, what is only drawn on, and what a target was refused for.

    Attributes
    ----------
    rpm, duty_pct, target_kpa : tuple of float
        [1/min, %, kPa]
    measured : tuple of bool
        Whether a value stands inside what was pulled.
    sentence : str
    """

    rpm: tuple[float, ...]
    duty_pct: tuple[float, ...]
    target_kpa: tuple[float, ...]
    measured: tuple[bool, ...]
    sentence: str


def _not_made(target_kpa: float, most_kpa: float, *, by_a_stop: bool) -> str:
    if by_a_stop:
        return f"{kilopascal(target_kpa)} was made only by a pull that ended in a stop; without one {kilopascal(most_kpa)} was."
    return f"{kilopascal(target_kpa)} was not made by any duty that was pulled; {kilopascal(most_kpa)} was. Climb the staircase first."


def boost_tables(stairs: Staircase, target_kpa: float, points: Sequence[float]) -> BoostTables:
    """Return duty and target over speed for a pressure.

    Parameters
    ----------
    stairs : Staircase
        With two duties at least.
    target_kpa : float
        Absolute. [kPa]
    points : sequence of float
        Speeds of the tables. [1/min]

    Raises
    ------
    InputRefused
        If there is no staircase yet, or no pull without a stop made the target.
    """
    if len(stairs.duties) < 2:
        raise field_refused("target_kpa", "Two duties at least make a curve from duty to pressure.")
    # What only a pull that ended in a stop made is nothing to aim at, nor is its duty to be used.
    good = np.array(stairs.duties) <= (
        -1.0 if stairs.good_duty_pct is None else stairs.good_duty_pct
    )
    most = float(np.max(np.array(stairs.most_kpa)[good], initial=0.0))
    if target_kpa > most + _ACCURATE_KPA:
        made = max(stairs.most_kpa) >= target_kpa - _ACCURATE_KPA
        raise field_refused("target_kpa", _not_made(target_kpa, most, by_a_stop=made))
    kpa = np.array([[np.nan if v is None else v for v in row] for row in stairs.kpa])[good]
    duties = np.array(stairs.duties)[good]
    rpm = np.array(stairs.rpm)
    targets, needed, inside = [], [], []
    for point in points:
        at = np.array([np.interp(point, rpm, row) for row in kpa])
        rising = _monotone(at)
        reach = float(rising[-1])
        # Below spool a target that cannot be made is refused: it would only wind the loop up.
        targets.append(round(min(target_kpa, reach), 0))
        needed.append(
            round(
                float(
                    np.interp(
                        min(target_kpa, reach), rising + np.arange(len(rising)) * 1e-6, duties
                    )
                ),
                1,
            )
        )
        inside.append(bool(rpm[0] <= point <= rpm[-1]))
    short = [p for p, t in zip(points, targets, strict=True) if t < target_kpa - _ACCURATE_KPA]
    said = f"Duty for {kilopascal(target_kpa)} by {len(duties)} duties."
    if short:
        said += f" Up to {max(short):.0f} rpm the turbocharger cannot make it: the target there is what it makes."
    return BoostTables(tuple(points), tuple(needed), tuple(targets), tuple(inside), said)
