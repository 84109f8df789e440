"""Which way and how far next, when outcomes alone have to tell: the trade's ±step search."""

from __future__ import annotations

import math
from collections.abc import Sequence

_SAME_VALUE = 0.004


def next_step(
    tries: Sequence[tuple[float, float]],
    base: float,
    first_direction: int,
    tolerance: float,
    patience: int = 1,
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
    patience : int
        Moves in one direction without any effect before the other is tried. [–]

    Returns
    -------
    float
        Change from the present value. [–]

    Notes
    -----
    Try one way, listen, go on in the better direction. The first move takes the step; a move
    that helped, or changed nothing yet, is followed by twice the step; when a move made it
    worse, the next goes from the best value so far half a step the other way. Where nothing
    has any effect, the tries reach out in turn to both sides.
    """
    value, badness = tries[-1]
    earlier = [entry for entry in tries[:-1] if abs(entry[0] - value) > _SAME_VALUE]
    if not earlier:
        return first_direction * math.log1p(base)
    previous, before = earlier[-1]
    direction = 1 if value > previous else -1
    if badness < before - tolerance:
        return direction * math.log1p(2.0 * base)
    if badness > before + tolerance:
        best = min(tries, key=lambda entry: entry[1])[0]
        return _beyond_tried(tries, best, -direction, 0.5 * base) - value
    if _moves_alike(tries, direction) < patience:
        return direction * math.log1p(2.0 * base)
    extreme = max(-direction * entry[0] for entry in tries) * -direction
    first_turn = len(earlier) == patience
    return _beyond_tried(tries, extreme, -direction, base if first_turn else 2.0 * base) - value


def _moves_alike(tries: Sequence[tuple[float, float]], direction: int) -> int:
    """Return how many of the latest moves in a row went in a direction."""
    values = [entry[0] for entry in tries]
    count = 0
    for before, after in zip(values[-2::-1], values[:0:-1], strict=False):
        if abs(after - before) <= _SAME_VALUE:
            continue
        if (after - before) * direction <= 0:
            break
        count += 1
    return count


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
