"""Checks that every list of points goes through, wherever it was typed."""

from __future__ import annotations

import math
from collections.abc import Sequence

from ..errors import field_refused

Point = tuple[float, float]
MOST_POINTS = 200


def checked_points(
    points: Sequence[Sequence[float]], field: str, least: int, first: str, second: str
) -> tuple[Point, ...]:
    """Return points sorted by their first number.

    Parameters
    ----------
    points : sequence of pairs of float
        As typed. [first, second]
    field : str
        Field to name in a refusal.
    least : int
        Fewest points that make sense. [–]
    first, second : str
        What the two numbers are, for the sentence.

    Raises
    ------
    InputRefused
        If there are too few or too many, a number is not finite, or two share the first.
    """
    if any(len(point) != 2 for point in points):
        raise field_refused(field, f"Every point needs two numbers: {first} and {second}.")
    if not least <= len(points) <= MOST_POINTS:
        raise field_refused(
            field, f"At least {least} points of {first} and {second} are needed, not {len(points)}."
        )
    if not all(math.isfinite(number) for point in points for number in point):
        raise field_refused(field, "Every point must be made of plain numbers.")
    ordered = sorted((float(point[0]), float(point[1])) for point in points)
    for before, after in zip(ordered, ordered[1:], strict=False):
        if after[0] == before[0]:
            raise field_refused(
                field,
                f"Two points have the same {first}, {after[0]:g}: one of them is a typing error.",
            )
    return tuple(ordered)


def monotone_direction(points: Sequence[Point], field: str, first: str, second: str) -> int:
    """Return +1 where the second number rises with the first throughout, −1 where it falls.

    Raises
    ------
    InputRefused
        Naming the point at which it turns round or stands still.
    """
    steps = [after[1] - before[1] for before, after in zip(points, points[1:], strict=False)]
    direction = 1 if sum(steps) > 0 else -1
    for place, step in enumerate(steps):
        if step * direction <= 0:
            word = "rise" if direction > 0 else "fall"
            low, high = points[place], points[place + 1]
            raise field_refused(
                field,
                f"The {second} must {word} from point to point, but at {first} {high[0]:g} it is "
                f"{high[1]:g} after {low[1]:g} at {low[0]:g}.",
            )
    return direction
