"""What the hot idle writes into tables: the valve's real limits, a step of air, the spark correction."""

from __future__ import annotations

import numpy as np

from ..engine import EngineSpec
from ..errors import CoreError
from ..provenance import Provenance
from ..quantities import FloatArray
from ..tables import Axis, Table
from .settings import AirStepKey, air_step, idle_spark
from .sweep import Sweep

#: Coolant of a warm idle. [°C]
_WARM_C = 85.0


def within_limits(table: Table, sweep: Sweep, source: str, *, rescale: bool) -> Table:
    """Return the idle valve's table within the limits that a sweep told.

    Parameters
    ----------
    table : Table
        Openings. [%]
    sweep : Sweep
        Its limits count; an end that it did not reach stays where it is.
    source : str
        Which sweep, for the provenance.
    rescale : bool
        Stretch openings that are shares of the whole travel into the limits, instead of only clipping
        them; turned round where the valve is inverted.

    Raises
    ------
    CoreError
        If the sweep told no limit.
    """
    if not sweep.tells_limits:
        raise CoreError("This sweep told no limits.")
    low = 0.0 if sweep.minimum_pct is None else sweep.minimum_pct
    high = 100.0 if sweep.maximum_pct is None else sweep.maximum_pct
    values = table.values
    if rescale:
        share = values / 100.0
        values = low + (1.0 - share if sweep.inverted else share) * (high - low)
    reason = f"Within {low:.1f} to {high:.1f} %, the valve's real limits by {source}."
    return _with(table, np.clip(values, low, high), Provenance("measured", reason, source))


def after_air_step(table: Table, step: AirStepKey, at_c: float | None = None) -> Table:
    """Return the idle valve's table after one step of the trade.

    Parameters
    ----------
    table : Table
        Openings over coolant temperature. [%]
    step : str
        Of :data:`.settings.AIR_STEPS`.
    at_c : float or None
        Where it was tried; the warm engine if not given. [°C]
    """
    place_c = _WARM_C if at_c is None else at_c
    moved = air_step(np.array(table.axes[0].points), place_c, step)
    values = np.clip(
        table.values * np.array(moved.factors), table.definition.lower, table.definition.upper
    )
    return _with(table, values, Provenance("calculated", moved.sentence))


def spark_table(spec: EngineSpec, lopey: float) -> Table:
    """Return the idle spark correction of a choice. [° over 1/min]

    Parameters
    ----------
    spec : EngineSpec
        The engine.
    lopey : float
        Between clean, 0, and lopey, 1. [–]

    Raises
    ------
    InputRefused
        If it is neither.
    """
    spark = idle_spark(spec, lopey)
    marks = np.empty(len(spark.errors_rpm), dtype=object)
    marks[:] = Provenance(
        "assumed", f"Between clean (0) and lopey (1): {lopey:g}. Common practice."
    )
    axis = Axis("speed_error_rpm", "rpm", spark.errors_rpm)
    return Table("idle_spark_correction", (axis,), np.array(spark.correction_deg), marks)


def _with(table: Table, values: FloatArray, mark: Provenance) -> Table:
    """Return a table with new values; cells that stay keep their origin."""
    values = values.round(1)
    marks = np.array(table.provenance, dtype=object, copy=True)
    marks[np.abs(values - table.values) > 1e-9] = mark
    return Table(table.key, table.axes, values, marks)
