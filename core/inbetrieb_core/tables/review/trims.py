"""Learned trims: whether they stand at their stop, and what pattern they make."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from ...quantities import FloatArray
from ..calibration import Calibration
from ..table import Table
from .findings import ReviewContext, ReviewFinding, finding

#: A trim smaller than this is nothing to speak of. [%]
_NOTABLE_PCT = 6.0
#: Without a known authority a trim beyond this stands at one. [%]
_STOP_PCT = 24.5
#: Share of all cells from which a trim is everywhere, and the sameness that makes it one. [–]
_EVERYWHERE_SHARE, _SAME_SIGN_SHARE = 0.6, 0.9


def trims(calibration: Calibration, context: ReviewContext) -> Iterator[ReviewFinding]:
    """Yield trims at their stop and the pattern of the trims."""
    if "learned_trim" not in calibration:
        return
    table = calibration["learned_trim"]
    values = np.asarray(table.values)
    limit = calibration.setting("closed_loop_authority")
    stop = _STOP_PCT if limit is None or limit < _NOTABLE_PCT else limit - 0.5
    at_stop = np.abs(values) >= stop
    cells = [tuple(c) for c in np.argwhere(at_stop).tolist()]
    if cells:
        worst = float(np.abs(values).max())
        yield finding(
            "trim_at_stop", table, cells, "stop",
            f"{worst:.0f} % stands at the stop of ±{stop + 0.5:.0f} %; what is missing beyond that nobody knows.",
            worst,
        )  # fmt: skip
    yield from _pattern(table, values)


def _pattern(table: Table, values: FloatArray) -> Iterator[ReviewFinding]:
    """Yield whether the trims are everywhere or in one place."""
    notable = np.abs(values) >= _NOTABLE_PCT
    if notable.sum() < 2:
        return
    usual = float(np.median(values[notable]))
    same = notable & (np.sign(values) == np.sign(usual))
    cells = [tuple(c) for c in np.argwhere(notable).tolist()]
    word = "more" if usual > 0 else "less"
    if notable.mean() >= _EVERYWHERE_SHARE and same.sum() / notable.sum() >= _SAME_SIGN_SHARE:
        yield finding(
            "trim_everywhere", table, cells, "stop",
            f"about {usual:+.0f} % nearly everywhere: not a table. Fuel pressure, injector flow or dead time "
            f"is wrong; {word} fuel is needed at every place.", abs(usual),
        )  # fmt: skip
        return
    yield finding(
        "trim_local", table, cells, "attention",
        f"{usual:+.0f} % {_where(table, notable)}: the fuel table is off there, and nowhere else.", abs(usual),
    )  # fmt: skip


def _where(table: Table, notable: np.ndarray) -> str:
    """Return where in the map the trims lie, in words."""
    rows, columns = np.nonzero(notable)
    height, width = notable.shape
    words = []
    for mean, size, low, high in (
        (rows.mean(), height, "low speed", "high speed"),
        (columns.mean(), width, "light load", "high load"),
    ):
        share = float(mean) / max(1, size - 1)
        if share < 0.35:
            words.append(low)
        elif share > 0.65:
            words.append(high)
    return "at " + " and ".join(words) if words else "in the middle of the map"
