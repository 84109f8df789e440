"""What two calibrations differ by, as a file; of one job or of two."""

from __future__ import annotations

import csv
import io

from .calibration import Calibration, calibration_difference, reshaped_tables
from .definitions import DEFINITIONS


def difference_csv(before: Calibration, after: Calibration) -> bytes:
    """Return what two calibrations differ by as CSV: a line for each cell, then what has no cells to set side by side.

    Parameters
    ----------
    before, after : Calibration
    """
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(["table", "place", "unit", "first", "second"])
    for key, cells in calibration_difference(before, after).items():
        table = before[key]
        for cell in cells:
            place = table.place(cell.index) if table.axes else ""
            writer.writerow([key, place, table.definition.unit, repr(float(cell.before)), repr(float(cell.after))])  # fmt: skip
    for key in reshaped_tables(before, after):
        title = DEFINITIONS[key].title
        if key in before and key in after:
            writer.writerow([f"{title} has other breakpoints: carry it over to compare it cell by cell."])  # fmt: skip
        else:
            writer.writerow([f"{title} is only in the {'first' if key in before else 'second'}."])
    return out.getvalue().encode()
