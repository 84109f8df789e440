"""Whose fault a wrong mixture is: the table's, or something under the bonnet with a signature of its own.

Each cause adds its signature to ln(need); a smooth remainder stands for the table. Models with no cause, one and two
are compared by their marginal likelihood, in which what explains more with less wins (MacKay, Information Theory,
Inference, and Learning Algorithms, chapter 28, from memory). Causes that no log can part are named as one class.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from scipy import sparse
from scipy.linalg import cho_factor, cho_solve

from ..engine import EngineSpec
from ..quantities import FloatArray
from ..tables import Table
from ..tables.weights import weight_matrix
from .beside import Banks, Beside, Misfires, banks_of, misfires_of
from .effects import KINDS, Effect, Kind, View
from .families import open_families, told_apart
from .found_cause import LIKELY, POSSIBLE, FoundCause
from .known_pressure import ReadsLow, reads_low
from .map_prior import GENERATED
from .places import grid_of
from .samples import Readings
from .solve import OPEN, MapPrior, prior_precision

#: How rough the remainder of the table is. [ln]
_ROUGH = 0.015
#: How likely a cause is before anything was seen, and a second one beside it. [–]
_CAUSE, _SECOND = 0.2, 0.15
#: Too small to matter. [ln]
_SMALL = 0.015
_BAND = 1.645
_LEAST_READINGS = 20
#: Readings that span less than this, over speed and over load, stand at one place. [ln]
_ONE_PLACE = 0.3
_SCATTER_LEAST = 0.012
_MOST_READINGS = 4000
#: Steps towards a size whose effect is no straight line, and the step of its slope in parts of its width.
_ROUNDS, _SLOPE = 3, 0.02
#: Readings of one leg of a drive, and what no model knows of an engine, go together: evidence counts by so much. [–]
_TEMPERED = 0.2
#: Off as a whole matters from so many times what the map may be by itself. [–]
_WHOLE = 3.0
#: Causes that only ever add something.
_ONLY_ADDS = ("air-after-throttle", "supply-droop")
#: What a map may be off at light load is told for this pressure, that of an idle; below the other it grows no more
#: (common practice, no source). [kPa]
_IDLE_KPA, _LEAST_KPA = 35.0, 15.0
#: Two causes that leave less than this of what each does by itself hide each other. [–]
_UNDOES = 0.6


@dataclass(frozen=True)
class Fingerprint:
    """What the readings say of causes.

    Attributes
    ----------
    causes : tuple of FoundCause
        Most likely first.
    table : float
        Probability that nothing but the table is wrong, or nothing at all. [–]
    blocks : bool
        Whether tables should wait.
    test : str
        That would tell the first two apart.
    sentence : str
    not_told : tuple of str
        What these readings cannot show.
    """

    causes: tuple[FoundCause, ...]
    table: float
    blocks: bool
    test: str
    sentence: str
    not_told: tuple[str, ...]


def fingerprint(
    readings: Readings,
    spec: EngineSpec,
    table: Table,
    prior: MapPrior = GENERATED,
    drives: Sequence[Beside] = (),
) -> Fingerprint:
    """Return which causes under the bonnet a drive speaks for, each with its size.

    Parameters
    ----------
    readings : Readings
    spec : EngineSpec
        As entered.
    table : Table
        The fuel map in force.
    prior : MapPrior
        What it may be off by itself.
    drives : sequence of Beside
        What the drives show beside the readings.
    """
    shown = _shown(drives)
    too_little = _too_little(readings)
    if too_little:
        told = _told(shown, [], [], ())
        return told if shown else replace(told, sentence=f"{too_little} See what to drive.")
    if len(readings) > _MOST_READINGS:
        readings = readings.chosen(np.linspace(0, len(readings) - 1, _MOST_READINGS).astype(int))
    view = View(readings, spec, table)
    drawn = [(kind, kind.effect(view)) for kind in KINDS]
    low = reads_low([drive.pressure for drive in drives], spec)
    kinds = [_candidate(kind, effect, prior, low) for kind, effect in drawn if effect is not None]
    not_told = tuple(kind.title for kind, effect in drawn if effect is None)
    ground = _Ground.of(readings, grid_of(table), prior)
    models = [ground.model((), kinds, 0.0)]
    for count, odds in ((1, _CAUSE), (2, _CAUSE * _CAUSE * _SECOND)):
        for members in itertools.combinations(range(len(kinds)), count):
            seen = sum(kinds[m].seen for m in members)
            model = ground.model(members, kinds, math.log(odds) + seen)
            if not _hide_each_other(model, kinds) and not _takes_away(model, kinds):
                models.append(model)
    return _told(shown, kinds, models, not_told)


def _too_little(readings: Readings) -> str:
    """Return why readings tell nothing of causes; empty where they may."""
    if len(readings) < _LEAST_READINGS:
        return "Too few readings for causes."
    spans = (np.ptp(np.log(np.maximum(axis, 1.0))) for axis in (readings.rpm, readings.load))
    if any(float(span) >= _ONE_PLACE for span in spans):
        return ""
    return (
        f"All readings stand at about {np.median(readings.rpm):.0f} rpm and one load: there no cause parts from the table, "
        "nor from another cause."
    )


@dataclass(frozen=True)
class _Candidate:
    """A cause that these readings can show, what it does, and what speaks for it beside them. [–, –, log odds]"""

    kind: Kind
    effect: Effect
    seen: float = 0.0


def _candidate(kind: Kind, effect: Effect, prior: MapPrior, low: ReadsLow | None) -> _Candidate:
    """Return a cause, its size and odds as the map's own width and a pressure that is known leave them."""
    if kind.key == "fuel-per-pulse":
        return _Candidate(replace(kind, least=_WHOLE * prior.whole), effect)
    if kind.key != "map-sensor" or low is None:
        return _Candidate(kind, effect)
    # A normal size, seen with a normal error; without the cause what was seen is error alone.
    with_it = math.hypot(kind.spread, low.error_kpa)
    share = (kind.spread / with_it) ** 2
    told = replace(kind, expected=share * low.kpa, spread=kind.spread * low.error_kpa / with_it)
    odds = 0.5 * low.kpa**2 * (low.error_kpa**-2 - with_it**-2) - math.log(with_it / low.error_kpa)
    return _Candidate(told, effect, odds)


def _shown(drives: Sequence[Beside]) -> list[FoundCause]:
    """Return the causes that drives show by themselves, without a model of the map."""
    found = [_misfiring(misfires_of(drives)), _one_bank(banks_of(drives))]
    return [cause for cause in found if cause is not None]


def _misfiring(seen: Misfires | None) -> FoundCause | None:
    if seen is None:
        return None
    where = ", under load" if seen.under_load else ""
    low, share, high = (
        100.0 * min(1.0, max(0.0, seen.share + side * _BAND * seen.error))
        for side in (-1.0, 0.0, 1.0)
    )
    return FoundCause(
        "misfire", f"misfires, which read lean{where}", "% of the steady seconds", seen.probability, share, low, high, 0.0,
        "Look at plugs, their gap, leads and coils" + (", and at dwell: sparks fail under load first." if seen.under_load else
        "; with a lamp on each lead, or by pulling one coil after the other at idle, mind the voltage."),
        comes_off=False,
    )  # fmt: skip


def _one_bank(seen: Banks | None) -> FoundCause | None:
    if seen is None:
        return None
    low, middle, high = (
        100.0 * (math.exp(seen.apart + side * _BAND * seen.error) - 1.0)
        for side in (-1.0, 0.0, 1.0)
    )
    return FoundCause(
        "one-bank", "one bank or cylinder set: its lambda is another than that of the first", "% apart", seen.probability,
        middle, low, high, 0.0,
        "Change the two sensors over: if the difference goes with them it is a sensor. If not, look on the leaner side for a "
        "leak at ports or exhaust, and change its injectors over.",
        comes_off=False,
    )  # fmt: skip


@dataclass(frozen=True)
class _Model:
    """Causes of a model, its log weight, the sizes, their errors, and what they explain."""

    members: tuple[int, ...]
    weight: float
    size: FloatArray
    error: FloatArray
    share: float


def _takes_away(model: _Model, kinds: list[_Candidate]) -> bool:
    """Say whether a cause that can only add something would have to take it away."""
    return any(
        kinds[m].kind.key in _ONLY_ADDS and size < 0.0
        for m, size in zip(model.members, model.size, strict=True)
    )


def _hide_each_other(model: _Model, kinds: list[_Candidate]) -> bool:
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
    """What all models share: the remainder of the table, made once, how sure each reading is, and what the table may
    be off at light load beside its remainder.
    """

    need: FloatArray
    sure: FloatArray
    matrix: sparse.csr_matrix
    whole: tuple[FloatArray, bool]
    light: FloatArray

    @classmethod
    def of(cls, readings: Readings, axes: Sequence[Sequence[float]], prior: MapPrior) -> _Ground:
        """Make it."""
        matrix = weight_matrix(axes, [readings.row, readings.column])
        shape = (len(axes[0]), len(axes[1]))
        sure = _sure(readings, matrix, shape)
        gram = (matrix.T @ matrix.multiply(sure[:, None])).toarray()
        whole = cho_factor(gram + prior_precision(shape, _ROUGH, prior))
        lighter = _IDLE_KPA / np.maximum(readings.map_kpa, _LEAST_KPA)
        light = prior.light * np.nan_to_num(lighter) ** 2
        return cls(readings.need, sure, matrix, whole, light)

    def model(self, members: tuple[int, ...], kinds: list[_Candidate], prior: float) -> _Model:
        """Return one model: its causes' sizes beside the remainder, by a few steps of Gauss and Newton."""
        spread = np.array([kinds[m].kind.spread for m in members])
        expected = np.array([kinds[m].kind.expected for m in members])
        size = expected.copy()
        value, error = 0.0, np.empty(0)
        for _ in range(_ROUNDS if members else 1):
            slopes, at = np.empty((self.need.size, len(members))), np.zeros(self.need.size)
            for place, member in enumerate(members):
                effect, step = kinds[member].effect, _SLOPE * spread[place]
                high, low = effect(size[place] + step), effect(size[place] - step)
                slopes[:, place] = (high - low) / (2.0 * step)
                at += effect(size[place])
            rest = self.need - at + slopes @ (size - expected)
            value, found, error = self._likelihood(rest, slopes, spread)
            size = expected + found
        # What the map misses at light load would be taken for so much of a size.
        _, mistaken, _ = self._likelihood(self.light, slopes, spread)
        error = np.hypot(error, mistaken)
        explained = sum(
            (kinds[m].effect(float(size[p])) for p, m in enumerate(members)),
            np.zeros(self.need.size),
        )
        before = float((self.sure * self.need**2).sum())
        after = float((self.sure * (self.need - explained) ** 2).sum())
        return _Model(
            members,
            _TEMPERED * value + prior,
            size,
            error,
            max(0.0, 1.0 - after / max(before, 1e-12)),
        )

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


def _told(
    shown: list[FoundCause],
    kinds: list[_Candidate],
    models: list[_Model],
    not_told: tuple[str, ...],
) -> Fingerprint:
    weights = np.exp(
        np.array([m.weight for m in models]) - max((m.weight for m in models), default=0.0)
    )
    weights /= weights.sum()
    found = list(shown)
    for member, candidate in enumerate(kinds):
        kind, effect = candidate.kind, candidate.effect
        inside = [i for i, m in enumerate(models) if member in m.members]
        if not inside:
            continue
        model = models[max(inside, key=lambda i: float(weights[i]))]
        place = model.members.index(member)
        size, error = float(model.size[place]), float(model.error[place])
        moves = float(np.abs(effect(size)).max())
        # Too small to matter is as good as not there.
        matters = min(1.0, moves / _SMALL, abs(size) / kind.least)
        probability = float(weights[inside].sum()) * matters**2
        scale = 100.0 if kind.unit.startswith("%") else 1.0
        cause = FoundCause(
            kind.key, kind.title, kind.unit, round(probability, 4), scale * size, scale * (size - _BAND * error),
            scale * (size + _BAND * error), model.share, kind.test,
        )  # fmt: skip
        found.append(cause)
    causes = sorted(
        told_apart(found, {one.kind.key: one.seen for one in kinds}),
        key=lambda cause: -cause.probability,
    )
    # A cause that shows by itself leaves so much less for the table.
    table = float(weights[0]) if models else 1.0
    table *= math.prod(1.0 - cause.probability for cause in shown)
    likely = [cause for cause in causes if cause.probability >= LIKELY]
    # Which of them it is may be open, and that it is one of them sure.
    families = open_families(causes, table)
    asked = [*likely[:1], *(cause for _, members in families for cause in members[:2])]
    said = _sentence(causes, table, likely, families)
    # Where nothing speaks for a cause there is nothing to test.
    if not asked and causes and causes[0].probability > POSSIBLE:
        asked = causes[:1]
    tests = " ".join(dict.fromkeys(cause.test for cause in asked))
    return Fingerprint(tuple(causes), table, bool(likely or families), tests, said, not_told)


def _sentence(
    causes: list[FoundCause],
    table: float,
    likely: list[FoundCause],
    families: list[tuple[str, list[FoundCause]]],
) -> str:
    if not causes or table > LIKELY:
        return "Nothing but the table is wrong, as far as these readings tell."
    named = [cause.title for cause in likely]
    named += [
        f"something that {common}: {' or '.join(cause.title for cause in members[:2])}"
        for common, members in families
    ]
    if named:
        tells = "The test tells which; mend it" if families else "Mend that"
        return f"Not the table, but {', and '.join(named)}. {tells} before a cell is touched."
    open_still = " or ".join(cause.title for cause in causes[:2] if cause.probability > POSSIBLE)
    if not open_still:
        return "No cause is likely; the table takes what is left."
    return f"These readings do not tell whether it is the table, {open_still}."
