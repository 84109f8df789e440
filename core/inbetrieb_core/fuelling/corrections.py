"""Corrections over charge temperature and air pressure, where logs span them; else "not told".

A slope of what the fuel map leaves over, map and slope solved in turn until neither moves.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from ..provenance import Provenance
from ..quantities import FloatArray
from ..sentences import fixed
from ..tables import Axis, Calibration, Table
from .samples import Readings
from .solve import MapFit, solve_map

CorrectionKey = Literal[
    "charge_temperature_correction", "barometric_correction", "warm_up_enrichment"
]

#: Field of the readings, unit, span that tells a slope (5 to 95 %), places of the table. [K, kPa]
_KINDS: dict[CorrectionKey, tuple[str, str, float, tuple[float, ...]]] = {
    "charge_temperature_correction": ("intake_c", "°C", 12.0, (-20.0, 0.0, 20.0, 40.0, 60.0, 80.0)),
    "barometric_correction": ("baro_kpa", "kPa", 6.0, (70.0, 80.0, 90.0, 100.0, 105.0)),
}
_NAMES = {"charge_temperature_correction": "intake air", "barometric_correction": "air pressure"}
_AXES = {"charge_temperature_correction": "intake_c", "barometric_correction": "barometric_kpa"}
_ROUNDS, _BAND, _LEAST_READINGS = 4, 1.645, 40
#: Readings of one leg go together for so many of them; a slope below this over the span is none. [–, ln]
_TOGETHER, _SMALL = 6.0, 0.01


@dataclass(frozen=True)
class CorrectionTold:
    """A correction.

    Attributes
    ----------
    key : str
        Table it goes into.
    is_told : bool
    percent, low, high : float
        Fuel for each 10 K or 10 kPa more, or at the coldest point that was driven, with its 90 % band. [%]
    points, values : tuple of float
        The table that is proposed [°C or kPa, %]; empty where nothing is told, or nothing to change.
    sentence : str
    """

    key: CorrectionKey
    is_told: bool
    percent: float
    low: float
    high: float
    points: tuple[float, ...]
    values: tuple[float, ...]
    sentence: str


def corrections_of(
    readings: Readings, axes: Sequence[Sequence[float]], calibration: Calibration
) -> tuple[CorrectionTold, ...]:  # fmt: skip
    """Return what readings say of the corrections over intake air and air pressure.

    Parameters
    ----------
    readings : Readings
    axes : sequence of sequence of float
        Rows and columns of the table that is corrected.
    calibration : Calibration
        In force; what is proposed comes on top of its corrections.
    """
    return tuple(_correction(key, readings, axes, calibration) for key in _KINDS)


def _correction(
    key: CorrectionKey, readings: Readings, axes: Sequence[Sequence[float]], calibration: Calibration
) -> CorrectionTold:  # fmt: skip
    field, unit, needed, points = _KINDS[key]
    values = getattr(readings, field)
    known = np.isfinite(values)
    what = _NAMES[key]
    if known.sum() < _LEAST_READINGS:
        return _untold(key, f"Not told: {what} is not logged, or hardly.")
    low, high = np.quantile(values[known], (0.05, 0.95))
    step = "K" if unit == "°C" else "kPa"
    if high - low < needed:
        return _untold(key, f"Not told: {what} spans {high - low:.0f} {step} in these logs, {needed:.0f} {step} are needed.")  # fmt: skip
    chosen = readings.chosen(known)
    away = values[known] - float(np.median(values[known]))
    slope, error = _slope(chosen, away, axes)
    percent, band = (100.0 * 10.0 * v for v in (slope, _BAND * error))
    moves = abs(slope) * (high - low) > _SMALL and abs(slope) > _BAND * error
    said = f"With 10 {step} more of {what} the engine asks for {fixed(percent, 1, signed=True)} ± {band:.1f} % fuel beyond what the controller does."
    if not moves:
        return CorrectionTold(key, True, percent, percent - band, percent + band, (), (), f"{said} Nothing to change.")  # fmt: skip
    before = calibration.tables.get(key)
    held = np.full(len(points), 100.0) if before is None else np.interp(points, before.axes[0].points, before.values)  # fmt: skip
    # Beyond what was driven the line is not drawn on.
    reach = np.clip(np.array(points), low, high) - float(np.median(values[known]))
    table = np.clip(np.round(held * np.exp(slope * reach), 1), 50.0, 150.0)
    return CorrectionTold(key, True, percent, percent - band, percent + band, points, tuple(table.tolist()), said)  # fmt: skip


def _untold(key: CorrectionKey, sentence: str) -> CorrectionTold:
    return CorrectionTold(key, False, 0.0, 0.0, 0.0, (), (), sentence)


def _slope(
    readings: Readings, away: FloatArray, axes: Sequence[Sequence[float]]
) -> tuple[float, float]:  # fmt: skip
    """Return the slope of ln need and its standard error, map and slope in turn. [1/unit]"""
    slope, fit = 0.0, MapFit(np.empty(0), np.empty(0), np.empty(0), 0.0, 0.0, np.empty(0))
    for _ in range(_ROUNDS):
        rest_of = replace(readings, need=readings.need - slope * away)
        fit = solve_map(rest_of, axes)
        # What one place of the map was driven at, on the whole, is its own affair.
        within = _within_cells(readings, away, axes)
        sure = 1.0 / readings.spread**2
        slope += float((sure * within * fit.rest).sum() / max((sure * within**2).sum(), 1e-12))
    scatter = 1.4826 * float(np.median(np.abs(fit.rest)))
    error = scatter * np.sqrt(_TOGETHER) / np.sqrt(max(float((within**2).sum()), 1e-9))
    return slope, float(error)


def _within_cells(
    readings: Readings, away: FloatArray, axes: Sequence[Sequence[float]]
) -> FloatArray:  # fmt: skip
    """Return the part of a quantity that is not its place on the map."""
    places = [np.abs(np.subtract.outer(v, np.array(a))).argmin(axis=1) for v, a in zip((readings.row, readings.column), axes, strict=True)]  # fmt: skip
    _, group = np.unique(places[0] * len(axes[1]) + places[1], return_inverse=True)
    return np.asarray(away - (np.bincount(group, away) / np.bincount(group))[group])


def correction_table(told: CorrectionTold, source: str) -> Table:
    """Return the table of a correction that was told.

    Parameters
    ----------
    told : CorrectionTold
        With points.
    source : str
        For the provenance.
    """
    unit = _KINDS[told.key][1]
    marks = np.empty(len(told.points), dtype=object)
    marks[:] = Provenance("measured", told.sentence, source)
    return Table(
        told.key, (Axis(_AXES[told.key], unit, told.points),), np.array(told.values), marks
    )
