"""Throttle: closed and open captured, direction, span and dead zone."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from ..errors import field_refused
from .entry import INPUT_FULL_V, LinearEntry

#: Spans and ends that a sound throttle sensor keeps (common practice, no source). [V]
_LEAST_SPAN_V, _USUAL_SPAN_V = 0.5, 2.5
_RAIL_ROOM_V = 0.15


@dataclass(frozen=True)
class ThrottleCapture:
    """The two ends of the throttle, captured with a foot on and off the pedal.

    Attributes
    ----------
    entry : LinearEntry
        0 % and 100 % set inside the ends by the dead zone.
    rising : bool
        Whether the signal rises as the throttle opens.
    span_v : float
        [V]
    level : {"good", "attention"}
    sentences : tuple of str
        What was found.
    """

    entry: LinearEntry
    rising: bool
    span_v: float
    level: Literal["good", "attention"]
    sentences: tuple[str, ...]


def capture_throttle(closed_v: float, open_v: float, dead_zone_pct: float = 1.0) -> ThrottleCapture:
    """Return the throttle's line from its two ends.

    Parameters
    ----------
    closed_v, open_v : float
        Signal with the throttle shut and fully open. [V]
    dead_zone_pct : float
        Share of travel at each end that reads 0 or 100 %, so that a worn stop or a cable that
        stretches still reaches both. [%]

    Raises
    ------
    InputRefused
        If an end lies outside the input, or the signal hardly moves.
    """
    for field, volts in (("closed_v", closed_v), ("open_v", open_v)):
        if not 0.0 <= volts <= INPUT_FULL_V:
            raise field_refused(field, f"The input reads 0 to {INPUT_FULL_V:g} V, not {volts:g} V.")
    if not 0.0 <= dead_zone_pct <= 10.0:
        raise field_refused("dead_zone_pct", "The dead zone must be between 0 and 10 %.")
    span = open_v - closed_v
    if abs(span) < _LEAST_SPAN_V:
        raise field_refused(
            "open_v",
            f"The signal moves only {abs(span):.2f} V from shut to open. Was the throttle opened "
            "fully, with the key on? Otherwise the signal wire is on the supply or the ground.",
        )
    sentences = []
    level: Literal["good", "attention"] = "good"
    if abs(span) < _USUAL_SPAN_V:
        level = "attention"
        sentences.append(
            f"The span is {abs(span):.2f} V; most sensors move 3 to 4 V. Does the throttle reach "
            "its stop, and does the sensor fit this throttle?"
        )
    for volts, which in ((closed_v, "shut"), (open_v, "open")):
        if not _RAIL_ROOM_V <= volts <= INPUT_FULL_V - _RAIL_ROOM_V:
            level = "attention"
            sentences.append(
                f"At {volts:.2f} V the {which} end lies at the end of the input: a broken wire "
                "could not be told from it. Turn the sensor on its screws."
            )
    zone = dead_zone_pct / 100.0 * span
    direction = "rises" if span > 0 else "falls"
    sentences.append(f"The signal {direction} by {abs(span):.2f} V as the throttle opens.")
    points = ((closed_v + zone, 0.0), (open_v - zone, 100.0))
    return ThrottleCapture(
        LinearEntry("linear", points), span > 0, abs(span), level, tuple(sentences)
    )
