"""From the estimate to cells: what was measured, and the one step that is searched."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from ..quantities import FloatArray
from ..tables import Calibration, CellChange, Table
from .cells import changes_to, fitted, grid_c
from .coordinates import COORDINATES
from .cranking import CrankingPosterior, expected_fuel, primed_pct
from .ladder import LadderEstimate, idle_air_below

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
    for table in ("idle_valve", *(key for key in believed.curves if key != "idle_valve")):
        if table not in believed.curves:
            continue
        proposal = _followed(believed, calibration, table)
        if proposal is None:
            continue
        found[table] = proposal
        if table == "idle_valve":
            # Cranking air is added to it: what it becomes decides what is added.
            calibration = calibration.with_table(_with(calibration[table], proposal.changes))
    return found


def _with(table: Table, changes: tuple[CellChange, ...]) -> Table:
    values = table.values.copy()
    for change in changes:
        values[change.index] = change.after
    return Table(table.key, table.axes, values, table.provenance)


def _followed(believed: LadderEstimate, calibration: Calibration, key: str) -> CurveProposal | None:
    curve, coordinate, table = believed.curves[key], COORDINATES[key], calibration[key]
    at_c, points = grid_c(table), np.array(table.axes[0].points)
    extra = np.zeros(at_c.size)
    if key == "warm_up_enrichment":
        extra = extra + believed.hot_map_off  # until the fuel map itself is put right
    below = idle_air_below(calibration, key, at_c)
    back = np.vectorize(coordinate.from_scale, otypes=[float])
    spread = curve.spread_at(at_c)
    mean = _on_the_safe_side(key, curve.at(at_c) + extra, spread)
    values = fitted(table, at_c, back(mean) - below, 1.0 / np.maximum(spread, 0.01) ** 2)
    on_points = np.interp(points, at_c, below)
    scale = np.vectorize(coordinate.to_scale, otypes=[float])
    moved = scale(values + on_points) - scale(table.values + on_points)
    values = back(scale(table.values + on_points) + np.clip(moved, -MOST_STEP, MOST_STEP))
    values = np.clip(values - on_points, table.definition.lower, table.definition.upper)
    wide = curve.spread_at(points)
    told = curve.told_at(points)
    plainly_off = (told > _HARDLY_TOLD) & (np.abs(moved) > _PLAINLY * wide)
    taken = (((told > _TOLD) & (np.abs(moved) > _OF_BAND * wide)) | plainly_off) & (
        np.abs(values - table.values) > _WORTH * np.maximum(np.abs(table.values), 5.0)
    )
    changes = changes_to(table, values, taken)
    if not changes:
        return None
    middle = curve.at(points) + np.interp(points, at_c, extra)
    low, high = back(middle - BAND * wide) - on_points, back(middle + BAND * wide) - on_points
    near = believed.places_of(key)
    cells = [change.index[0] for change in changes]
    return CurveProposal(
        key,
        changes,
        tuple((round(float(low[i]), 1), round(float(high[i]), 1)) for i in cells),
        tuple(bool(near.size and np.min(np.abs(near - points[i])) < 8.0) for i in cells),
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
    now = np.log(np.array([calibration.at_coolant(table.key, float(c)) for c in at_c]) + primed)
    limits = np.array([limit_s(float(c)) for c in at_c])
    near = np.exp(-0.5 * ((at_c - tried_c) / 25.0) ** 2) + 0.25
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
    off = np.abs(values - table.values) > 0.02 * table.values
    changes = changes_to(table, values, off)
    if not changes:
        return None
    draws = np.exp(posterior.need_at(points)) - np.interp(points, at_c, primed)
    low, high = np.quantile(draws, (0.05, 0.95), axis=0)
    places = believed.places_of(table.key)
    cells = [change.index[0] for change in changes]
    proposal = CurveProposal(
        table.key,
        changes,
        tuple((round(max(float(low[i]), 0.0), 1), round(float(high[i]), 1)) for i in cells),
        tuple(bool(places.size and np.min(np.abs(places - points[i])) < 8.0) for i in cells),
        believed.trials_of(table.key),
    )
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
        alike = np.abs(need[:, here] - centre) < 0.15
        if alike.sum() >= 8:
            found.append(need[alike].mean(axis=0) + centre - need[alike, here].mean())
    found.append(expected)
    return np.array(found)
