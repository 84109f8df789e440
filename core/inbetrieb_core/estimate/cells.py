"""From a curve over temperature to the values of a table's own breakpoints."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..quantities import FloatArray
from ..tables import CellChange, Table, rounded
from ..tables.weights import weight_matrix

#: Fineness at which table and curve are compared, and how strongly a cell without any need of its
#: own keeps to the curve. [K, –]
_FINE_K, _KEEP = 4.0, 0.05


def fitted(table: Table, at_c: FloatArray, wanted: FloatArray, weight: FloatArray) -> FloatArray:
    """Return the cell values whose interpolation comes nearest to a curve.

    Parameters
    ----------
    table : Table
        A curve over coolant temperature; only its breakpoints are used.
    at_c, wanted : ndarray, shape (n,)
        The curve. [°C, unit of the table]
    weight : ndarray, shape (n,)
        How much each point counts. [–]

    Returns
    -------
    ndarray
        Within the table's bounds, not yet on its resolution. The controller blends linearly between
        cells, so that cells on a bent curve lie a little beside it. [unit of the table]
    """
    points = np.array(table.axes[0].points)
    rows = np.asarray(weight_matrix([table.axes[0].points], [at_c]).toarray())
    here = np.interp(points, at_c, wanted)
    share = weight / weight.mean()
    left = rows.T @ (share[:, None] * rows) + _KEEP * np.eye(points.size)
    values = np.linalg.solve(left, rows.T @ (share * wanted) + _KEEP * here)
    definition = table.definition
    return np.clip(values, definition.lower, definition.upper)


def grid_c(table: Table) -> FloatArray:
    """Return temperatures over a table's axis, fine enough to see what blending does. [°C]"""
    points = table.axes[0].points
    return np.union1d(np.arange(points[0], points[-1], _FINE_K), np.array(points))


def changes_to(
    table: Table, values: FloatArray, taken: NDArray[np.bool_]
) -> tuple[CellChange, ...]:
    """Return the changes of the taken cells to new values, on the table's resolution.

    Parameters
    ----------
    table : Table
        A curve.
    values : ndarray
        New value of every cell. [unit of the table]
    taken : ndarray of bool
        Cells that may change.
    """
    points = table.axes[0].points
    return rounded(
        table,
        [
            CellChange((i,), (float(points[i]),), float(table.values[i]), float(values[i]))
            for i in np.flatnonzero(taken).tolist()
        ],
    )
