"""How a parked engine cools, and when it is cold right through.

Newton's law of cooling: T(t) = T_ambient + (T_0 − T_ambient) · e^(−t/τ) (Incropera & DeWitt,
Fundamentals of Heat and Mass Transfer, lumped capacitance, from memory). Its time constant is read
from parked readings; without any it is what the trade knows of engines in a garage.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..estimate import BAND
from ..sensors.circumstances import COOLING_H

#: How far the time constant of an engine in a garage may be off before anything was read. Common
#: practice, no source. [ln]
_TAU_SPREAD = 0.35
#: How well coolant and air are read on a parked car. [K]
_READING_K = 1.2
#: An engine switched off warm, and how far that may be off. [°C, K]
SWITCHED_OFF_C, _SWITCHED_OFF_SPREAD_K = 85.0, 12.0
#: Cold right through: this close to the air around it. [K]
COLD_WITHIN_K = 2.0
_TRIED_H = np.exp(np.linspace(math.log(0.4), math.log(12.0), 241))


@dataclass(frozen=True)
class ParkedReading:
    """Coolant of an engine that stands.

    Attributes
    ----------
    parking : str
        Which standing it belongs to, as the installer calls it: one night, one noon.
    stood_h : float
        Since it was switched off. [h]
    coolant_c, ambient_c : float
        Then. [°C]
    """

    parking: str
    stood_h: float
    coolant_c: float
    ambient_c: float


@dataclass(frozen=True)
class Cooling:
    """How an engine cools.

    Attributes
    ----------
    tau_h : float
        Time constant. [h]
    spread : float
        Of its logarithm. [ln]
    readings : int
        That it is read from; 0 is the trade's figure. [–]
    """

    tau_h: float
    spread: float
    readings: int = 0

    def coolant_after(self, stood_h: float, from_c: float, ambient_c: float) -> float:
        """Return the coolant temperature after standing. [°C]

        Parameters
        ----------
        stood_h : float
            [h]
        from_c, ambient_c : float
            Coolant when switched off, and air around it. [°C]
        """
        return ambient_c + (from_c - ambient_c) * math.exp(-stood_h / self.tau_h)

    def hours_until(self, coolant_c: float, from_c: float, ambient_c: float) -> float | None:
        """Return how long it takes to cool to a temperature, None where it never does. [h]

        Parameters
        ----------
        coolant_c : float
            Wanted. [°C]
        from_c, ambient_c : float
            Coolant when switched off, and air around it. [°C]
        """
        if coolant_c >= from_c:
            return 0.0
        if coolant_c <= ambient_c:
            return None
        return self.tau_h * math.log((from_c - ambient_c) / (coolant_c - ambient_c))


@dataclass(frozen=True)
class Ready:
    """When a stopped engine is cold right through.

    Attributes
    ----------
    after_h : float
        From being switched off until it is within :data:`COLD_WITHIN_K` of the air. [h]
    low_h, high_h : float
        Between which that lies with 90 %. [h]
    """

    after_h: float
    low_h: float
    high_h: float


def fit_cooling(readings: Sequence[ParkedReading]) -> Cooling:
    """Return how an engine cools, from readings of one or more standings.

    Parameters
    ----------
    readings : sequence of ParkedReading
        In any order; a single one of a standing counts from an engine switched off warm.

    Notes
    -----
    On a grid of time constants the coolant at switch-off is integrated out in closed form: given the
    constant a reading is linear in it.
    """
    tau = np.log(_TRIED_H)
    told = -0.5 * ((tau - math.log(COOLING_H)) / _TAU_SPREAD) ** 2
    for name in sorted({r.parking for r in readings}):
        group = [r for r in readings if r.parking == name]
        told = told + _log_likelihood(group)
    share = np.exp(told - told.max())
    share /= share.sum()
    mean = float((share * tau).sum())
    spread = math.sqrt(float((share * (tau - mean) ** 2).sum()))
    return Cooling(math.exp(mean), spread, len(readings))


def _log_likelihood(group: Sequence[ParkedReading]) -> np.ndarray:
    """Return the log likelihood of one standing for every tried time constant. [–]"""
    stood, coolant, air = (
        np.array([getattr(r, name) for r in group])
        for name in ("stood_h", "coolant_c", "ambient_c")
    )
    left = np.exp(-stood[None, :] / _TRIED_H[:, None])
    off = coolant - air - left * (SWITCHED_OFF_C - air)
    # Air is read with an error, too; how it went meanwhile counts as much again.
    noise = _READING_K**2 * (1.0 + (1.0 - left) ** 2)
    precision = 1.0 / noise
    of_start = (left**2 * precision).sum(axis=1) + _SWITCHED_OFF_SPREAD_K**-2
    pull = (left * off * precision).sum(axis=1)
    chi = (off**2 * precision).sum(axis=1) - pull**2 / of_start
    return np.asarray(-0.5 * (chi + np.log(noise).sum(axis=1) + np.log(of_start)))


def ready(cooling: Cooling, from_c: float, ambient_c: float) -> Ready:
    """Return when an engine is cold right through.

    Parameters
    ----------
    cooling : Cooling
        Of this engine.
    from_c : float
        Coolant when it was switched off. [°C]
    ambient_c : float
        Air around it. [°C]
    """
    parts = max(0.0, math.log(max(from_c - ambient_c, COLD_WITHIN_K) / COLD_WITHIN_K))
    wide = math.exp(BAND * cooling.spread)
    after = cooling.tau_h * parts
    return Ready(after, after / wide, after * wide)
