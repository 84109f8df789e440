"""The dwell table of the coil that is fitted, each cell with where it comes from."""

from __future__ import annotations

import numpy as np

from ..tables import DEFINITIONS, Axis, Provenance, ProvenanceKind, Table
from ..triggers import DwellEntry, DwellSheet
from ..triggers.dwell import DwellCell


def fitted_dwell(entry: DwellEntry, sheet: DwellSheet, axis: Axis) -> Table:
    """Return the dwell table of a coil.

    Where the current is never reached the table holds three time constants of the coil.

    Parameters
    ----------
    entry : DwellEntry
        The coil as entered.
    sheet : DwellSheet
        Its dwell on the axis.
    axis : Axis
        Battery voltages of the controller.
    """
    definition = DEFINITIONS["dwell"]
    values = np.empty(len(axis.points))
    marks = np.empty(len(axis.points), dtype=object)
    for i, cell in enumerate(sheet.cells):
        wanted = entry.longest_feed_ms() if cell.dwell_ms is None else cell.dwell_ms
        steps = round(min(definition.upper, wanted) / definition.resolution)
        values[i] = round(steps * definition.resolution, 6)
        kind, how = _origin(entry, cell)
        marks[i] = Provenance(kind, f"{entry.name.strip()}: {how}.")
    return Table("dwell", (axis,), values, marks)


def _origin(entry: DwellEntry, cell: DwellCell) -> tuple[ProvenanceKind, str]:
    if cell.dwell_ms is None:
        return "assumed", "the current is never reached here: three time constants"
    if cell.held:
        return "assumed", "beyond the maker's table, end held"
    if entry.coil is not None:
        return "calculated", "t = −L/R·ln(1 − I·R/V)"
    return entry.provenance, "the maker's table"
