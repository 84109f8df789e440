"""The one step that is searched: a curve of fuel chosen among the posterior's own draws.

Cranking fuel and after-start enrichment are searched alike: only outcomes tell of them, and they may
leave two windows. A candidate is a curve of draws that look alike; never the mean between two windows.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..quantities import FloatArray
from ..tables import Calibration, Table
from .cells import changes_to, fitted, grid_c
from .coordinates import COORDINATES, prior_mean
from .cranking import LEAST_FUEL_PCT, expected_fuel, fuel_of, primed_pct
from .draws import Draws
from .ladder import LadderEstimate, at_coolants
from .prime import in_prime
from .proposed import CurveProposal, proposed

#: Most that one step changes a cell. [ln]
MOST_STEP = 0.55
#: A larger step than the school's is taken where only so few draws lie short of it: then it does
#: not flood. [–]
_SURELY = 0.1
#: A step is worth a start if it makes a good one so much likelier somewhere, and in all. [–]
_GAIN, _GAIN_IN_ALL = 0.1, 0.015
#: What is doubtful, and what a step that nothing asks for may cost elsewhere. [–]
_DOUBTFUL, _HARM = 0.7, 0.04
#: Nobody asks for a step for starts colder or hotter than these. [°C]
_STARTED_C = (-20.0, 90.0)
#: A searched step counts around the last start, and elsewhere by so much; a cell that it moves by less
#: than this is left alone. [K, –, –]
_NEAR_K, _FAR_COUNTS, _HEARD = 25.0, 0.25, 0.02
#: Within so many kelvin of a start that failed a step is taken as it is, and so far beyond it fades
#: out where it makes a good start likelier by no more than a little. [K, K, –]
_ASKED_K, _FADES_K, _LITTLE = 8.0, 12.0, 0.06
#: A step that nothing asks for fades out over so many kelvin. [K]
_EVEN_K = 30.0
#: Draws that look alike where the last start was, as a share of the prior's spread, and how many make
#: a curve to try. [–, –]
_ALIKE, _FEWEST_ALIKE = 0.4, 8
#: Steps closer than this share of the prior's spread to what has just failed are none. [–]
_SAME = 0.15
#: The step that is left where a start showed one way and no draw lies there. [ln]
_ONE_WAY = 0.12
#: Starts within so many kelvin were at the same place. [K]
SAME_PLACE_K = 8.0


@dataclass(frozen=True)
class Limits:
    """What a good start is held to, over coolant temperature.

    Attributes
    ----------
    run_s : callable
        Longest cranking at a coolant temperature [°C]. [s]
    fall : callable
        Furthest fall of speed after the start at a coolant temperature [°C]. [share of the target]
    """

    run_s: Callable[[float], float]
    fall: Callable[[float], float]


@dataclass(frozen=True)
class SearchStep:
    """The one searched step: the fuel of one table over temperature.

    Attributes
    ----------
    proposal : CurveProposal
        Its cells.
    coolant_c : float
        Where the last start failed, or where a step that none asked for helps most. [°C]
    before, after : float
        Probability of a good start there, as it is and after the step. [–]
    """

    proposal: CurveProposal
    coolant_c: float
    before: float
    after: float


@dataclass(frozen=True)
class _Space:
    """One searched table on a grid of temperatures, in the coordinate of its posterior.

    Attributes
    ----------
    table : Table
        In force.
    at_c : ndarray
        Grid. [°C]
    draws : Draws
        Posterior of the need.
    now, expected, beside : ndarray
        Given now, expected by engine data, and what is given beside the table. [–, –, unit of the table]
    good : callable
        Probability of a good start of candidates, shape (n, temperatures), by how much each draw counts. [–]
    from_scale, to_scale : callable
        Between the coordinate and what is given in the table's unit.
    """

    table: Table
    at_c: FloatArray
    draws: Draws
    now: FloatArray
    expected: FloatArray
    beside: FloatArray
    good: Callable[[FloatArray, FloatArray | None], FloatArray]
    from_scale: Callable[[FloatArray], FloatArray]
    to_scale: Callable[[FloatArray], FloatArray]

    def possible(self, candidates: FloatArray) -> FloatArray:
        """Return candidates that the table can give, whatever is given beside it."""
        own = np.maximum(self.from_scale(candidates) - self.beside, self.table.definition.lower)
        return self.to_scale(own + self.beside)

    @property
    def spread(self) -> float:
        """How far apart needs are before any evidence. [–]"""
        return COORDINATES[self.table.key].cold_spread


def search_step(
    believed: LadderEstimate,
    calibration: Calibration,
    limits: Limits,
    *,
    table: str = "cranking_fuel",
    tried_c: float,
    must: bool,
    most: float = MOST_STEP,
    way: int = 0,
    killed: bool = False,
) -> SearchStep | None:
    """Return the fuel that makes good starts likeliest, None where it is in force already.

    Parameters
    ----------
    believed : LadderEstimate
        After all starts.
    calibration : Calibration
        In force.
    limits : Limits
        What a good start is held to.
    table : {"cranking_fuel", "after_start_enrichment"}
        Which of the two.
    tried_c : float
        Where the last start was. [°C]
    must : bool
        Whether that start failed by this table, so that the same again teaches nothing.
    most : float
        Largest step, unless the draws agree that the need lies beyond it. [ln]
    way : int
        Which way that start itself showed, +1 for more fuel and −1 for less: then the step goes no
        other way, whatever earlier ones made likely; 0 where it showed neither.
    killed : bool
        Whether the engine died: the step is chosen among the draws in which it died of this fuel.
    """
    space = _space_of(believed, calibration, table, limits)
    if space is None:
        return None
    near = _near(space.at_c, tried_c)
    here = int(np.argmin(np.abs(space.at_c - tried_c)))
    candidates = space.possible(_candidates(space, here))
    down = up = most
    if must:
        down, up = _bounds(space.draws.need_at(space.at_c[[here]])[:, 0] - space.now[here], most)
    down, up = (0.0 if way > 0 else down), (0.0 if way < 0 else up)
    candidates = space.now + np.clip(candidates - space.now, -down, up)
    if must:
        apart = np.abs(candidates[:, here] - space.now[here])
        candidates = candidates[apart > _SAME * space.spread]
        if way and not len(candidates):
            candidates = space.possible((space.now + way * min(_ONE_WAY, most))[None, :])
        candidates = _untried(candidates, _vain(believed, space, tried_c), here, space.spread)
    if not len(candidates):
        return None
    # A step for a start that failed by something else would be for nothing: where it failed by this, it helps.
    asked = space.draws.failed_by_this() if killed else None
    promised = space.good(candidates, asked)
    best = int(np.argmax(promised @ near))
    chances, present = space.good(candidates, None), space.good(space.now[None, :], None)[0]
    helped = chances[best] - present
    if not must and not _worth_it(space.at_c, helped, present, near):
        return None
    told = here if must else int(np.argmax(np.where(_is_started_at(space.at_c), helped, -1.0)))
    gain = promised[best] - space.good(space.now[None, :], asked)[0]
    wanted = _kept_where_it_works(space, candidates[best], gain, tried_c if must else None)
    proposal = None
    if table == "cranking_fuel" and must:
        fuel = (space.from_scale(space.now), space.from_scale(wanted))
        proposal = in_prime(believed, calibration, space.at_c, *fuel, tried_c)
    proposal = proposal or _cells_of(believed, space, wanted, near)
    if proposal is None:
        return None
    return SearchStep(
        proposal, float(space.at_c[told]), float(present[told]), float(chances[best][told])
    )


def likeliest_curve(
    believed: LadderEstimate,
    calibration: Calibration,
    limits: Limits,
    *,
    table: str,
    tried_c: float,
) -> FloatArray | None:
    """Return the curve that makes good starts likeliest, None where nothing is searched. [–]

    Parameters
    ----------
    believed, calibration, limits, table, tried_c
        As for :func:`search_step`; the curve stands on the fine grid of the table.
    """
    space = _space_of(believed, calibration, table, limits)
    if space is None:
        return None
    here = int(np.argmin(np.abs(space.at_c - tried_c)))
    candidates = _candidates(space, here)
    best = int(np.argmax(space.good(candidates, None) @ _near(space.at_c, tried_c)))
    return np.asarray(candidates[best])


def _space_of(
    believed: LadderEstimate, calibration: Calibration, key: str, limits: Limits
) -> _Space | None:
    table = calibration[key]
    at_c = grid_c(table)
    in_force = at_coolants(calibration, key, at_c)
    if key == "cranking_fuel":
        cranking = believed.cranking
        if cranking is None:
            return None
        primed = primed_pct(believed.spec, calibration, at_c)
        run_s = np.array([limits.run_s(float(c)) for c in at_c])
        return _Space(
            table,
            at_c,
            cranking,
            np.log(np.maximum(in_force + primed, LEAST_FUEL_PCT)),
            expected_fuel(believed.spec, at_c),
            primed,
            lambda given, weight: cranking.good_at(at_c, given, run_s, weight),
            lambda scale: np.asarray(np.exp(scale)),
            lambda value: np.asarray(np.log(np.maximum(value, LEAST_FUEL_PCT))),
        )
    run_up = believed.run_up
    if run_up is None:
        return None
    coordinate = COORDINATES[key]
    fall = np.array([limits.fall(float(c)) for c in at_c])
    return _Space(
        table,
        at_c,
        run_up,
        coordinate.to_scale(in_force),
        prior_mean(believed.spec, key, at_c),
        np.zeros(at_c.size),
        lambda given, weight: run_up.good_at(at_c, given, fall, weight),
        coordinate.from_scale,
        coordinate.to_scale,
    )


def _vain(believed: LadderEstimate, space: _Space, tried_c: float) -> list[float]:
    """Return what was given near by at starts that failed by this table alone, in its coordinate. [–]

    A death on leaving cranking may be the other table's: with that mended the same may be right.
    """
    found = []
    for e in believed.evidence:
        if e.quantity != space.table.key or abs(e.coolant_c - tried_c) > SAME_PLACE_K:
            continue
        if e.outcome is not None and not (e.outcome.ran or e.outcome.handover):
            given = fuel_of(believed.spec, e.outcome)
            found.append(float(space.to_scale(np.array(given))))
        if e.run_up is not None and e.run_up.died and not e.run_up.handover:
            found.append(float(space.to_scale(np.array(e.run_up.after_start_pct))))
    return found


def _untried(candidates: FloatArray, vain: Sequence[float], here: int, spread: float) -> FloatArray:
    """Return candidates without those that failed twice: to go back to them again teaches nothing."""
    close = _SAME * spread
    twice = [v for v in vain if sum(abs(v - other) < close for other in vain) > 1]
    kept = [c for c in candidates if all(abs(c[here] - v) > close for v in twice)]
    return np.array(kept) if kept else candidates


def _near(at_c: FloatArray, tried_c: float) -> FloatArray:
    """Return how much each temperature counts. [–]"""
    return np.asarray(np.exp(-0.5 * ((at_c - tried_c) / _NEAR_K) ** 2) + _FAR_COUNTS)


def _kept_where_it_works(
    space: _Space, wanted: FloatArray, gain: FloatArray, failed_c: float | None
) -> FloatArray:
    """Return a curve that leaves what is given where it promises little and was not asked for. [–]

    A start at one temperature says something of all others, but seldom enough to leave fuel by which
    the engine starts well there; `failed_c` is where the last start failed, if it did. [°C]
    """
    share = np.clip((gain - _LITTLE) / _LITTLE, 0.0, 1.0)
    if failed_c is not None:
        share = np.maximum(share, 1.0 - (np.abs(space.at_c - failed_c) - _ASKED_K) / _FADES_K)
    else:
        # It helps from where a limit is narrower on: what the engine needs knows no such edge.
        apart = np.abs(space.at_c[:, None] - space.at_c[None, :])
        share = (share * np.maximum(1.0 - apart / _EVEN_K, 0.0)).max(axis=1)
    return np.asarray(space.now + np.clip(share, 0.0, 1.0) * (wanted - space.now))


def _cells_of(
    believed: LadderEstimate, space: _Space, wanted: FloatArray, near: FloatArray
) -> CurveProposal | None:
    table = space.table
    points = np.array(table.axes[0].points)
    values = fitted(table, space.at_c, space.from_scale(wanted) - space.beside, near)
    heard = np.abs(values - table.values) > _HEARD * np.maximum(table.values, 20.0)
    beside = np.interp(points, space.at_c, space.beside)
    low, high = (
        np.maximum(space.from_scale(edge) - beside, table.definition.lower)
        for edge in np.quantile(space.draws.need_at(points), (0.05, 0.95), axis=0)
    )
    return proposed(believed, table.key, changes_to(table, values, heard), low, high)


def _is_started_at(at_c: FloatArray) -> NDArray[np.bool_]:
    return np.asarray((at_c >= _STARTED_C[0]) & (at_c <= _STARTED_C[1]))


def _worth_it(at_c: FloatArray, gain: FloatArray, present: FloatArray, near: FloatArray) -> bool:
    """Say whether a step that nothing asks for mends what is doubtful and harms nothing."""
    doubtful = (present < _DOUBTFUL) & _is_started_at(at_c)
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


def _candidates(space: _Space, here: int) -> FloatArray:
    """Return curves to choose from, shape (n, temperatures). [–]"""
    need = space.draws.need_at(space.at_c)
    centres = np.quantile(need[:, here], np.linspace(0.04, 0.96, 15))
    found = []
    for centre in centres:
        alike = np.abs(need[:, here] - centre) < _ALIKE * space.spread
        if alike.sum() >= _FEWEST_ALIKE:
            found.append(need[alike].mean(axis=0) + centre - need[alike, here].mean())
    found.append(space.expected)
    return np.array(found)
