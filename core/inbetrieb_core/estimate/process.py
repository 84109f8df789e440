"""A need over coolant temperature as a Gaussian process, in closed form.

Departures from the engine data are estimated at knots over temperature. Evidence of one trial has an
error of its own in common, so that forty readings of one log are not forty logs. Rasmussen &
Williams, Gaussian Processes for Machine Learning (2006), ch. 2 and 5, in information form.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..quantities import FloatArray
from .coordinates import Coordinate

#: Knots of every curve. [°C]
KNOTS_C: FloatArray = np.arange(-40.0, 116.0, 5.0)
#: Lengths over which a departure stays alike, and widenings of the prior, that are tried. [K, –]
LENGTHS_K: tuple[float, ...] = (18.0, 28.0, 45.0)
WIDENINGS: tuple[float, ...] = (0.7, 1.0, 1.5)
#: What all readings of one trial may be off together at the least, and an error of its own. [–]
TRIAL_ERROR, _LEAST_ERROR = 0.015, 1e-3
_JITTER = 1e-8


@dataclass(frozen=True)
class Reading:
    """One closed-form piece of evidence in the estimated coordinate.

    Attributes
    ----------
    coolant_c : float
        [°C]
    value, spread : float
        Need and standard error. [–]
    trial : int or None
        That it comes from.
    common : float
        The part of the error that it shares with the others of its trial, with each of them the smaller
        of their two. [–]
    """

    coolant_c: float
    value: float
    spread: float
    trial: int | None
    common: float = 0.0


@dataclass(frozen=True)
class Curve:
    """A need over temperature in the estimated coordinate.

    Attributes
    ----------
    mean : ndarray
        At :data:`KNOTS_C`. [–]
    covariance : ndarray
        Of the knots. [–]
    prior_spread : ndarray
        Standard deviation before any evidence. [–]
    """

    mean: FloatArray
    covariance: FloatArray
    prior_spread: FloatArray

    def at(self, coolant_c: FloatArray) -> FloatArray:
        """Return the mean at temperatures. [–]"""
        return np.asarray(np.interp(coolant_c, KNOTS_C, self.mean))

    def spread_at(self, coolant_c: FloatArray) -> FloatArray:
        """Return the standard deviation at temperatures. [–]"""
        weights = knot_weights(coolant_c)
        variance = ((weights @ self.covariance) * weights).sum(axis=1)
        return np.asarray(np.sqrt(np.maximum(variance, 0.0)))

    def draws_at(self, coolant_c: FloatArray, count: int, rng: np.random.Generator) -> FloatArray:
        """Return draws of the curve at temperatures, shape (count, n). [–]"""
        weights = knot_weights(coolant_c)
        covariance = weights @ self.covariance @ weights.T + _JITTER * np.eye(coolant_c.size)
        root = np.linalg.cholesky(0.5 * (covariance + covariance.T))
        return np.asarray(
            self.at(coolant_c) + rng.standard_normal((count, coolant_c.size)) @ root.T
        )

    def told_at(self, coolant_c: FloatArray) -> FloatArray:
        """Return which share of the prior's variance evidence has taken away, 0 to 1. [–]"""
        before = np.interp(coolant_c, KNOTS_C, self.prior_spread)
        return np.asarray(np.clip(1.0 - (self.spread_at(coolant_c) / before) ** 2, 0.0, 1.0))


def knot_weights(coolant_c: FloatArray, knots_c: FloatArray = KNOTS_C) -> FloatArray:
    """Return the weights of the knots at temperatures, shape (n, knots); level beyond the ends. [–]

    Parameters
    ----------
    coolant_c : ndarray, shape (n,)
        [°C]
    knots_c : ndarray
        Rising. [°C]
    """
    place = np.clip(coolant_c, knots_c[0], knots_c[-1])
    left = np.clip(np.searchsorted(knots_c, place, side="right") - 1, 0, knots_c.size - 2)
    share = (place - knots_c[left]) / (knots_c[left + 1] - knots_c[left])
    row = np.arange(place.size)
    weights = np.zeros((place.size, knots_c.size))
    weights[row, left] = 1.0 - share
    weights[row, left + 1] = share
    return weights


def prior_covariance(
    coordinate: Coordinate,
    length_k: float,
    widening: float = 1.0,
    knots_c: FloatArray = KNOTS_C,
) -> FloatArray:
    """Return the covariance of the departures at the knots. [–]

    Parameters
    ----------
    coordinate : Coordinate
        Of the table.
    length_k : float
        Over which a local departure stays alike. [K]
    widening : float
        Of the prior. [–]
    knots_c : ndarray
        [°C]
    """
    apart = (knots_c[:, None] - knots_c[None, :]) / length_k
    colder = coordinate.colder_at(knots_c)
    local = 1.0 - coordinate.common - coordinate.trend
    alike = coordinate.common + coordinate.trend * np.outer(colder, colder)
    alike += local * np.exp(-0.5 * apart**2)
    scale = widening * coordinate.scale_at(knots_c)
    return np.asarray(scale[:, None] * alike * scale[None, :] + _JITTER * np.eye(knots_c.size))


def posterior(
    mean: FloatArray,
    coordinate: Coordinate,
    readings: Sequence[Reading],
    *,
    length_k: float | None = None,
    widening: float | None = None,
) -> Curve:
    """Return the curve after the evidence.

    Parameters
    ----------
    mean : ndarray
        Prior mean at the knots. [–]
    coordinate : Coordinate
        Its spread.
    readings : sequence of Reading
        In any order.
    length_k, widening : float or None
        Fixed; where None the likeliest of a few is taken. [K, –]
    """
    information, pull, chi = _information(mean, readings)
    # Without readings every choice is as likely; the middle one is taken.
    tried = slice(None) if readings else slice(1, 2)
    lengths = LENGTHS_K[tried] if length_k is None else (length_k,)
    widenings = WIDENINGS[tried] if widening is None else (widening,)
    best: tuple[float, Curve] | None = None
    for length in lengths:
        for wide in widenings:
            prior = prior_covariance(coordinate, length, wide)
            system = np.eye(KNOTS_C.size) + prior @ information
            covariance = np.linalg.solve(system, prior)
            covariance = 0.5 * (covariance + covariance.T)
            departure = covariance @ pull
            likelihood = -0.5 * (np.linalg.slogdet(system)[1] + chi - pull @ departure)
            likelihood -= 2.0 * np.log(wide) ** 2  # a wider prior has to be asked for
            if best is None or likelihood > best[0] + 1e-9:
                spread = wide * coordinate.spread_at(KNOTS_C)
                best = (float(likelihood), Curve(mean + departure, covariance, spread))
    assert best is not None
    return best[1]


def _information(
    mean: FloatArray, readings: Sequence[Reading]
) -> tuple[FloatArray, FloatArray, float]:
    """Return information matrix and vector about the departures at the knots, and χ² of none."""
    if not readings:
        return np.zeros((KNOTS_C.size, KNOTS_C.size)), np.zeros(KNOTS_C.size), 0.0
    coolant_c, value, spread, common = np.array(
        [(r.coolant_c, r.value, r.spread, r.common) for r in readings], dtype=float
    ).T
    weights = knot_weights(coolant_c)
    off = value - weights @ mean
    own = np.maximum(spread**2 - common**2, _LEAST_ERROR**2)
    common = np.hypot(common, TRIAL_ERROR)
    # Trials are independent of each other: one small matrix for each, all filled up to the size of the largest.
    places, filled = _by_trial(readings)
    # What one of two readings has beyond the smaller common error has reasons of its own: were it one error of
    # differing size, their difference would tell it, and the common error be gone.
    in_common = common[places] * filled
    errors = np.minimum(in_common[:, :, None], in_common[:, None, :]) ** 2
    errors += np.eye(places.shape[1]) * np.where(filled, own[places], 1.0)[:, :, None]
    asked = np.concatenate([weights, off[:, None]], axis=1)[places] * filled[:, :, None]
    told = np.linalg.solve(errors, asked)
    both = asked.reshape(-1, asked.shape[2]).T @ told.reshape(-1, told.shape[2])
    return both[:-1, :-1], both[:-1, -1], float(both[-1, -1])


def _by_trial(readings: Sequence[Reading]) -> tuple[NDArray[np.intp], NDArray[np.bool_]]:
    """Return the numbers of the readings of each trial, and which of them stand for one.

    Both of shape (trials, most readings of one).
    """
    by_trial: dict[int | None, list[int]] = {}
    for number, reading in enumerate(readings):
        by_trial.setdefault(reading.trial, []).append(number)
    most = max(len(group) for group in by_trial.values())
    places = np.zeros((len(by_trial), most), dtype=np.intp)
    filled = np.zeros(places.shape, dtype=np.bool_)
    for row, group in enumerate(by_trial.values()):
        places[row, : len(group)] = group
        filled[row, : len(group)] = True
    return places, filled
