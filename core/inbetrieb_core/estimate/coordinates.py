"""In which coordinate each start table is estimated, and what engine data say of it beforehand.

Fuel and valve openings are estimated as logarithms: an engine needs a share more, not a number more.
Each need is the engine data's curve plus a departure that is partly common to all temperatures and
partly local, wider in the cold where the data know less.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import ArrayLike

from ..charge import expected_start_value
from ..charge.cold_fuel import WARM_C
from ..engine import EngineSpec
from ..quantities import FloatArray

#: Coldest temperature at which the prior is as wide as it gets, and least value of a logarithm.
_COLDEST_C, _LEAST = -20.0, 1e-3
#: Where the trend towards the cold begins, and over what it grows. [°C, K]
_TREND_FROM_C, _TREND_OVER_K = 40.0, 50.0
#: And where it ends: colder than that nobody has looked. [–]
_TREND_MOST = 1.6
#: Widening of the prior by pure ethanol, and by a kilometre of altitude. [–, 1/km]
_ETHANOL_WIDENS, _ALTITUDE_WIDENS = 0.6, 0.06
#: What the open valve passes where nobody measured it, against what is taken for it. [ln]
_VALVE_UNKNOWN = 0.20


@dataclass(frozen=True)
class Coordinate:
    """How one table is estimated.

    Attributes
    ----------
    to_scale, from_scale : callable
        From the table's unit to the estimated coordinate, and back; arrays of any shape.
    warm_spread, cold_spread : float
        Scale of the departure from the engine data in a warm engine and at −20 °C: its standard
        deviation where the trend is whole, at −10 °C. [–]
    common : float
        Share of the variance that is the same at all temperatures. [–]
    trend : float
        Share that grows towards the cold, none from 40 °C on: a need that leaves the engine data
        between 20 and 0 °C goes on doing so below. [–]
    """

    to_scale: Callable[[ArrayLike], FloatArray]
    from_scale: Callable[[ArrayLike], FloatArray]
    warm_spread: float
    cold_spread: float
    common: float
    trend: float = 0.25

    def colder_at(self, coolant_c: FloatArray) -> FloatArray:
        """Return how far towards the cold a temperature lies: 0 from 40 °C on, 1 at −10. [–]"""
        return np.asarray(np.clip((_TREND_FROM_C - coolant_c) / _TREND_OVER_K, 0.0, _TREND_MOST))

    def widened(self, factor: float) -> Coordinate:
        """Return the same with its prior wider by a factor. [–]"""
        warm, cold = factor * self.warm_spread, factor * self.cold_spread
        return replace(self, warm_spread=warm, cold_spread=cold)

    def spread_at(self, coolant_c: FloatArray) -> FloatArray:
        """Return the standard deviation of the departure at coolant temperatures [°C]. [–]"""
        colder = self.colder_at(coolant_c)
        return self.scale_at(coolant_c) * np.sqrt(1.0 + self.trend * (colder**2 - 1.0))

    def scale_at(self, coolant_c: FloatArray) -> FloatArray:
        """Return the scale of the departure at coolant temperatures [°C]. [–]"""
        cold = np.clip((WARM_C - coolant_c) / (WARM_C - _COLDEST_C), 0.0, 1.0)
        return np.asarray(self.warm_spread + (self.cold_spread - self.warm_spread) * cold)


def widened_by(spec: EngineSpec, table: str) -> float:
    """Return by how much the prior of a table is wider for what the engine data know less of. [–]

    Ethanol evaporates otherwise from blend to blend and season to season, thin air changes vaporisation
    and idle, and what an idle valve passes differs from car to car. Common practice, no source.

    Parameters
    ----------
    spec : EngineSpec
        The engine.
    table : str
        A key of :data:`COORDINATES`.
    """
    high_km = max(0.0, spec.altitude_m) / 1000.0
    wider = 1.0 + _ETHANOL_WIDENS * spec.ethanol_volume_share + _ALTITUDE_WIDENS * high_km
    if table in ("idle_valve", "cranking_air") and spec.idle_valve_full_gps is None:
        wider *= math.hypot(1.0, _VALVE_UNKNOWN / COORDINATES[table].warm_spread)
    return wider


def _ln(value: ArrayLike) -> FloatArray:
    return np.asarray(np.log(np.maximum(value, _LEAST)))


def _exp(scale: ArrayLike) -> FloatArray:
    return np.asarray(np.exp(scale))


def _ln_enriched(percent: ArrayLike) -> FloatArray:
    return _ln(1.0 + np.asarray(percent) / 100.0)


def _enriched(scale: ArrayLike) -> FloatArray:
    return np.asarray(100.0 * np.expm1(scale))


_LOGARITHM = (_ln, _exp)

#: By table. Spreads are common practice (no source): generated tables are a starting point.
COORDINATES: dict[str, Coordinate] = {
    "warm_up_enrichment": Coordinate(*_LOGARITHM, 0.05, 0.20, 0.55),
    "idle_valve": Coordinate(*_LOGARITHM, 0.25, 0.30, 0.55),
    "after_start_enrichment": Coordinate(_ln_enriched, _enriched, 0.11, 0.18, 0.45),
    "after_start_fade": Coordinate(*_LOGARITHM, 0.45, 0.45, 0.55),
    "cranking_air": Coordinate(*_LOGARITHM, 0.30, 0.30, 0.45),
    "cranking_fuel": Coordinate(*_LOGARITHM, 0.35, 0.40, 0.6, 0.1),
}


def prior_mean(spec: EngineSpec, table: str, coolant_c: FloatArray) -> FloatArray:
    """Return what engine data expect, in the estimated coordinate.

    Parameters
    ----------
    spec : EngineSpec
        The engine.
    table : str
        A key of :data:`COORDINATES`. Cranking air stands for the whole opening while cranking.
    coolant_c : ndarray
        [°C]
    """
    to_scale = COORDINATES[table].to_scale
    values = [expected_start_value(spec, table, float(c)) for c in coolant_c]
    if table == "cranking_air":
        values = [
            value + expected_start_value(spec, "idle_valve", float(c))
            for value, c in zip(values, coolant_c, strict=True)
        ]
    return to_scale(values)
