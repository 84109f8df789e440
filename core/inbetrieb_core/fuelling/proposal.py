"""From a correction to the cells that are changed: authority, locks, half steps, and what is done already."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..errors import field_refused
from ..quantities import FloatArray
from ..tables import Table
from .places import grid_of
from .solve import MapFit

State = Literal["unseen", "done", "step", "half", "locked", "unsure", "lean"]

#: Most of one pass; within this a cell is done; idle is left alone below this speed. [–, –, 1/min] (common practice)
AUTHORITY, DONE, IDLE_RPM = 0.10, 0.03, 1200.0
#: An authority that a pass may have. [–]
AUTHORITIES = (0.01, 0.30)
#: A cell with fewer seconds on it than this was not visited. [s]
LEAST_HITS_S = 2.0
#: A step smaller than its own error is none, nor a very small one; a neighbour is followed where its band is no wider.
#: [–, ln, ln]
_WORTH, _FOLLOWED, _SMALL = 1.0, 0.03, 0.01
#: Under load no cell is made leaner by more than this in one pass. [kPa, –]
UNDER_LOAD_KPA, _LEAN_STEP = 85.0, 0.03
_BAND = 1.645


@dataclass(frozen=True)
class Proposal:
    """What a pass does to a map.

    Attributes
    ----------
    values : ndarray
        Of the table after it, a curve as one row. [unit of the table]
    change : ndarray
        Factor that is applied. [–]
    low, high : ndarray
        90 % band of the factor that is needed. [–]
    state : list of list of str
        What becomes of each cell.
    done_share : float
        Share of the visited cells that are within ±3 %, their band with them. [–]
    sentence : str
    """

    values: FloatArray
    change: FloatArray
    low: FloatArray
    high: FloatArray
    state: list[list[State]]
    done_share: float
    sentence: str


def refuse_authority(authority: float) -> None:
    """Refuse an authority that no pass has. [–]

    Raises
    ------
    InputRefused
        With its bounds.
    """
    low, high = AUTHORITIES
    if not low <= authority <= high:
        raise field_refused(
            "authority", f"A pass may change a cell by {100 * low:.0f} to {100 * high:.0f} %."
        )


def propose(
    table: Table,
    fit: MapFit,
    *,
    authority: float = AUTHORITY,
    locked: Collection[tuple[int, int]] = (),
    before: FloatArray | None = None,
) -> Proposal:
    """Return what one pass does to a map.

    Parameters
    ----------
    table : Table
        In force.
    fit : MapFit
    authority : float
        Most that a cell is changed by, within :data:`AUTHORITIES`. [–]
    locked : collection of (row, column)
        Cells that stay.
    before : ndarray or None
        Factors that the last pass applied, where there was one: a sign that turns is answered by half. [–]

    Raises
    ------
    InputRefused
        If the authority cannot be.
    """
    refuse_authority(authority)
    factor, error = fit.factor, fit.error
    shape = factor.shape
    state: list[list[State]] = [["unseen"] * shape[1] for _ in range(shape[0])]
    change = np.ones(shape)
    rows, columns = grid_of(table)
    # A curve over the signal of a meter has no idle and no load of its own.
    is_map = len(table.axes) == 2
    by_pressure = is_map and not table.by_throttle
    visited = fit.hits >= LEAST_HITS_S
    # Within ±3 % with its whole band.
    good = visited & (np.abs(fit.log_factor) + _BAND * error <= np.log1p(DONE))
    for place in np.ndindex(shape):
        state[place[0]][place[1]], change[place] = _cell(
            float(fit.log_factor[place]), float(error[place]), is_visited=bool(visited[place]), is_done=bool(good[place]),
            is_locked=place in locked or (is_map and rows[place[0]] < IDLE_RPM),
            is_loaded=by_pressure and columns[place[1]] >= UNDER_LOAD_KPA,
            authority=authority, last=1.0 if before is None else float(before[place]),
        )  # fmt: skip
    held = np.asarray(table.values, dtype=float).reshape(shape)
    values = held * change
    definition = table.definition
    values = np.clip(np.round(values / definition.resolution) * definition.resolution, definition.lower, definition.upper)  # fmt: skip
    values = np.where(change == 1.0, held, values)
    done = float(good.sum() / max(1, visited.sum()))
    return Proposal(
        values, change, np.exp(fit.log_factor - _BAND * error), np.exp(fit.log_factor + _BAND * error), state, done,
        _sentence(state, change, done, int(visited.sum())),
    )  # fmt: skip


def _cell(
    need: float, error: float, *, is_visited: bool, is_done: bool, is_locked: bool, is_loaded: bool, authority: float,
    last: float,
) -> tuple[State, float]:  # fmt: skip
    """Return what becomes of a cell, and its factor."""
    if not is_visited and error > _FOLLOWED:
        return "unseen", 1.0
    if is_locked:
        return "locked", 1.0
    if is_done:
        return "done", 1.0
    if abs(need) < max(_WORTH * error, _SMALL):
        return "unsure", 1.0
    step = float(np.clip(need, np.log1p(-authority), np.log1p(authority)))
    told: State = "step"
    if (last - 1.0) * step < 0.0 and abs(last - 1.0) > 1e-6:
        told, step = "half", 0.5 * step
    if is_loaded and step < np.log1p(-_LEAN_STEP):
        told, step = "lean", float(np.log1p(-_LEAN_STEP))
    return told, float(np.exp(step))


def _sentence(state: list[list[State]], change: FloatArray, done: float, visited: int) -> str:
    cells = [one for row in state for one in row]
    moved = sum(one in ("step", "half", "lean") for one in cells)
    if not visited:
        return "No cell was visited long enough: see what to drive."
    if not moved:
        return f"{visited} cells were visited, {100 * done:.0f} % of them are within ±3 % with their band: nothing to change."
    most = float(np.abs(change - 1.0).max())
    return (
        f"{moved} {'cell moves' if moved == 1 else 'cells move'}, by {100 * most:.0f} % at most; of {visited} visited {100 * done:.0f} % are within ±3 % with their "
        "band. The next log tests it."
    )
