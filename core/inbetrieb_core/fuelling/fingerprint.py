"""Whose fault a wrong mixture is: the table's, or something under the bonnet with a signature of its own.

Models of the table alone and with causes beside it are compared; what a drive shows by itself stands beside them. Causes
that no log can part are named as one class.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..engine import EngineSpec
from ..quantities import FloatArray
from ..tables import Table
from .beside import Banks, Beside, Misfires, banks_of, misfires_of
from .cause_models import Compared, Model, compared
from .effects import Key
from .families import open_families, told_apart
from .found_cause import LIKELY, POSSIBLE, FoundCause
from .known_pressure import reads_low
from .map_prior import GENERATED
from .samples import Readings, joined
from .solve import MapPrior

#: Too small to matter. [ln]
_SMALL = 0.015
_BAND = 1.645
_LEAST_READINGS = 20
#: Readings that span less than this, over speed and over load, stand at one place. [ln]
_ONE_PLACE = 0.3


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
    earlier: Readings | None = None,
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
    earlier : Readings, optional
        Of earlier drives, against the same map: they tell what the map is off by itself.
    """
    shown = _shown(drives)
    too_little = _too_little(readings)
    if too_little:
        told = _told(shown, Compared((), (), ()))
        return told if shown else replace(told, sentence=f"{too_little} See what to drive.")
    low = reads_low([drive.pressure for drive in drives], spec)
    found = compared(readings, spec, table, prior, low, joined(()) if earlier is None else earlier)
    return _told(shown, found)


def fingerprint_of_drives(
    parts: Sequence[Readings],
    spec: EngineSpec,
    table: Table,
    prior: MapPrior = GENERATED,
    drives: Sequence[Beside] = (),
    earlier: Readings | None = None,
) -> Fingerprint:
    """Return which causes several drives speak for; one that came with the last of them is no mean of all.

    Parameters
    ----------
    parts : sequence of Readings
        Of each drive, in the order in which they were driven.
    spec, table, prior, earlier
        As in :func:`fingerprint`.
    drives : sequence of Beside
        What each drive shows beside its readings.
    """
    together = fingerprint(joined(parts), spec, table, prior, drives, earlier)
    if len(parts) < 2:
        return together
    before = joined((*parts[:-1], *(() if earlier is None else (earlier,))))
    last = fingerprint(parts[-1], spec, table, prior, drives[-1:], before)
    came = any(cause.since and cause.probability > POSSIBLE for cause in last.causes)
    return last if last.blocks and came else together


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


def _told(shown: list[FoundCause], held: Compared) -> Fingerprint:
    models, weights = held.models, _weights(held.models)
    found = list(shown)
    by_key: dict[Key, list[int]] = {}
    for number, candidate in enumerate(held.candidates):
        by_key.setdefault(candidate.kind.key, []).append(number)
    for numbers in by_key.values():
        inside = [i for i, model in enumerate(models) if set(numbers) & set(model.members)]
        if inside:
            best = max(inside, key=lambda i: float(weights[i]))
            found.append(_found(held, models[best], numbers, float(weights[inside].sum())))
    seen = {one.kind.key: one.seen for one in held.candidates}
    causes = sorted(told_apart(found, seen), key=lambda cause: -cause.probability)
    # A cause that shows by itself leaves so much less for the table.
    table = float(weights[0]) if models else 1.0
    table *= math.prod(1.0 - cause.probability for cause in shown)
    likely = [cause for cause in causes if cause.probability >= LIKELY]
    # Which of them it is may be open, and that it is one of them sure.
    families = open_families(causes, table)
    since = any(cause.since for cause in likely) or any(members[0].since for _, members in families)
    asked = [*likely[:1], *(cause for _, members in families for cause in members[:2])]
    said = _sentence(causes, table, likely, families, since)
    # Where nothing speaks for a cause there is nothing to test.
    if not asked and causes and causes[0].probability > POSSIBLE:
        asked = causes[:1]
    tests = " ".join(dict.fromkeys(cause.test for cause in asked))
    return Fingerprint(tuple(causes), table, bool(likely or families), tests, said, held.not_told)


def _weights(models: Sequence[Model]) -> FloatArray:
    """Return the probability of each model."""
    logs = np.array([model.weight for model in models])
    weights = np.exp(logs - logs.max(initial=-np.inf))
    return np.asarray(weights / weights.sum())


def _found(held: Compared, model: Model, numbers: list[int], probability: float) -> FoundCause:
    """Return a cause as its best model has it."""
    place = next(p for p, member in enumerate(model.members) if member in numbers)
    candidate = held.candidates[model.members[place]]
    kind, size, error = candidate.kind, float(model.size[place]), float(model.error[place])
    moves = float(np.abs(candidate.effect(size)).max())
    # Too small to matter is as good as not there.
    matters = min(1.0, moves / _SMALL, abs(size) / kind.least)
    scale = 100.0 if kind.unit.startswith("%") else 1.0
    return FoundCause(
        kind.key, kind.title, kind.unit, round(probability * matters**2, 4), scale * size, scale * (size - _BAND * error),
        scale * (size + _BAND * error), model.share, kind.test, since=candidate.since, sense=kind.sense(size),
    )  # fmt: skip


def _sentence(
    causes: list[FoundCause],
    table: float,
    likely: list[FoundCause],
    families: list[tuple[str, list[FoundCause]]],
    since: bool,
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
        when = " It came after the drives before this one." if since else ""
        return f"Not the table, but {', and '.join(named)}.{when} {tells} before a cell is touched."
    open_still = " or ".join(cause.title for cause in causes[:2] if cause.probability > POSSIBLE)
    if not open_still:
        return "No cause is likely; the table takes what is left."
    return f"These readings do not tell whether it is the table, {open_still}."
