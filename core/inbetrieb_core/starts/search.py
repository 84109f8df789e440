"""Which way and how far next, when outcomes alone have to tell: the trade's ±step search."""

from __future__ import annotations

import math
from collections.abc import Sequence

_SAME_VALUE = 0.004
_FLAT_TRIES = 3


def next_step(
    tries: Sequence[tuple[float, float]], base: float, first_direction: int, tolerance: float
) -> float:
    """Return the change of ln(value) to try next.

    Parameters
    ----------
    tries : sequence of (ln value, badness)
        Starts at about this temperature in order of time, the present one last; badness is
        smaller for a better start. [–, s]
    base : float
        First step as a share. [–]
    first_direction : int
        +1 or −1 where nothing is known yet.
    tolerance : float
        Differences of badness below this mean nothing. [s]

    Returns
    -------
    float
        Change from the present value. [–]

    Notes
    -----
    Try one way, listen, go on in the better direction. The first move takes the step; moves
    that keep helping, or that change nothing yet, take twice the step; when a move made it
    worse, the next goes from the best value so far half a step the other way.
    """
    value, badness = tries[-1]
    earlier = [entry for entry in tries[:-1] if abs(entry[0] - value) > _SAME_VALUE]
    if not earlier:
        return first_direction * math.log1p(base)
    previous, before = earlier[-1]
    direction = 1 if value > previous else -1
    if badness < before - tolerance:
        return direction * math.log1p(2.0 * base)
    best = min(tries, key=lambda entry: entry[1])[0]
    if badness > before + tolerance:
        return _beyond_tried(tries, best, -direction, 0.5 * base) - value
    flat = [entry for entry in earlier if abs(entry[1] - badness) <= tolerance]
    if len(flat) < _FLAT_TRIES:
        return direction * math.log1p(2.0 * base)
    origin = min((entry[0] for entry in flat), default=value, key=lambda v: direction * v)
    return _beyond_tried(tries, origin, -direction, 2.0 * base) - value


def _beyond_tried(
    tries: Sequence[tuple[float, float]], origin: float, direction: int, step: float
) -> float:
    """Return a value one step from the origin, or further where that was tried already."""
    candidate = origin
    for _ in range(12):
        candidate += direction * math.log1p(step)
        if all(abs(entry[0] - candidate) > 0.4 * step for entry in tries):
            break
    return candidate
