"""Cells of a curve from what one log measured at every temperature that it passed."""

from __future__ import annotations

import numpy as np

from ..quantities import FloatArray
from ..tables import CellChange, Table
from ..tables.weights import weight_matrix

#: Departures of neighbouring cells are alike within this step; how far a cell may be off, and how
#: well one reading tells it. [K, share of the value]
_ALIKE_K, _CELL_SHARE, _READING_SHARE = 25.0, 0.4, 0.02
#: A cell in which the readings had less than this share is left alone. [–]
_TOUCHED = 0.05


def curve_changes(table: Table, at_c: FloatArray, wanted: FloatArray) -> tuple[CellChange, ...]:
    """Return the changes of cells that make the interpolated curve follow what was measured.

    Parameters
    ----------
    table : Table
        A curve over coolant temperature.
    at_c : ndarray, shape (n,)
        Where it was measured. [°C]
    wanted : ndarray, shape (n,)
        Measured value there. [unit of the table]

    Returns
    -------
    tuple of CellChange
        Of the cells that the controller blends at these temperatures, within their bounds; empty
        without a measurement. The most probable departures under a Gaussian process over
        temperature, so that two cells with one reading between them share its change.
    """
    if not at_c.size:
        return ()
    points = np.array(table.axes[0].points)
    weights = np.asarray(weight_matrix([table.axes[0].points], [at_c]).toarray())
    touched = np.flatnonzero(weights.sum(axis=0) > _TOUCHED)
    values = table.values.astype(float)
    missing = wanted - weights @ values
    # Of both, so that neither an empty table nor readings of nothing leave no width at all.
    scale = max(float(np.mean(np.abs(wanted))), float(np.mean(np.abs(weights @ values))), 1.0)
    apart = (points[touched][:, None] - points[touched][None, :]) / _ALIKE_K
    prior = (_CELL_SHARE * scale) ** 2 * np.exp(-0.5 * apart**2)
    rows = weights[:, touched]
    gain = prior @ rows.T
    seen = rows @ gain + (_READING_SHARE * scale) ** 2 * np.eye(at_c.size)
    moves = gain @ np.linalg.solve(seen, missing)
    definition = table.definition
    after = np.clip(values[touched] + moves, definition.lower, definition.upper)
    return tuple(
        CellChange((int(i),), (float(points[i]),), float(values[i]), float(value))
        for i, value in zip(touched, after, strict=True)
        if value != values[i]
    )
