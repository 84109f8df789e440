"""Start tables on one coolant axis, whatever breakpoints each was made on."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from .definitions import DEFINITIONS
from .reaxe import interpolated, mark_between
from .table import Table, TableError, make_axis


def aligned(tables: Iterable[Table]) -> dict[str, Table]:
    """Return tables by key, those over coolant temperature on the union of their breakpoints.

    A controller that reads the table in straight lines gets exactly the same values: no table
    loses anything by having more breakpoints.

    Raises
    ------
    TableError
        If the union has more breakpoints than an axis can have.
    """
    by_key = {table.key: table for table in tables}
    curves = [t for t in by_key.values() if DEFINITIONS[t.key].axes == ("coolant_c",)]
    points = sorted({p for table in curves for p in table.axes[0].points})
    if len(points) > 64:
        raise TableError("the start tables have more than 64 different coolant breakpoints")
    for table in curves:
        if list(table.axes[0].points) == points:
            continue
        axis = make_axis("coolant_c", points)
        values = np.round(interpolated(table, [np.array(points)]), 6)
        marks = np.empty(len(points), dtype=object)
        for i, point in enumerate(points):
            marks[i] = mark_between(table, [point])
        by_key[table.key] = Table(table.key, (axis,), values, marks)
    return by_key
