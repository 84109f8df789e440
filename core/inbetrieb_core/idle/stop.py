"""The throttle stop: which way to turn it, and about how far, so that the valve sits where it can work."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from ..bounds import out_of_bounds
from ..errors import InputRefused, field_refused

Turn = Literal["none", "open", "close", "unknown"]

#: Where a warm valve sits well, as shares of its working range: low, aimed at, high. It opens by two to
#: three times for the cold and for loads, and has to be able to close on a flare (common practice, no
#: source).
SITS_LOW, _AIM, SITS_HIGH = 0.12, 0.27, 0.42
#: So near to an end of its range a valve can do nothing more. [%]
_AT_END_PCT = 1.5
#: What one whole turn of a usual stop screw moves a valve by, and the factor either way in which that is
#: known before the first turn (assumed). [% of the working range, –]
_PCT_OF_RANGE_PER_TURN, _UNSURE = 55.0, 2.5
#: A turn moves no valve by less than this share of the usual, and none by more than so many times. [–]
_LEAST_MEASURED, _MOST_MEASURED = 0.15, 6.0
#: At most at once, after a turn was seen and before. [turns, turns]
_MOST_TURNS, _MOST_FIRST = 1.5, 0.75
#: Speed this far off the target: the valve is not where it would hold it. [1/min]
_OFF_TARGET_RPM = 80.0
_WARM_C = 70.0


@dataclass(frozen=True)
class StopReading:
    """Warm idle, the loop holding the speed.

    Attributes
    ----------
    valve_pct : float
        Opening of the idle valve. [%]
    rpm : float
        [1/min]
    turned : float
        Turns of the stop since the reading before, opening it counts up; 0 for the first. [–]
    target_rpm : float or None
        [1/min]
    coolant_c : float or None
        [°C]
    """

    valve_pct: float
    rpm: float
    turned: float = 0.0
    target_rpm: float | None = None
    coolant_c: float | None = None


@dataclass(frozen=True)
class StopAdvice:
    """Whether the stop is true, and what to do with it.

    Attributes
    ----------
    is_true : bool
        Whether the warm valve sits in its useful band.
    turn : {"none", "open", "close", "unknown"}
        Which way to turn the stop.
    by_turns, by_turns_low, by_turns_high : float or None
        About how far, and between what; None where there is nothing to turn. [turns]
    wanted_pct, wanted_low_pct, wanted_high_pct : float
        Where the valve should come to. [%]
    sentences : tuple of str
    """

    is_true: bool
    turn: Turn
    by_turns: float | None
    by_turns_low: float | None
    by_turns_high: float | None
    wanted_pct: float
    wanted_low_pct: float
    wanted_high_pct: float
    sentences: tuple[str, ...]


def judge_stop(
    readings: Sequence[StopReading],
    *,
    minimum_pct: float | None = None,
    maximum_pct: float | None = None,
    inverted: bool = False,
) -> StopAdvice:
    """Return whether the throttle stop is true, from readings of the warm idle, oldest first.

    Parameters
    ----------
    readings : sequence of StopReading
        At least one.
    minimum_pct, maximum_pct : float or None
        Real limits of the valve from a sweep; 0 and 100 where there was none. [%]
    inverted : bool
        Whether a larger duty gives less air.

    Raises
    ------
    InputRefused
        If a figure cannot be.
    """
    _check(readings, minimum_pct, maximum_pct)
    low = 0.0 if minimum_pct is None else minimum_pct
    high = 100.0 if maximum_pct is None else maximum_pct
    span = high - low

    def place(share: float) -> float:
        return high - share * span if inverted else low + share * span

    band = sorted((place(SITS_LOW), place(SITS_HIGH)))
    aim = place(_AIM)
    last = readings[-1]
    sentences: list[str] = []
    if minimum_pct is None or maximum_pct is None:
        sentences.append("The valve's real limits are not known yet: a sweep makes this sharper.")
    if last.coolant_c is not None and last.coolant_c < _WARM_C:
        return StopAdvice(
            False, "unknown", None, None, None, aim, band[0], band[1],
            (f"At {last.coolant_c:.0f} °C the idle still needs extra air. Warm it up first.", *sentences),
        )  # fmt: skip
    opening = (high - last.valve_pct if inverted else last.valve_pct - low) / span
    at_end = opening * span < _AT_END_PCT or (1.0 - opening) * span < _AT_END_PCT
    off = 0.0 if last.target_rpm is None else last.rpm - last.target_rpm
    if abs(off) > _OFF_TARGET_RPM and not at_end:
        return StopAdvice(
            False, "unknown", None, None, None, aim, band[0], band[1],
            (
                f"It idles {off:+.0f} rpm off its target: the valve does not stand where it would hold the "
                "speed. Let the loop hold it, or set the opening by hand until it does, then read again.",
                *sentences,
            ),
        )  # fmt: skip
    if band[0] <= last.valve_pct <= band[1]:
        return StopAdvice(
            True, "none", None, None, None, aim, band[0], band[1],
            (
                f"The stop is true: the warm valve sits at {last.valve_pct:.0f} %, within {band[0]:.0f} to "
                f"{band[1]:.0f} %. Capture the throttle's zero again if the stop was turned.",
                *sentences,
            ),
        )  # fmt: skip
    turn: Turn = "open" if opening > _AIM else "close"
    per_turn, unsure = _per_turn(readings, span, inverted)
    # Before one turn was seen nobody knows the pitch: no more than that at once.
    most = _MOST_FIRST if unsure == _UNSURE else _MOST_TURNS
    by = min(most, abs(opening - _AIM) * span / per_turn)
    clause = (
        f"The valve stands at its {'upper' if opening > 0.5 else 'lower'} end, "
        f"{last.valve_pct:.0f} %: that is a mechanical job, no table can mend it. "
        if at_end
        else f"The warm valve sits at {last.valve_pct:.0f} %. "
    )
    more = "more" if turn == "open" else "less"
    sentences.insert(
        0,
        f"{clause}{turn.capitalize()} the stop a little, so that it passes {more} air: about {by:.2f} turns "
        f"({by / unsure:.2f} to {min(_MOST_TURNS, by * unsure):.2f}), until the valve comes to {aim:.0f} % "
        f"({band[0]:.0f} to {band[1]:.0f} %). Then capture the throttle's zero again.",
    )
    return StopAdvice(
        False, turn, round(by, 2), round(by / unsure, 2), round(min(_MOST_TURNS, by * unsure), 2),
        round(aim, 1), round(band[0], 1), round(band[1], 1), tuple(sentences),
    )  # fmt: skip


def _per_turn(readings: Sequence[StopReading], span: float, inverted: bool) -> tuple[float, float]:
    """Return what a turn moves the valve by [%], and the factor either way in which it is known."""
    usual = _PCT_OF_RANGE_PER_TURN * span / 100.0
    seen = []
    for before, after in zip(readings, readings[1:], strict=False):
        closed = before.valve_pct - after.valve_pct
        moved = -closed if inverted else closed
        if abs(after.turned) > 0.03 and abs(closed) > 1.0 and moved * after.turned > 0.0:
            seen.append(abs(moved / after.turned))
    if not seen:
        return usual, _UNSURE
    # The newest turn was made nearest to where it has to come to.
    return min(max(seen[-1], _LEAST_MEASURED * usual), _MOST_MEASURED * usual), 1.4


def _check(
    readings: Sequence[StopReading], minimum_pct: float | None, maximum_pct: float | None
) -> None:
    if not readings:
        raise field_refused("readings", "At least one reading is needed.")
    problems = []
    for i, r in enumerate(readings):
        for name, value, lower, upper, unit, title in (
            ("valve_pct", r.valve_pct, 0.0, 100.0, "%", "the valve"),
            ("rpm", r.rpm, 200.0, 4000.0, "rpm", "the speed"),
            ("turned", r.turned, -10.0, 10.0, "turns", "the turn"),
            ("target_rpm", r.target_rpm, 300.0, 3000.0, "rpm", "the target"),
            ("coolant_c", r.coolant_c, -50.0, 150.0, "°C", "the coolant"),
        ):
            if value is not None:
                problems.append(
                    out_of_bounds(f"readings.{i}.{name}", value, lower, upper, unit, f"Reading {i + 1}: {title}")
                )  # fmt: skip
    for name, value in (("minimum_pct", minimum_pct), ("maximum_pct", maximum_pct)):
        if value is not None:
            problems.append(out_of_bounds(name, value, 0.0, 100.0, "%", "The valve's limit"))
    found = [problem for problem in problems if problem is not None]
    if found:
        raise InputRefused(found)
    if minimum_pct is not None and maximum_pct is not None and maximum_pct - minimum_pct < 5.0:
        raise field_refused("maximum_pct", "The valve's upper limit lies above its lower one.")
