"""Calibrations that ship with the program: base maps with the filling that a bench engine really has."""

from __future__ import annotations

import numpy as np

from ..basemaps import generate
from ..tables import Calibration, Provenance, Table, filled
from .engines import BenchEngine
from .truth import true_ve_pct


def example_calibration(engine: BenchEngine) -> Calibration:
    """Return the calibration of a bench engine once its fuel map is found.

    Parameters
    ----------
    engine : BenchEngine
        A simulated one; its start tables stay as its data suggest.
    """
    calibration = generate(engine.spec)
    table = calibration["ve"]
    values = np.array(
        [
            [true_ve_pct(engine.truth, n, p) for p in table.axes[1].points]
            for n in table.axes[0].points
        ]
    )
    mark = Provenance(
        "measured", f"Found on the bench engine “{engine.title}”, a simulated engine."
    )
    values = np.clip(values.round(1), table.definition.lower, table.definition.upper)
    return calibration.with_table(Table("ve", table.axes, values, filled(values.shape, mark)))
