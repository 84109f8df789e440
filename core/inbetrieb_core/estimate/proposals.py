"""From the estimate to cells: what was measured, and the one step that is searched."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from ..quantities import FloatArray
from ..tables import Calibration, CellChange, Table, values_after
from .cells import changes_to, fitted, grid_c
from .coordinates import COORDINATES
from .cranking import CrankingPosterior, expected_fuel, primed_pct
from .ladder import CLOSED_FORM, LadderEstimate, at_coolants, idle_air_below

#: A cell follows the estimate where evidence took away this share of what was unknown; where it is
#: off by more than this share of its band; and by more than this share of its value. [–, –, –]
_TOLD, _OF_BAND, _WORTH = 0.25, 0.35, 0.012
#: Or where a little evidence and the engine data together put it this many spreads away. [–, –]
_HARDLY_TOLD, _PLAINLY = 0.04, 1.8
#: 90 % of a normal distribution lie within so many standard deviations.
BAND = 1.645
#: Most that one step changes a cell. [ln]
MOST_STEP = 0.55
#: A larger step than the school's is taken where only so few draws lie short of it: then it does
#: not flood. [–]
_SURELY = 0.1
#: A step is worth a start if it makes a good one so much likelier somewhere, and in all. [–]
_GAIN, _GAIN_IN_ALL = 0.1, 0.015
#: What is doubtful, and what a step that nothing asks for may cost elsewhere. [–]
_DOUBTFUL, _HARM = 0.7, 0.04
#: A fade that is too short lets the engine die, one that is too long makes it a little rich for a
#: while: its cells stand so many spreads above the middle, up to where mixture is looked at. [–, s]
_LONGER, _LOOKED_AT_S = 0.7, 24.0
#: A cell counts as read where evidence lies within so many kelvin of it. [K]
_SEEN_K = 8.0
#: A searched step counts around the last start, and elsewhere by so much; a cell that it moves by less
#: than this is left alone. [K, –, –]
_NEAR_K, _FAR_COUNTS, _HEARD = 25.0, 0.25, 0.02
#: Draws that look alike where the last start was, and how many make a curve to try. [ln, –]
_ALIKE, _FEWEST_ALIKE = 0.15, 8
#: Steps closer than this to the fuel that has just failed are none. [ln]
_SAME_FUEL = 0.06


@dataclass(frozen=True)
class CurveProposal:
    """New cells of one table.

    Attributes
    ----------
    table : str
        Its key.
    changes : tuple of CellChange
    bands : tuple of (float, float)
        Where the need of each changed cell lies with 90 %. [unit of the table]
    seen : tuple of bool
        Whether the need was read within a few kelvin of the cell, or follows from elsewhere.
    trials : tuple of int
        That taught of it.
    """

    table: str
    changes: tuple[CellChange, ...]
    bands: tuple[tuple[float, float], ...]
    seen: tuple[bool, ...]
    trials: tuple[int, ...]


def measured_proposals(
    believed: LadderEstimate, calibration: Calibration
) -> dict[str, CurveProposal]:
    """Return the tables that evidence in closed form wants changed.

    Parameters
    ----------
    believed : LadderEstimate
        After all starts.
    calibration : Calibration
        In force.
    """
    found = {}
    for table in ("idle_valve", *(key for key in CLOSED_FORM if key != "idle_valve")):
        proposal = _followed(believed, calibration, table)
        if proposal is None:
            continue
        found[table] = proposal
        if table == "idle_valve":
            # Cranking air is added to it: what it becomes decides what is added.
            now = calibration[table]
            values = values_after(now, proposal.changes)
            calibration = calibration.with_table(Table(table, now.axes, values, now.provenance))
    return found


def _followed(believed: LadderEstimate, calibration: Calibration, key: str) -> CurveProposal | None:
    coordinate, table = COORDINATES[key], calibration[key]
    at_c, points = grid_c(table), np.array(table.axes[0].points)
    middle, spread = believed.need_at(key, at_c)
    below = idle_air_below(calibration, key, at_c)
    wanted = coordinate.from_scale(_on_the_safe_side(key, middle, spread)) - below
    values = fitted(table, at_c, wanted, 1.0 / np.maximum(spread, 0.01) ** 2)
    below = np.interp(points, at_c, below)
    now = coordinate.to_scale(table.values + below)
    moved = coordinate.to_scale(values + below) - now
    values = coordinate.from_scale(now + np.clip(moved, -MOST_STEP, MOST_STEP)) - below
    values = np.clip(values, table.definition.lower, table.definition.upper)
    middle, spread = believed.need_at(key, points)
    told = believed.curves[key].told_at(points)
    plainly_off = (told > _HARDLY_TOLD) & (np.abs(moved) > _PLAINLY * spread)
    off = (told > _TOLD) & (np.abs(moved) > _OF_BAND * spread)
    noticed = np.abs(values - table.values) > _WORTH * np.maximum(np.abs(table.values), 5.0)
    low, high = (
        coordinate.from_scale(middle + side * BAND * spread) - below for side in (-1.0, 1.0)
    )
    changes = changes_to(table, values, (off | plainly_off) & noticed)
    return _proposed(believed, key, changes, low, high)


def _proposed(
    believed: LadderEstimate,
    key: str,
    changes: tuple[CellChange, ...],
    low: FloatArray,
    high: FloatArray,
) -> CurveProposal | None:
    """Return changes with the bands of their cells and where they come from; None without any."""
    if not changes:
        return None
    cells = [change.index[0] for change in changes]
    places = believed.places_of(key)
    return CurveProposal(
        key,
        changes,
        tuple((round(float(low[i]), 1), round(float(high[i]), 1)) for i in cells),
        tuple(bool((np.abs(places - change.at[0]) < _SEEN_K).any()) for change in changes),
        believed.trials_of(key),
    )


def _on_the_safe_side(key: str, mean: FloatArray, spread: FloatArray) -> FloatArray:
    if key != "after_start_fade":
        return mean
    return np.minimum(mean + _LONGER * spread, np.maximum(mean, np.log(_LOOKED_AT_S)))


@dataclass(frozen=True)
class SearchStep:
    """The one searched step: cranking fuel over temperature.

    Attributes
    ----------
    proposal : CurveProposal
        Its cells.
    before, after : float
        Probability of a good start where it was tried last, as it is and after the step. [–]
    """

    proposal: CurveProposal
    before: float
    after: float


def search_step(
    believed: LadderEstimate,
    calibration: Calibration,
    limit_s: Callable[[float], float],
    *,
    tried_c: float,
    must: bool,
    most: float = MOST_STEP,
) -> SearchStep | None:
    """Return the cranking fuel that makes good starts likeliest, None where it is in force already.

    Parameters
    ----------
    believed : LadderEstimate
        After all starts.
    calibration : Calibration
        In force.
    limit_s : callable
        Longest cranking at a coolant temperature [°C]. [s]
    tried_c : float
        Where the last start was. [°C]
    must : bool
        Whether that start failed while cranking, so that the same again teaches nothing.
    most : float
        Largest step, unless the draws agree that the need lies beyond it. [ln]

    Notes
    -----
    Candidates are curves of the posterior's own draws, each smoothed over the draws that look like it:
    never the mean between a lean and a rich window.
    """
    posterior = believed.cranking
    if posterior is None:
        return None
    table = calibration["cranking_fuel"]
    at_c = grid_c(table)
    primed = primed_pct(believed.spec, calibration, at_c)
    now = np.log(at_coolants(calibration, table.key, at_c) + primed)
    limits = np.array([limit_s(float(c)) for c in at_c])
    near = np.exp(-0.5 * ((at_c - tried_c) / _NEAR_K) ** 2) + _FAR_COUNTS
    here = int(np.argmin(np.abs(at_c - tried_c)))
    candidates = _candidates(posterior, at_c, here, expected_fuel(believed.spec, at_c))
    candidates = np.log(np.maximum(np.exp(candidates) - primed, table.definition.lower) + primed)
    down = up = most
    if must:
        down, up = _bounds(posterior.need_at(at_c[[here]])[:, 0] - now[here], most)
    candidates = now + np.clip(candidates - now, -down, up)
    if must:
        candidates = candidates[np.abs(candidates[:, here] - now[here]) > _SAME_FUEL]
    if not len(candidates):
        return None
    chances = posterior.good_at(at_c, candidates, limits)
    best = int(np.argmax(chances @ near))
    present = posterior.good_at(at_c, now[None, :], limits)[0]
    gain = chances[best] - present
    if not must and not _worth_it(gain, present, near):
        return None
    wanted = np.exp(candidates[best]) - primed
    values = fitted(table, at_c, wanted, near)
    points = np.array(table.axes[0].points)
    off = np.abs(values - table.values) > _HEARD * table.values
    low, high = np.quantile(posterior.need_at(points), (0.05, 0.95), axis=0)
    primed = np.interp(points, at_c, primed)
    low, high = (np.maximum(np.exp(edge) - primed, 0.0) for edge in (low, high))
    proposal = _proposed(believed, table.key, changes_to(table, values, off), low, high)
    if proposal is None:
        return None
    return SearchStep(proposal, float(present[here]), float(chances[best][here]))


def _worth_it(gain: FloatArray, present: FloatArray, near: FloatArray) -> bool:
    """Say whether a step that nothing asks for mends what is doubtful and harms nothing."""
    doubtful = present < _DOUBTFUL
    return bool(
        (gain[doubtful] > _GAIN).any()
        and gain.min() > -_HARM
        and gain @ near > _GAIN_IN_ALL * near.sum()
    )


def _bounds(off: FloatArray, most: float) -> tuple[float, float]:
    """Return how far a step may go down and up: further than the school where nearly all agree. [ln]"""
    low, high = np.quantile(off, (_SURELY, 1.0 - _SURELY))
    return (
        float(np.clip(-high, most, MOST_STEP)),
        float(np.clip(low, most, MOST_STEP)),
    )


def _candidates(
    posterior: CrankingPosterior, at_c: FloatArray, here: int, expected: FloatArray
) -> FloatArray:
    """Return curves of fuel to choose from, shape (n, temperatures). [ln %]"""
    need = posterior.need_at(at_c)
    centres = np.quantile(need[:, here], np.linspace(0.04, 0.96, 15))
    found = []
    for centre in centres:
        alike = np.abs(need[:, here] - centre) < _ALIKE
        if alike.sum() >= _FEWEST_ALIKE:
            found.append(need[alike].mean(axis=0) + centre - need[alike, here].mean())
    found.append(expected)
    return np.array(found)
