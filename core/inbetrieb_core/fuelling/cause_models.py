"""Models of a drive: the table's own remainder, with no cause beside it, with one, and with two.

Each cause adds its signature to ln(need); a smooth remainder stands for the table. Models are compared by their marginal
likelihood, in which what explains more with less wins (MacKay, Information Theory, Inference, and Learning Algorithms,
chapter 28, from memory). What earlier drives read pins the remainder down: a cause that came since is in the newer
readings alone, one that was there all along is in both.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from scipy import sparse
from scipy.linalg import block_diag, cho_factor, cho_solve

from ..engine import EngineSpec
from ..quantities import FloatArray
from ..tables import Table
from ..tables.weights import weight_matrix
from .effects import KINDS, Effect, Kind, View
from .known_pressure import ReadsLow
from .map_prior import GENERATED
from .places import grid_of
from .samples import Readings, joined
from .solve import OPEN, MapPrior, prior_precision

#: How rough the remainder of the table is. [ln]
_ROUGH = 0.015
#: How likely a cause is before anything was seen, and a second one beside it. [–]
_CAUSE, _SECOND = 0.2, 0.15
#: Where there are earlier drives: how likely one came since, rather than being there all along. [–]
_SINCE = 0.5
#: One day's sensor and air against another's, as a whole, and by how much more at an idle's pressure (common practice,
#: no source). [ln]
_DAY, _DAY_LIGHT = 0.012, 0.004
_SCATTER_LEAST = 0.012
_MOST_READINGS = 4000
#: Steps towards a size whose effect is no straight line, and the step of its slope in parts of its width.
_ROUNDS, _SLOPE = 3, 0.02
#: Readings of one leg of a drive, and what no model knows of an engine, go together: so much of the evidence counts. An
#: engine differs from itself only as one day does from another, which is part of the model: there the readings count
#: by as little, but what a day may be off counts in full. [–]
_TEMPERED = 0.2
#: So many readings of earlier drives are needed.
_LEAST_EARLIER = 20
#: Off as a whole matters from so many times what the map, or a day, may be by itself. [–]
_WHOLE = 3.0
#: What an engine has from the day it is built: it cannot come after a drive.
_NEVER_SINCE = ("short-pulses", "charge-temperature")
#: Causes that only ever add something.
_ONLY_ADDS = ("air-after-throttle", "supply-droop")
#: What a map may be off at light load is told for this pressure, that of an idle; below the other it grows no more
#: (common practice, no source). [kPa]
_IDLE_KPA, _LEAST_KPA = 35.0, 15.0
#: Two causes that leave less than this of what each does by itself hide each other. [–]
_UNDOES = 0.6


@dataclass(frozen=True)
class Candidate:
    """A cause that readings can show, and what it does to them.

    Attributes
    ----------
    kind : Kind
    effect : callable
        What a size of it does to each reading. [ln]
    since : bool
        Whether it came after the earlier drives.
    seen : float
        What speaks for it beside the readings. [log odds]
    """

    kind: Kind
    effect: Effect
    since: bool = False
    seen: float = 0.0


@dataclass(frozen=True)
class Model:
    """Causes of a model, its log odds against none, the sizes, their errors, and what they explain."""

    members: tuple[int, ...]
    weight: float
    size: FloatArray
    error: FloatArray
    share: float


@dataclass(frozen=True)
class Compared:
    """Candidates, models of them, and titles of causes that these readings cannot show."""

    candidates: tuple[Candidate, ...]
    models: tuple[Model, ...]
    not_told: tuple[str, ...]


def compared(
    readings: Readings,
    spec: EngineSpec,
    table: Table,
    prior: MapPrior,
    low: ReadsLow | None,
    earlier: Readings,
) -> Compared:
    """Return every model of readings, the one without a cause first.

    Parameters
    ----------
    readings : Readings
    spec : EngineSpec
        As entered.
    table : Table
        The fuel map in force.
    prior : MapPrior
        What it may be off by itself.
    low : ReadsLow, optional
        Where the drive shows what the manifold sensor should read.
    earlier : Readings
        Of earlier drives, against the same map.
    """
    readings, earlier = (_no_more_than(r, _MOST_READINGS) for r in (readings, earlier))
    if len(earlier) < _LEAST_EARLIER:
        earlier = joined(())
    else:  # what the map is off by itself was read: it need not be assumed
        prior = GENERATED
    both = joined((readings, earlier))
    candidates, not_told = _candidates(readings, earlier, both, spec, table, prior, low)
    ground = _Ground.of(both, len(readings), grid_of(table), prior)
    apart = ground.by_days()
    models = [Model((), 0.0, np.empty(0), np.empty(0), 0.0)]
    when = 1.0 if not len(earlier) else _SINCE
    for count, odds in ((1, _CAUSE), (2, _CAUSE * _CAUSE * _SECOND)):
        for members in itertools.combinations(range(len(candidates)), count):
            if len({candidates[m].since for m in members}) > 1:  # two events on two days
                continue
            its = apart if candidates[members[0]].since else ground
            model = its.model(members, candidates, math.log(odds * when))
            if not _hide_each_other(model, candidates) and not _takes_away(model, candidates):
                models.append(model)
    return Compared(tuple(candidates), tuple(models), not_told)


def _no_more_than(readings: Readings, most: int) -> Readings:
    if len(readings) <= most:
        return readings
    return readings.chosen(np.linspace(0, len(readings) - 1, most).astype(int))


def _candidates(
    readings: Readings, earlier: Readings, both: Readings, spec: EngineSpec, table: Table, prior: MapPrior, low: ReadsLow | None,
) -> tuple[list[Candidate], tuple[str, ...]]:  # fmt: skip
    """Return the causes that these readings can show, and the titles of those that they cannot."""
    new, all_along = View(readings, spec, table), View(both, spec, table)
    found, not_told = [], []
    for kind in KINDS:
        effect = kind.effect(new)
        if effect is None:
            not_told.append(kind.title)
            continue
        if not len(earlier):
            found.append(_candidate(Candidate(kind, effect), prior, low))
            continue
        if kind.key not in _NEVER_SINCE:
            since = Candidate(kind, _only_in_newer(effect, len(earlier)), True)
            found.append(_candidate(since, prior, low))
        along = kind.effect(all_along)
        if along is not None:
            found.append(_candidate(Candidate(kind, along), prior, low))
    return found, tuple(not_told)


def _only_in_newer(effect: Effect, earlier: int) -> Effect:
    return lambda size: np.concatenate([effect(size), np.zeros(earlier)])


def _candidate(found: Candidate, prior: MapPrior, low: ReadsLow | None) -> Candidate:
    """Return a cause, its size and odds as the map's own width and a pressure that is known leave them."""
    kind = found.kind
    if kind.key == "fuel-per-pulse":
        return replace(
            found, kind=replace(kind, least=_WHOLE * (_DAY if found.since else prior.whole))
        )
    if kind.key != "map-sensor" or low is None:
        return found
    # A normal size, seen with a normal error; without the cause what was seen is error alone.
    with_it = math.hypot(kind.spread, low.error_kpa)
    share = (kind.spread / with_it) ** 2
    told = replace(kind, expected=share * low.kpa, spread=kind.spread * low.error_kpa / with_it)
    odds = 0.5 * low.kpa**2 * (low.error_kpa**-2 - with_it**-2) - math.log(with_it / low.error_kpa)
    return replace(found, kind=told, seen=odds)


def _takes_away(model: Model, kinds: Sequence[Candidate]) -> bool:
    """Say whether a cause that can only add something would have to take it away."""
    return any(
        kinds[m].kind.key in _ONLY_ADDS and size < 0.0
        for m, size in zip(model.members, model.size, strict=True)
    )


def _hide_each_other(model: Model, kinds: Sequence[Candidate]) -> bool:
    """Say whether two causes mostly undo each other: what is left of them is a bend, and a table has bends."""
    if len(model.members) < 2:
        return False
    first, second = (
        kinds[m].effect(float(size)) for m, size in zip(model.members, model.size, strict=True)
    )
    together = float(np.abs(first + second).mean())
    return together < _UNDOES * float(np.abs(first).mean() + np.abs(second).mean())


@dataclass(frozen=True)
class _Ground:
    """What all models share, made once; the newer readings come first.

    Needs, how sure each is, weights on the cells (and on what days differ by), the factored precision of the remainder
    after the readings, what the table may be off at light load beside it, that precision before, and how much of the
    evidence counts.
    """

    newer: int
    need: FloatArray
    sure: FloatArray
    matrix: sparse.csr_matrix
    whole: tuple[FloatArray, bool]
    light: FloatArray
    precision: FloatArray
    counts: float

    def by_days(self) -> _Ground:
        """Return it for causes that came since: the readings are tempered, and what is known of days is not."""
        sure = _TEMPERED * self.sure
        gram = (self.matrix.T @ self.matrix.multiply(sure[:, None])).toarray()
        return replace(self, sure=sure, whole=cho_factor(gram + self.precision), counts=1.0)

    @classmethod
    def of(
        cls, readings: Readings, newer: int, axes: Sequence[Sequence[float]], prior: MapPrior
    ) -> _Ground:
        """Make it."""
        matrix = weight_matrix(axes, [readings.row, readings.column])
        shape = (len(axes[0]), len(axes[1]))
        lighter = np.nan_to_num(_IDLE_KPA / np.maximum(readings.map_kpa, _LEAST_KPA)) ** 2
        # Each against a map of its own: what came between is no scatter.
        parts = [part for part in np.split(np.arange(len(readings)), [newer]) if part.size]
        sure = np.concatenate([_sure(readings.chosen(part), matrix[part], shape) for part in parts])
        precision = prior_precision(shape, _ROUGH, prior)
        if len(parts) > 1:
            of_newer = (np.arange(len(readings)) < newer).astype(float)
            days = sparse.csr_matrix(np.column_stack([of_newer, of_newer * lighter]))
            matrix = sparse.hstack([matrix, days], format="csr")
            precision = block_diag(precision, np.diag([_DAY**-2, _DAY_LIGHT**-2]))
        gram = (matrix.T @ matrix.multiply(sure[:, None])).toarray()
        whole = cho_factor(gram + precision)
        # What no model knows of an engine is the same in its earlier drives: they do not make it surer.
        counts = _TEMPERED * newer / len(readings)
        light = prior.light * lighter
        return cls(newer, readings.need, sure, matrix, whole, light, precision, counts)

    def model(self, members: tuple[int, ...], kinds: Sequence[Candidate], prior: float) -> Model:
        """Return one model: its causes' sizes beside the remainder, by a few steps of Gauss and Newton."""
        held = [kinds[m] for m in members]
        spread = np.array([one.kind.spread for one in held])
        expected = np.array([one.kind.expected for one in held])
        form = np.array([one.kind.form for one in held])
        size = expected.copy()
        for _ in range(_ROUNDS):
            slopes, at = np.empty((self.need.size, len(members))), np.zeros(self.need.size)
            for place, one in enumerate(held):
                step = _SLOPE * spread[place]
                high, low = one.effect(size[place] + step), one.effect(size[place] - step)
                slopes[:, place] = (high - low) / (2.0 * step)
                at += one.effect(size[place])
            rest = self.need - at + slopes @ (size - expected)
            value, found, error = self._likelihood(rest, slopes, spread)
            size = expected + found
        # What the map misses at light load would be taken for so much of a size.
        _, mistaken, _ = self._likelihood(self.light, slopes, spread)
        error = np.sqrt(error**2 + mistaken**2 + (form * (size - expected)) ** 2)
        left = self.need - sum(one.effect(float(s)) for one, s in zip(held, size, strict=True))
        before, after = (
            float((self.sure * each**2)[: self.newer].sum()) for each in (self.need, left)
        )
        weight = self.counts * (value - self.nothing) + prior + sum(one.seen for one in held)
        return Model(members, weight, size, error, max(0.0, 1.0 - after / max(before, 1e-12)))

    @cached_property
    def nothing(self) -> float:
        """Log likelihood without a cause, but for what all models share."""
        return self._likelihood(self.need, np.empty((self.need.size, 0)), np.empty(0))[0]

    def _likelihood(
        self, rest: FloatArray, slopes: FloatArray, spread: FloatArray
    ) -> tuple[float, FloatArray, FloatArray]:
        """Return log marginal likelihood but for what all models share, sizes, and their errors."""
        pull = self.matrix.T @ (self.sure * rest)
        energy = float((self.sure * rest**2).sum()) - float(pull @ cho_solve(self.whole, pull))
        if not slopes.shape[1]:
            return -0.5 * energy, np.empty(0), np.empty(0)
        beside = self.matrix.T @ (slopes * self.sure[:, None])
        own = slopes.T @ (slopes * self.sure[:, None]) + np.diag(1.0 / spread**2)
        own = own - beside.T @ cho_solve(self.whole, beside)
        right = slopes.T @ (self.sure * rest) - beside.T @ cho_solve(self.whole, pull)
        size = np.linalg.solve(own, right)
        volume = 0.5 * float(np.linalg.slogdet(own)[1]) + float(np.log(spread).sum())
        error = np.sqrt(np.diag(np.linalg.inv(own)))
        return -0.5 * (energy - float(right @ size)) - volume, size, error


def _sure(readings: Readings, matrix: sparse.csr_matrix, shape: tuple[int, int]) -> FloatArray:
    """Return how sure each reading is, its scatter about a free smooth map taken into account. [1/ln²]"""
    precision = prior_precision(shape, 0.05, OPEN)
    spread = np.maximum(readings.spread, _SCATTER_LEAST)
    weight, scatter = np.ones(len(readings)), 1.0
    for _ in range(3):
        sure = weight / spread**2
        gram = (matrix.T @ matrix.multiply(sure[:, None])).toarray()
        best = np.linalg.solve(gram + precision, matrix.T @ (sure * readings.need))
        apart = np.abs(readings.need - matrix @ best) / spread
        scatter = max(1.0, 1.4826 * float(np.median(apart)))
        weight = np.minimum(1.0, 1.7 * scatter / np.maximum(apart, 1e-9))
    return np.asarray(weight / (scatter * spread) ** 2)
