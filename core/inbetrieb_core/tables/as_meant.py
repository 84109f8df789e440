"""What a table of numbers without names most likely means: which way it stands, and in which measure.

Nothing is guessed in silence: whoever asks says what was understood.
"""

from __future__ import annotations

import re
from collections.abc import Sequence

import numpy as np

from ..delimited import number_of
from ..quantities import FloatArray

#: A thousands mark: digits in threes, nothing else. Only what must rise can tell it from a decimal one.
_THOUSANDS = re.compile(r"^\d{1,3}([,.'’]\d{3})+$")
#: Engine speeds end above this, loads of any kind below. [1/min; kPa or %]
_SPEED_ENDS_ABOVE, _LOAD_ENDS_BELOW = 1500.0, 700.0
#: No engine's manifold is emptier than this while it runs; a throttle starts there. [kPa]
_EMPTIEST_KPA = 6.0
#: A filling in per cent is never so small everywhere. [–]
_FRACTION_BELOW = 3.0
#: Standard pressure, which a gauge reads as nothing. [kPa]
STANDARD_KPA = 101.3


def read_breakpoints(
    cells: Sequence[object], *, own_form: bool = False
) -> tuple[list[float] | None, bool]:
    """Return breakpoints as numbers, and whether marks between thousands were taken out.

    "500", "1,000", "1,500" rise only where the comma parts thousands.

    Parameters
    ----------
    cells : sequence
        Of the head or of the first column.
    own_form : bool
        Whether the table names its axes as we write them: then a mark between digits is a decimal one.

    Returns
    -------
    tuple
        None in place of the numbers where a cell is none.
    """
    plain = [number_of(cell) for cell in cells]
    marked = [isinstance(cell, str) and bool(_THOUSANDS.match(cell.strip())) for cell in cells]
    if any(marked):
        whole = [
            number_of(re.sub(r"[,.'’]", "", cell)) if is_marked and isinstance(cell, str) else value
            for cell, value, is_marked in zip(cells, plain, marked, strict=True)
        ]
        if _monotone(whole) and not _monotone(plain):
            return [value for value in whole if value is not None], True
        if all(marked) and not own_form and _monotone(whole):
            return [value for value in whole if value is not None], True
    if any(value is None for value in plain):
        return None, False
    return [value for value in plain if value is not None], False


def _monotone(values: Sequence[float | None]) -> bool:
    known = [value for value in values if value is not None]
    if len(known) < len(values) or len(known) < 2:
        return False
    steps = np.diff(known)
    return bool((steps > 0).all() or (steps < 0).all())


def stands_turned(down: str, across: str, left: Sequence[float], head: Sequence[float]) -> bool:
    """Return whether a table of speed against load lies on its side, by the size of its numbers.

    Parameters
    ----------
    down, across : str
        Axes of the table as the definition has them.
    left, head : sequence of float
        Numbers that stand down and across.
    """
    if "rpm" not in (down, across) or down == across or not left or not head:
        return False
    speed, load = (left, head) if down == "rpm" else (head, left)
    return max(load) > _SPEED_ENDS_ABOVE and max(speed) < _LOAD_ENDS_BELOW


def is_gauge(axis: str, points: Sequence[float]) -> bool:
    """Return whether pressures are counted from the air outside: some lie below nothing.

    Parameters
    ----------
    axis : str
        Its key.
    points : sequence of float
        [kPa]
    """
    return axis == "map_kpa" and min(points) < 0.0 and min(points) > -STANDARD_KPA


def is_throttle(axis: str, points: Sequence[float]) -> bool:
    """Return whether a load is an opening of the throttle: it runs from shut to 100.

    Parameters
    ----------
    axis : str
        Key of the axis that was expected.
    points : sequence of float
        Numbers without a unit.
    """
    return axis == "map_kpa" and 0.0 <= min(points) < _EMPTIEST_KPA and max(points) <= 100.0


def is_fraction(key: str, values: FloatArray) -> bool:
    """Return whether a filling stands as a share of one and not in per cent.

    Parameters
    ----------
    key : str
        Of the table.
    values : ndarray
        Without a unit.
    """
    known = values[np.isfinite(values)]
    return key.startswith("ve") and bool(known.size) and 0.0 < float(known.max()) <= _FRACTION_BELOW
