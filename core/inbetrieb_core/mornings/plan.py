"""A season of mornings: which to use, for what, and how many it takes until all is proven.

Seasons are drawn: mornings about their forecast, starts good or not by each draw of what is believed,
and what a start that was not good puts right near by. What comes out is as good as that last figure,
which was chosen by looking at simulated seasons and not measured (docs/how-it-computes.md).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..estimate import LadderEstimate
from ..quantities import FloatArray
from ..starts import NEAR_PROOF_K, PROOF_STARTS, good_of_draws
from ..tables import Calibration
from .experiments import information
from .weather import Morning

#: A start that was not good is followed by changes that put right this share of what was wrong where it
#: was, less with distance; nothing is ever surer than the most. Chosen by looking. [–, K, –]
_PUTS_RIGHT, _REACHES_K, _MOST_GOOD = 0.5, 20.0, 0.93
#: Restarts that every day gives beside its cold start. [°C]
_EVERY_DAY_C = (40.0, 80.0)
_SEASONS, _GRID_STEP_K = 300, 5.0
#: A morning that tells less than this is not worth a battery. [bit]
_WORTH_BIT = 0.01


@dataclass(frozen=True)
class PlannedMorning:
    """One morning of the plan.

    Attributes
    ----------
    day : str
        ISO date.
    minimum_c, spread_k : float
        Expected, and how well. [°C, K]
    forecast : bool
        Whether it was typed for this day.
    good : float
        Chance of a good start with the tables in force. [–]
    teaches : float
        What its outcome says of the check temperatures. [bit]
    serves_c : tuple of float
        Open check temperatures that it can help to prove. [°C]
    worth : bool
        Whether it is worth a cold start.
    """

    day: str
    minimum_c: float
    spread_k: float
    forecast: bool
    good: float
    teaches: float
    serves_c: tuple[float, ...]
    worth: bool


@dataclass(frozen=True)
class SeasonPlan:
    """What a season of mornings is good for.

    Attributes
    ----------
    mornings : tuple of PlannedMorning
        The next one first.
    proven_c, open_c : tuple of float
        Check temperatures. [°C]
    starts, low, high : int or None
        Cold starts until all that the season offers is proven: median, and the ends of its 90 % band;
        None where it most often is not enough.
    done_share : float
        In which share of drawn seasons all of it was proven. [–]
    unoffered_c : tuple of float
        Open check temperatures that hardly any drawn season offers often enough. [°C]
    """

    mornings: tuple[PlannedMorning, ...]
    proven_c: tuple[float, ...]
    open_c: tuple[float, ...]
    starts: int | None
    low: int | None
    high: int | None
    done_share: float
    unoffered_c: tuple[float, ...]


def season_plan(
    believed: LadderEstimate,
    calibration: Calibration,
    mornings: Sequence[Morning],
    checks_c: Sequence[float],
    proven_c: Sequence[float],
    *,
    seed: int = 1,
) -> SeasonPlan:
    """Return what to do on which morning.

    Parameters
    ----------
    believed : LadderEstimate
        After all starts.
    calibration : Calibration
        In force.
    mornings : sequence of Morning
        That come, the next one first.
    checks_c, proven_c : sequence of float
        Temperatures at which starts have to be proven, and those of them that are. [°C]
    seed : int
        Of the drawn seasons.
    """
    checks = np.array(checks_c)
    done = np.isin(checks, np.array(proven_c))
    still = tuple(float(c) for c in checks[~done])
    if not mornings or not still:
        return SeasonPlan((), tuple(proven_c), still, 0 if not still else None, None, None, 0.0, ())
    minimum = np.array([m.minimum_c for m in mornings])
    good = good_of_draws(believed, calibration, np.concatenate([minimum, checks]), draws=_SEASONS)
    planned = tuple(
        _planned(morning, good[:, i], good[:, minimum.size :], checks, done)
        for i, morning in enumerate(mornings)
    )
    proven_on, offered = _drawn_seasons(believed, calibration, mornings, checks, done, seed)
    missing = offered.mean(axis=0) < 0.5
    days = proven_on[:, ~missing].max(axis=1, initial=0.0)
    median, low, high = (_at(days, q) for q in (0.5, 0.05, 0.95))
    return SeasonPlan(
        planned,
        tuple(proven_c),
        still,
        median,
        low,
        high,
        float(np.isfinite(days).mean()),
        tuple(float(c) for c in checks[missing]),
    )


def _at(days: FloatArray, share: float) -> int | None:
    """Return a quantile of days, None where it lies beyond the season."""
    value = float(np.quantile(days, share, method="higher"))
    return int(value) if np.isfinite(value) else None


def _planned(
    morning: Morning,
    good: FloatArray,
    of_checks: FloatArray,
    checks: FloatArray,
    done: NDArray[np.bool_],
) -> PlannedMorning:
    near = (np.abs(checks - morning.minimum_c) <= NEAR_PROOF_K) & ~done
    teaches = sum(information(good, of_checks[:, j]) for j in np.flatnonzero(~done))
    return PlannedMorning(
        morning.day,
        morning.minimum_c,
        morning.spread_k,
        morning.forecast,
        float(good.mean()),
        teaches,
        tuple(float(c) for c in checks[near]),
        bool(near.any() or teaches > _WORTH_BIT),
    )


def _drawn_seasons(
    believed: LadderEstimate,
    calibration: Calibration,
    mornings: Sequence[Morning],
    checks: FloatArray,
    done: NDArray[np.bool_],
    seed: int,
) -> tuple[FloatArray, NDArray[np.bool_]]:
    """Return on which day each check was proven, inf for never, and whether it was offered.

    Both of shape (seasons, checks).
    """
    rng = np.random.default_rng(seed)
    grid = np.arange(-35.0, 95.0 + _GRID_STEP_K, _GRID_STEP_K)
    good = np.minimum(
        good_of_draws(believed, calibration, grid, draws=_SEASONS, seed=seed), _MOST_GOOD
    )
    season = np.arange(_SEASONS)
    in_a_row = np.where(done, PROOF_STARTS, 0) * np.ones((_SEASONS, 1), dtype=int)
    offered = np.zeros((_SEASONS, checks.size), dtype=int)
    offered[:] = np.where(done, PROOF_STARTS, 0)
    proven_on = np.tile(np.where(done, 0.0, np.inf), (_SEASONS, 1))
    for day, morning in enumerate(mornings, 1):
        place = morning.minimum_c + morning.spread_k * rng.standard_normal(_SEASONS)
        for at_c in (place, *(np.full(_SEASONS, c) for c in _EVERY_DAY_C)):
            cell = np.clip(np.round((at_c - grid[0]) / _GRID_STEP_K).astype(int), 0, grid.size - 1)
            came_good = rng.random(_SEASONS) < good[season, cell]
            near = np.abs(checks[None, :] - at_c[:, None]) <= NEAR_PROOF_K
            offered += near
            proven = in_a_row >= PROOF_STARTS
            in_a_row = np.where(near, np.where(came_good[:, None], in_a_row + 1, 0), in_a_row)
            in_a_row = np.where(proven, PROOF_STARTS, in_a_row)  # what is proven stays so
            reach = np.exp(-0.5 * ((grid[None, :] - at_c[:, None]) / _REACHES_K) ** 2)
            gain = _PUTS_RIGHT * reach * (_MOST_GOOD - good)
            good = np.where(came_good[:, None], good, good + gain)
        proven_on = np.where((in_a_row >= PROOF_STARTS) & np.isinf(proven_on), day, proven_on)
    return proven_on, offered >= PROOF_STARTS
