"""Carrying the tables of another engine over: what its evidence says beyond what its data say.

The other engine's table divided by (or less) what the generator gives for it is what somebody found
out about it. That departure is put on what the generator gives for the new engine. So injectors,
displacement, mixture target, fuel, manifold and axes are rescaled by the same formulas that made the
base maps, and two equal engines carry every value over as it is.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..engine import EngineSpec
from ..quantities import FloatArray
from ..sentences import listed, number, quantity, significant
from ..tables import DEFINITIONS, START_TABLES, Calibration, Provenance, Table
from ..tables.reaxe import interpolated
from .generate import generated_like

How = Literal["ratio", "difference"]
#: How a departure is expressed: as a factor where the quantity is an amount, else as a difference.
_HOW: dict[str, How] = {
    "prime_pulse": "ratio", "cranking_fuel": "ratio", "after_start_enrichment": "ratio",
    "after_start_fade": "ratio", "warm_up_enrichment": "ratio", "cranking_air": "ratio",
    "idle_valve": "ratio", "idle_target": "difference",
    "ve": "ratio", "lambda_target": "difference", "spark": "difference",
}  # fmt: skip
#: A departure larger than this is more likely a mistake than a finding, and is held. [–], [unit]
_MOST_RATIO = 2.0
_MOST_DIFFERENCE = {"idle_target": 400.0, "lambda_target": 0.15, "spark": 8.0}
#: More advance than the generator gives is not carried over: no knock margin is known. [°]
_MOST_MORE_SPARK_DEG = 0.0


@dataclass(frozen=True)
class CarriedTable:
    """What became of one table.

    Attributes
    ----------
    key : str
    carried : bool
    cells, kept : int
        Cells carried over, and cells that keep the generated value. [–]
    sentence : str
        How it was rescaled, or why it was not carried over.
    """

    key: str
    carried: bool
    cells: int
    kept: int
    sentence: str


@dataclass(frozen=True)
class Carried:
    """A calibration with tables carried over.

    Attributes
    ----------
    calibration : Calibration
    tables : tuple of CarriedTable
        Every table, carried or not.
    """

    calibration: Calibration
    tables: tuple[CarriedTable, ...]


def carry_over(
    target: Calibration,
    spec: EngineSpec,
    source: Calibration,
    source_spec: EngineSpec,
    source_name: str,
    wanted: Sequence[str] | None = None,
) -> Carried:
    """Return a calibration with what another engine's tables say beyond its data.

    Parameters
    ----------
    target : Calibration
        To be changed; its axes stay.
    spec, source_spec : EngineSpec
        The engine, and the one the tables come from.
    source : Calibration
        Of the other engine.
    source_name : str
        For the provenance of the cells.
    wanted : sequence of str, optional
        Tables to carry over; all that can be by default.
    """
    mine = generated_like(spec, target)
    theirs = generated_like(source_spec, source)
    said: list[CarriedTable] = []
    result = target
    for key in target.tables:
        refusal = _why_not(key, spec, source, source_spec)
        if refusal:
            said.append(CarriedTable(key, False, 0, target[key].values.size, refusal))
        elif wanted is not None and key not in wanted:
            said.append(CarriedTable(key, False, 0, target[key].values.size, "Not wanted."))
        else:
            table, report = _carried(
                spec, mine[key], source[key], theirs[key], source_spec, source_name
            )
            result = result.with_table(table)
            said.append(report)
    said += [
        CarriedTable(key, False, 0, 0, "The engine has no such table.")
        for key in source.tables
        if key not in target
    ]
    return Carried(result, tuple(said))


def _why_not(key: str, spec: EngineSpec, source: Calibration, source_spec: EngineSpec) -> str:
    if key not in source:
        return "The other calibration has no such table."
    if key == "dead_time":
        return "Dead time belongs to the injectors; those of this engine are entered at station 4."
    if key == "dwell":
        return "Dwell belongs to the coil; it is entered at station 5."
    if key.startswith("boost"):
        return "Boost belongs to the charger and its valve: it is found on the boost staircase."
    if key not in _HOW:
        return "Limits and settings are for the first start of this engine."
    if spec.cycle != source_spec.cycle and key in ("ve", "spark", "idle_target", "idle_valve"):
        return "A rotary and a four-stroke engine have nothing in common here."
    if spec.wet_manifold != source_spec.wet_manifold and key == "after_start_fade":
        return "How long walls fill differs between a wet and a dry manifold."
    if key == "lambda_target" and _targets_differ(spec, source_spec):
        return "The schools of mixture at idle differ; the target of this job's school stays."
    if key == "idle_target" and spec.schools.idle_speed != source_spec.schools.idle_speed:
        return "The schools of idle speed differ; the target of this job's school stays."
    if key == "prime_pulse" and spec.schools.prime != source_spec.schools.prime:
        return "The schools of prime differ; the pulse of this job's school stays."
    return ""


def _targets_differ(spec: EngineSpec, other: EngineSpec) -> bool:
    return spec.schools.idle_mixture != other.schools.idle_mixture


def _carried(
    spec: EngineSpec, mine: Table, theirs: Table, generated: Table, source_spec: EngineSpec, name: str
) -> tuple[Table, CarriedTable]:  # fmt: skip
    """Return a table with the other engine's departure on it, and what was done."""
    key, definition = mine.key, mine.definition
    places, reachable, shift = _places(key, mine, theirs, spec, source_spec)
    found = interpolated(theirs, places)
    expected = interpolated(generated, places)
    base = np.asarray(mine.values)
    wanted, held = _departed(key, base, found, expected)
    steps = np.round(wanted / definition.resolution) * definition.resolution
    values = np.clip(np.round(steps, 6), definition.lower, definition.upper)
    values = np.where(reachable, values, base)
    marks = mine.provenance.copy()
    for index in np.ndindex(values.shape):
        if reachable[index]:
            marks[index] = Provenance(
                "carried_over",
                _reason(key, float(found[index]), float(expected[index]), float(base[index]), name),
                name[:100],
            )
    cells = int(reachable.sum())
    sentence = _HOW_SAID[_HOW[key]] + shift
    if held:
        sentence += f" {held} cells were so far off that the departure was held."
    kept = values.size - cells
    if kept:
        sentence += f" {kept} cells lie where the other engine never was; they stay generated."
    return Table(key, mine.axes, values, marks), CarriedTable(key, True, cells, kept, sentence)


_HOW_SAID: dict[How, str] = {
    "ratio": "Times what the other engine needed against what its data suggest.",
    "difference": "Plus what the other engine had beyond what its data suggest.",
}


def _places(
    key: str, mine: Table, theirs: Table, spec: EngineSpec, source_spec: EngineSpec
) -> tuple[list[FloatArray], np.ndarray, str]:
    """Return where to look in the other table, which cells it covers, and how that was chosen."""
    places = [np.array(axis.points) for axis in mine.axes]
    shift = ""
    if key not in START_TABLES:
        # Waves follow the torque peak, filling follows pressure over outside pressure.
        by_peak = source_spec.torque_peak_rpm / spec.torque_peak_rpm
        by_air = source_spec.barometric_kpa / spec.barometric_kpa
        places = [places[0] * by_peak, places[1] * by_air]
        if abs(by_peak - 1.0) > 0.01:
            shift = f" Speeds are taken at {by_peak:.2f} of this engine's, as the torque peaks lie."
    covered = []
    for axis, place in zip(theirs.axes, places, strict=True):
        low, high = axis.points[0], axis.points[-1]
        slack = 0.02 * (high - low)
        covered.append((place >= low - slack) & (place <= high + slack))
    reachable = covered[0] if len(covered) == 1 else np.logical_and.outer(*covered)
    if key == "spark" and spec.boost_kpa > 0.0:
        # Knock under boost is this engine's own affair.
        reachable = (
            reachable & (np.array(mine.axes[1].points) <= spec.barometric_kpa + 1.0)[None, :]
        )
        shift += " Under boost the generated advance stays."
    return places, reachable, shift


def _departed(
    key: str, base: FloatArray, found: FloatArray, expected: FloatArray
) -> tuple[FloatArray, int]:
    """Return the new values and how many departures were held."""
    if _HOW[key] == "ratio":
        if key == "warm_up_enrichment":  # only what is above none is an amount
            base, found, expected = base - 100.0, found - 100.0, expected - 100.0
        ratio = np.where(
            np.abs(expected) > 1e-3, found / np.where(expected == 0.0, 1.0, expected), 1.0
        )
        kept = np.clip(ratio, 1.0 / _MOST_RATIO, _MOST_RATIO)
        moved = base * kept + (100.0 if key == "warm_up_enrichment" else 0.0)
        return moved, int((np.abs(kept - ratio) > 1e-9).sum())
    difference = found - expected
    most = _MOST_DIFFERENCE[key]
    kept = np.clip(difference, -most, _MOST_MORE_SPARK_DEG if key == "spark" else most)
    return base + kept, int((np.abs(kept - difference) > 0.05 * most).sum())


def _reason(key: str, found: float, expected: float, base: float, name: str) -> str:
    unit = DEFINITIONS[key].unit
    return (
        f"{name} has {quantity(significant(found, 4), unit)} where its data suggest {number(expected, 4)}; this engine's data suggest "
        f"{number(base, 4)}."
    )


def not_carried(carried: Carried) -> str:
    """Return one sentence that names every table that was not carried over."""
    names = [DEFINITIONS[t.key].title.lower() for t in carried.tables if not t.carried]
    return f"Not carried over: {listed(names)}." if names else "Every table was carried over."
