"""The tables as a controller of another school holds them: target in the fuel table, other loads."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ..air import DRY_AIR_GAS_CONSTANT, REFERENCE_CHARGE_K, REFERENCE_PRESSURE_KPA
from ..engine import EngineSpec
from ..quantities import FloatArray
from ..tables import Calibration, Table
from ..tables.definitions import SPARK_MAPS, VE_MAPS
from ..tables.reaxe import interpolated
from ..tables.transfer import SheetAxis, SheetTable, sheet_table
from .throttle import throttle_map_kpa

#: Dense where a throttle passes most for each degree. [%]
THROTTLE_PCT = (0.0, 3.0, 6.0, 10.0, 15.0, 20.0, 30.0, 45.0, 65.0, 100.0)
_CHARGES = 12


def held_tables(calibration: Calibration, spec: EngineSpec) -> dict[str, SheetTable]:
    """Return the tables as a controller of this job's schools holds them.

    Parameters
    ----------
    calibration : Calibration
        Over manifold pressure, the mixture target apart.
    spec : EngineSpec
        With the schools of mixture target and load.

    Returns
    -------
    dict of str to SheetTable
        Volumetric efficiency divided by the target where that is not in the fuel equation; over
        throttle angle or measured air instead of pressure where that is the load. With an
        air-flow meter there is no fuel table: the meter is in its place.
    """
    tables = {key: sheet_table(table) for key, table in calibration.tables.items()}
    tables.pop("learned_trim", None)
    if spec.schools.target == "outside":
        for key in VE_MAPS:
            if key in calibration:
                tables[key] = _with_target(calibration[key], calibration["lambda_target"])
    if spec.schools.load == "throttle_angle":
        tables |= _over_throttle(calibration, tables, spec)
    elif spec.schools.load == "mass_flow":
        tables |= _over_charge(calibration, tables, spec)
        for key in VE_MAPS:
            tables.pop(key, None)
    return tables


def _with_target(ve: Table, target: Table) -> SheetTable:
    mixture = interpolated(target, [np.array(axis.points) for axis in ve.axes])
    note = "Volumetric efficiency ÷ lambda target, because the target is not in the fuel equation."
    return replace(sheet_table(ve), values=np.asarray(ve.values) / mixture, note=note)


def _maps(calibration: Calibration) -> list[str]:
    """Maps over manifold pressure; one by throttle angle is held as it is."""
    keys = (*VE_MAPS, "lambda_target", *SPARK_MAPS)
    return [k for k in keys if k in calibration and not calibration[k].by_throttle]


def _read(table: SheetTable, pressures: FloatArray) -> FloatArray:
    """Return each row of a map at pressures of its own; shape of `pressures`."""
    across = np.array(table.axes[1].points)
    return np.stack(
        [np.interp(p, across, row) for p, row in zip(pressures, table.values, strict=True)]
    )


def _over_throttle(
    calibration: Calibration, tables: dict[str, SheetTable], spec: EngineSpec
) -> dict[str, SheetTable]:
    """Return maps over throttle angle; the fuel table becomes charge against a full one."""
    result = {}
    axis = SheetAxis("throttle_pct", "Throttle", "%", THROTTLE_PCT)
    for key in _maps(calibration):
        table = tables[key]
        speeds = np.maximum(np.array(table.axes[0].points), 300.0)
        pressures = np.array(
            [[throttle_map_kpa(spec, float(n), t) for t in THROTTLE_PCT] for n in speeds]
        )
        values = _read(table, pressures)
        note = "Read where this throttle angle is expected to put manifold pressure (calculated)."
        if key in VE_MAPS:
            values = values * pressures / REFERENCE_PRESSURE_KPA
            note = "Filling × expected manifold pressure over 100 kPa: charge by throttle angle."
        joined = " ".join(part for part in (table.note, note) if part)
        result[key] = replace(table, axes=(table.axes[0], axis), values=values, note=joined)
    return result


def _over_charge(
    calibration: Calibration, tables: dict[str, SheetTable], spec: EngineSpec
) -> dict[str, SheetTable]:
    """Return mixture and spark over measured air for each chamber and cycle, in milligrams."""
    ve = calibration["ve"]
    pressure = np.array(ve.axes[1].points)
    per_kpa = spec.chamber_l / (DRY_AIR_GAS_CONSTANT * REFERENCE_CHARGE_K) * 1000.0
    charge = np.asarray(ve.values) / 100.0 * pressure[None, :] * per_kpa
    # A hole in the fuel table must not make two pressures for one charge.
    charge = np.maximum.accumulate(charge + 1e-6 * np.arange(pressure.size), axis=1)
    points = np.linspace(float(np.median(charge[:, 0])), float(charge.max()), _CHARGES)
    step = 5.0 if points[-1] > 100.0 else 1.0
    rounded = tuple(sorted({float(round(p / step) * step) for p in points}))
    axis = SheetAxis("charge_mg", "Air for each chamber and cycle", "mg", rounded)
    pressures = np.stack([np.interp(rounded, row, pressure) for row in charge])
    result = {}
    for key in ("lambda_target", *SPARK_MAPS):
        if key not in calibration:
            continue
        table = tables[key]
        on_speeds = interpolated(
            calibration[key],
            [np.array(ve.axes[0].points), np.array(calibration[key].axes[1].points)],
        )
        moved = replace(table, axes=(sheet_table(ve).axes[0], table.axes[1]), values=on_speeds)
        note = "Read where this charge is expected to put manifold pressure (calculated)."
        result[key] = replace(
            moved, axes=(moved.axes[0], axis), values=_read(moved, pressures), note=note
        )
    return result
