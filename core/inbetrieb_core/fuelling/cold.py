"""Cold drivability: what a drive below operating temperature asks for beyond the warm map, kept apart from it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from ..logs import Trace
from ..provenance import Provenance
from ..quantities import FloatArray
from ..sentences import fixed
from ..tables import Calibration, Table
from ..tables.weights import weight_matrix
from .corrections import CorrectionKey, CorrectionTold
from .layers import stack
from .samples import Readings, binned, joined

#: Cold drivability ends here: above it the last of warm-up enrichment hardly shows (common practice, no source). [°C]
COLD_BELOW_C = 60.0
#: Least of cold driving that tells. [s]
_LEAST_S = 25
#: What warm-up may be off, and how rough its error is over neighbouring points. [ln, ln]
_OFF, _ROUGH = 0.08, 0.03
#: Seconds of one drive go together; less than this stays; most of one pass. [s, ln, ln]
_TOGETHER_S, _SMALL, _MOST = 6.0, 0.01, 0.1
_BAND = 1.645
_KEY: CorrectionKey = "warm_up_enrichment"


def cold_readings(trace: Trace, calibration: Calibration) -> tuple[Readings, FloatArray]:
    """Return the readings of a drive while it was cold, and the coolant of each [°C].

    Parameters
    ----------
    trace : Trace
    calibration : Calibration
        That was in the controller.
    """
    coolant = trace.get("coolant_c")
    cold = None if coolant is None else np.isfinite(coolant) & (coolant < COLD_BELOW_C)
    if cold is None or not cold.any():
        return joined(()), np.empty(0)
    counts, _ = stack(trace, {"warm"})
    return binned(trace, calibration, "ve", counts & cold)


def cold_told(
    readings: Readings,
    coolant_c: FloatArray,
    axes: Sequence[Sequence[float]],
    log_factor: FloatArray,
    calibration: Calibration,
) -> CorrectionTold:
    """Return what warm-up enrichment is off by, point by point, as cold drives have it.

    Parameters
    ----------
    readings : Readings
        Of cold driving.
    coolant_c : ndarray
        At each. [°C]
    axes, log_factor : sequence of sequence of float, ndarray
        Of the warm map: its breakpoints, and ln of what its cells need. [–]
    calibration : Calibration
        In force.
    """
    table = calibration.tables.get(_KEY)
    if table is None or len(readings) < _LEAST_S:
        return _untold(f"Not told: {len(readings)} s of driving below {COLD_BELOW_C:.0f} °C, {_LEAST_S} s are needed.")  # fmt: skip
    warm = weight_matrix(axes, [readings.row, readings.column]) @ log_factor.ravel()
    rest = readings.need - warm
    points = table.axes[0].points
    weights = weight_matrix([points], [coolant_c]).toarray()
    sure = 1.0 / (readings.spread**2 * _TOGETHER_S)
    bends = np.diff(np.eye(len(points)), 2, axis=0)
    precision = weights.T @ (weights * sure[:, None])
    precision += np.eye(len(points)) / _OFF**2 + bends.T @ bends / _ROUGH**2
    covariance = np.linalg.inv(precision)
    off = covariance @ weights.T @ (sure * rest)
    apart = rest - weights @ off
    scatter = max(1.0, 1.4826 * float(np.median(np.abs(apart) / readings.spread)))
    error = scatter * np.sqrt(np.diag(covariance))
    seen = weights.sum(axis=0) >= 0.25 * _LEAST_S
    moves = seen & (np.abs(off) > _SMALL) & (np.abs(off) > _BAND * error)
    coldest = int(np.flatnonzero(seen)[0]) if seen.any() else 0
    percent, band = 100.0 * float(off[coldest]), 100.0 * _BAND * float(error[coldest])
    said = (
        f"Cold driving, kept apart from the warm map: at {points[coldest]:.0f} °C the engine asks for "
        f"{fixed(percent, 1, signed=True)} ± {band:.1f} % fuel beyond warm-up enrichment."
    )
    if not moves.any():
        return CorrectionTold(_KEY, True, percent, percent - band, percent + band, (), (), f"{said} Nothing to change.")  # fmt: skip
    held = np.asarray(table.values, dtype=float)
    changed = np.where(moves, np.round(held * np.exp(np.clip(off, -_MOST, _MOST)), 1), held)
    return CorrectionTold(
        _KEY, True, percent, percent - band, percent + band, points, tuple(changed.tolist()), said
    )


def warmed_up(table: Table, told: CorrectionTold, source: str) -> Table:
    """Return warm-up enrichment with what was told; points that stay keep where they came from.

    Parameters
    ----------
    table : Table
        In force.
    told : CorrectionTold
    source : str
        For the provenance.
    """
    values = np.array(told.values)
    marks = table.provenance.copy()
    for place in np.flatnonzero(values != table.values):
        marks[place] = Provenance("measured", told.sentence, source)
    return replace(table, values=values, provenance=marks)


def _untold(sentence: str) -> CorrectionTold:
    return CorrectionTold(_KEY, False, 0.0, 0.0, 0.0, (), (), sentence)
