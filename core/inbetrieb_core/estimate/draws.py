"""Draws of a need over coolant temperature, where outcomes alone tell: what cranking and run-up share."""

from __future__ import annotations

from abc import ABC, abstractmethod
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from ..quantities import FloatArray
from .process import knot_weights

#: What a draw counts that does not explain a failure at all. [–]
_LEAST_BLAMED = 1e-3
#: Knots of a sampled need. [°C]
PLACES_C: FloatArray = np.arange(-40.0, 111.0, 10.0)


@dataclass(frozen=True)
class Draws(ABC):
    """Draws of a need from outcomes of starts.

    Attributes
    ----------
    need : ndarray, shape (draws, places)
        At :data:`PLACES_C`, in the coordinate of the table. [–]
    window : ndarray, shape (draws, parts)
        Of each draw, how far the need may be missed and what happens then.
    told : ndarray, shape (draws, starts)
        Log likelihood of every start. [–]
    blamed : ndarray, shape (draws, starts)
        Of starts that failed, by each draw the probability that it was by this fuel; else 1. [–]
    trials : tuple of int or None
        Trial of every start.
    state : ndarray, shape (draws, places + parts)
        The draws in the sampler's own coordinates.
    """

    need: FloatArray
    window: FloatArray
    told: FloatArray
    blamed: FloatArray
    trials: tuple[int | None, ...]
    state: FloatArray

    def need_at(self, coolant_c: FloatArray) -> FloatArray:
        """Return the draws at temperatures, shape (draws, n). [–]"""
        return self.need @ knot_weights(coolant_c, PLACES_C).T

    @abstractmethod
    def good_of_each(
        self, coolant_c: FloatArray, given: FloatArray, limit: FloatArray
    ) -> FloatArray:
        """Return by each draw the probability that it comes out within a limit, shape (..., draws, n)."""

    def good_at(
        self,
        coolant_c: FloatArray,
        given: FloatArray,
        limit: FloatArray,
        weight: FloatArray | None = None,
    ) -> FloatArray:
        """Return the probability that it comes out within a limit; see :meth:`good_of_each`.

        `weight`, shape (draws,), is how much each draw counts, alike where there is none. [–]
        """
        good = self.good_of_each(coolant_c, given, limit)
        if weight is None:
            return np.asarray(good.mean(axis=-2, dtype=float))
        return np.asarray(np.einsum("...dn,d->...n", good, weight / weight.sum(), dtype=float))

    def failed_by_this(self) -> FloatArray:
        """Return how much each draw counts if the newest start failed by this fuel, shape (draws,). [–]"""
        newest = np.array([trial is None for trial in self.trials], dtype=bool)
        return np.asarray(self.blamed[:, newest].prod(axis=1, dtype=float) + _LEAST_BLAMED)

    def to_blame(self) -> float:
        """Return the probability that the newest start failed by this fuel, if it failed. [–]"""
        return float(self.failed_by_this().mean())

    def need_without(self, trial: int, coolant_c: float) -> float:
        """Return the median need as it would be without one trial. [–]

        Parameters
        ----------
        trial : int
            Whose outcomes are taken out, by weighing the draws with the inverse of their likelihood
            (Gelfand 1996, importance sampling leave-one-out); no new draws are needed.
        coolant_c : float
            [°C]
        """
        mine = self.told[:, np.array([t == trial for t in self.trials], dtype=bool)].sum(axis=1)
        weight = np.exp(mine.min() - mine)
        need = self.need_at(np.array([coolant_c]))[:, 0]
        order = np.argsort(need)
        share = np.cumsum(weight[order]) / weight.sum()
        return float(need[order][int(np.searchsorted(share, 0.5))])


def columns(window: FloatArray) -> list[FloatArray]:
    """Return the parts of windows as columns, which go with any number of starts."""
    return [window[:, i : i + 1] for i in range(window.shape[1])]


def single(values: ArrayLike) -> FloatArray:
    """Return numbers in single precision: likelihoods of noisy outcomes need no more, and are halved
    in time by it.
    """
    return np.asarray(values, dtype=np.float32)


def double(values: FloatArray) -> FloatArray:
    """Return numbers in double precision, for what is computed of them later."""
    return np.asarray(values, dtype=np.float64)


def sigmoid(value: FloatArray) -> FloatArray:
    """Return the logistic function, by the hyperbolic tangent, which is quicker than SciPy's own. [–]"""
    return np.asarray(0.5 + 0.5 * np.tanh(0.5 * value))


def survives(too_rich: FloatArray, too_lean: FloatArray) -> FloatArray:
    """Return the probability of being neither too rich nor too lean. [–]"""
    return np.asarray((1.0 - too_rich) * (1.0 - too_lean))


def spread_out(state: FloatArray, parts: tuple[tuple[float, float], ...]) -> FloatArray:
    """Return positive parts of a window from standard normal states.

    Parameters
    ----------
    state : ndarray, shape (states, parts)
        [–]
    parts : tuple of (float, float)
        Median, and spread of the logarithm, of each.
    """
    median, spread = (np.array(column, dtype=state.dtype) for column in zip(*parts, strict=True))
    return np.asarray(median * np.exp(spread * state))
