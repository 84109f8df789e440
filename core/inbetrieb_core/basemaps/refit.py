"""Other injectors or another rail pressure: which tables follow, so that the fuel stays the same."""

from __future__ import annotations

import numpy as np

from ..engine import EngineSpec
from ..tables import Calibration, Provenance, Table
from .generate import dead_time_table

#: A reference pulse that moves less than this moves no table. [–]
_SAME_SHARE = 1e-4


def refit_injectors(calibration: Calibration, before: EngineSpec, after: EngineSpec) -> Calibration:
    """Return the calibration for the same engine with other injector or rail data.

    Dead time is interpolated anew on the controller's own axis. The prime pulse is in
    milliseconds and is rescaled with the reference pulse, so that it gives the same fuel; all
    other tables are shares or commands and stay.

    Parameters
    ----------
    calibration : Calibration
        In force.
    before, after : EngineSpec
        The engine as the calibration knows it, and as it is now.
    """
    if after.injectors.dead_time != before.injectors.dead_time or (
        after.injectors.dead_time_assumed != before.injectors.dead_time_assumed
    ):
        axis = calibration["dead_time"].axes[0]
        calibration = calibration.with_table(dead_time_table(after, axis))
    ratio = after.reference_pulse_ms / before.reference_pulse_ms
    if abs(ratio - 1.0) > _SAME_SHARE:
        calibration = calibration.with_table(
            _rescaled(calibration["prime_pulse"], ratio, before, after)
        )
    return calibration


def _rescaled(table: Table, ratio: float, before: EngineSpec, after: EngineSpec) -> Table:
    definition = table.definition
    wanted = table.values * ratio
    values = np.clip(np.round(wanted / definition.resolution) * definition.resolution,
                     definition.lower, definition.upper)  # fmt: skip
    marks = np.empty(table.values.shape, dtype=object)
    for index in np.ndindex(*table.values.shape):
        held = (
            "" if definition.lower <= wanted[index] <= definition.upper else " Held at its bound."
        )
        marks[index] = Provenance(
            "calculated",
            f"{table.values[index]:g} · {ratio:.3f}: the reference pulse went from "
            f"{before.reference_pulse_ms:.2f} to {after.reference_pulse_ms:.2f} ms, and the prime "
            f"gives the same fuel.{held}",
        )
    return Table(table.key, table.axes, values, marks)
