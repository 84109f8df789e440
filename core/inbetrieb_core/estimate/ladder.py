"""The start tables as one estimate: what all starts of a job taught together."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..engine import EngineSpec
from ..quantities import FloatArray
from ..tables import Calibration
from .coordinates import COORDINATES, prior_mean, widened_by
from .cranking import CrankingPosterior, cranking_posterior, fuel_of
from .draws import PLACES_C
from .evidence import Evidence
from .process import KNOTS_C, Curve, Reading, knot_weights, posterior
from .run_up import RunUpPosterior, given_of, run_up_posterior
from .trusted import trusted

#: From here on an engine is as warm as it idles: its mixture is the fuel map's. [°C]
HOT_C = 84.5
#: What the fuel map of an idling engine may be off, and a hot mixture of one log. [ln]
_MAP_SPREAD, _HOT_ERROR = 0.06, 0.015
CLOSED_FORM = tuple(key for key in COORDINATES if key != "cranking_fuel")

#: That charges burn while cranking does not say that the walls hold what the engine leaves cranking with. [–]
_WALLS_TOO = 0.7


@dataclass(frozen=True)
class LadderEstimate:
    """What is believed of every start table after all evidence.

    Attributes
    ----------
    spec : EngineSpec
        The engine.
    curves : dict of str to Curve
        Of every table in closed form; cranking air stands for the whole opening while cranking.
    cranking : CrankingPosterior or None
        Without any outcome None.
    run_up : RunUpPosterior or None
        Of the first seconds after it ran; its mean and spread are the curve of after-start.
    hot_map_off : float
        What the fuel map lacks where a hot engine idles, 0 where that is not known. [ln]
    evidence : tuple of Evidence
        That counted.
    void : tuple of Evidence
        That stood on other injectors, fuel or cam.
    """

    spec: EngineSpec
    curves: dict[str, Curve]
    cranking: CrankingPosterior | None
    run_up: RunUpPosterior | None
    hot_map_off: float
    evidence: tuple[Evidence, ...]
    void: tuple[Evidence, ...]

    def need_at(self, table: str, coolant_c: FloatArray) -> tuple[FloatArray, FloatArray]:
        """Return the need of a table and its standard deviation, in its coordinate. [–]

        With the fuel map in force: what a hot engine lacks is asked of warm-up until it is mended.

        Parameters
        ----------
        table : str
            A table in closed form.
        coolant_c : ndarray
            [°C]
        """
        curve = self.curves[table]
        return curve.at(coolant_c) + self.lacking(table), curve.spread_at(coolant_c)

    def lacking(self, table: str) -> float:
        """Return what a table has to give for the fuel map in force; zero but for warm-up. [ln]"""
        return self.hot_map_off if table == "warm_up_enrichment" else 0.0

    def was_read(self, table: str) -> bool:
        """Return whether any log measured a table's need, rather than only showing how it came out."""
        return self.places_of(table).size > 0

    def trials_of(self, table: str) -> tuple[int, ...]:
        """Return the numbers of the trials that taught of a table."""
        found = {e.trial for e in self.evidence if e.quantity == table and e.trial is not None}
        return tuple(sorted(found))

    def places_of(self, table: str) -> FloatArray:
        """Return the temperatures at which a log of this engine measured a table's need. [°C]"""
        return np.array([e.coolant_c for e in self._readings_of(table)])

    def just_read(self, table: str) -> FloatArray:
        """Return those of :meth:`places_of` that belong to the start that is judged; all where none is. [°C]"""
        if all(e.trial is not None for e in self.evidence):
            return self.places_of(table)
        return np.array([e.coolant_c for e in self._readings_of(table) if e.trial is None])

    def measured_at(self, table: str) -> FloatArray:
        """Return those of :meth:`places_of` that tell more than the engine data do. [°C]"""
        spreads = np.array([e.spread for e in self._readings_of(table)])
        places = self.places_of(table)
        coordinate = COORDINATES[table].widened(widened_by(self.spec, table))
        return np.asarray(places[spreads < coordinate.spread_at(places)])

    def _readings_of(self, table: str) -> list[Evidence]:
        return [e for e in self.evidence if e.quantity == table and e.kind == "measured"]


def basis_of(spec: EngineSpec) -> str:
    """Return the mark of what evidence of start tables stands on: injectors, fuel and cam.

    Parameters
    ----------
    spec : EngineSpec
        The engine as entered.
    """
    parts = (
        f"{spec.injectors.count}x{spec.injector_flow_cm3_min:.1f}",
        f"{spec.rail_pressure_kpa:.0f}",
        str(spec.fuel),
        str(spec.cam),
        f"{spec.displacement_l:.3f}",
    )
    return "/".join(parts)


def estimate(
    spec: EngineSpec,
    calibration: Calibration,
    evidence: Sequence[Evidence],
    seed: int = 1,
    *,
    searched: bool = True,
) -> LadderEstimate:
    """Return what is believed of the start tables.

    Parameters
    ----------
    spec : EngineSpec
        The engine as entered.
    calibration : Calibration
        In force; its fuel map decides what an earlier mixture means today.
    evidence : sequence of Evidence
        Of all starts, in any order.
    seed : int
        Of the sampled part.
    searched : bool
        Whether cranking fuel is wanted too, which takes most of the time.
    """
    mark = basis_of(spec)
    counted = tuple(e for e in evidence if e.basis in ("", mark))
    void = tuple(e for e in evidence if e.basis not in ("", mark))
    hot = _hot_map_off(calibration, counted)
    curves = {}
    for table in CLOSED_FORM:
        mine = [e for e in counted if e.quantity == table and e.kind != "outcome"]
        likes = [e for e in mine if e.kind == "like"]
        coordinate = COORDINATES[table].widened(widened_by(spec, table))
        mean = prior_mean(spec, table, KNOTS_C)
        own = _readings([e for e in mine if e.kind != "like"], calibration, hot)
        told = _readings(likes, calibration, hot)
        curves[table] = posterior(mean, coordinate, [*trusted(mean, coordinate, own), *told])
        if likes:
            # What like engines told was known before: only what this one taught counts as taught.
            before = posterior(mean, coordinate, told)
            curves[table] = replace(curves[table], prior_spread=before.spread_at(KNOTS_C))
    outcomes = [e for e in counted if e.outcome is not None]
    opening = curves["cranking_air"] if any(e.quantity == "cranking_air" for e in counted) else None
    cranking = cranking_posterior(spec, outcomes, opening, seed) if outcomes and searched else None
    ran_up = [e for e in counted if e.run_up is not None]
    run_up = None
    if ran_up and searched:
        warm_up, before = curves["warm_up_enrichment"], curves["after_start_enrichment"]
        moved = [_map_moved(e, calibration) - hot for e in ran_up]
        run_up = run_up_posterior(
            before,
            warm_up,
            ran_up,
            moved,
            [_cranked_well(e, outcomes, cranking, spec) for e in ran_up],
            seed,
            wet=spec.wet_manifold,
        )
        curves["after_start_enrichment"] = _summary(run_up, before)
        well = {
            (e.trial, e.coolant_c): run_up.lives_at(
                e.coolant_c,
                given_of(e.run_up) + shift - float(warm_up.at(np.array([e.coolant_c]))[0]),
            )
            for e, shift in zip(ran_up, moved, strict=True)
            if e.run_up is not None and e.run_up.handover
        }
        if well:
            cranking = cranking_posterior(spec, outcomes, opening, seed, well, like=cranking)
    return LadderEstimate(spec, curves, cranking, run_up, hot, counted, void)


def _readings(
    evidence: Sequence[Evidence], calibration: Calibration, hot_map_off: float
) -> list[Reading]:
    return [
        Reading(e.coolant_c, _scaled(e, calibration, hot_map_off), e.spread, e.trial, e.common)
        for e in evidence
    ]


def _cranked_well(
    ran_up: Evidence,
    outcomes: Sequence[Evidence],
    cranking: CrankingPosterior | None,
    spec: EngineSpec,
) -> float:
    """Return the probability that a start that died on leaving cranking had its fuel right till then."""
    for e in outcomes:
        if (e.trial, e.coolant_c) == (ran_up.trial, ran_up.coolant_c) and e.outcome is not None:
            given = math.log(fuel_of(spec, e.outcome))
            return 1.0 if cranking is None else _WALLS_TOO * cranking.burns_at(e.coolant_c, given)
    return 1.0


def _summary(draws: RunUpPosterior, before: Curve) -> Curve:
    """Return draws as a curve with its spread, for what only looks at the need."""
    up = knot_weights(KNOTS_C, PLACES_C)
    return Curve(
        up @ draws.need.mean(axis=0),
        up @ np.cov(draws.need, rowvar=False) @ up.T,
        before.prior_spread,
    )


def at_coolants(calibration: Calibration, table: str, coolant_c: FloatArray) -> FloatArray:
    """Return a start table in force at many temperatures. [unit of the table]

    Parameters
    ----------
    calibration : Calibration
        In force.
    table : str
        Key of a start table.
    coolant_c : ndarray
        [°C]
    """
    return np.array([calibration.at_coolant(table, float(c)) for c in coolant_c])


def idle_air_below(calibration: Calibration, table: str, coolant_c: FloatArray) -> FloatArray:
    """Return the opening that stands below a table's own: the idle valve's below cranking air. [%]

    Parameters
    ----------
    calibration : Calibration
        In force.
    table : str
        Key of a start table; zero for any but cranking air.
    coolant_c : ndarray
        [°C]
    """
    if table != "cranking_air":
        return np.zeros(coolant_c.size)
    return at_coolants(calibration, "idle_valve", coolant_c)


def _scaled(evidence: Evidence, calibration: Calibration, hot_map_off: float) -> float:
    """Return the value of evidence in its coordinate, with the fuel map in force today."""
    value = float(COORDINATES[evidence.quantity].to_scale(evidence.value))
    if evidence.quantity != "warm_up_enrichment":
        return value
    return value + _map_moved(evidence, calibration) - hot_map_off


def _map_moved(evidence: Evidence, calibration: Calibration) -> float:
    """Return what the fuel map has lost since where a mixture was read. [ln]"""
    place = evidence.fuel_map
    table = calibration["ve"]
    if place is None or table.by_throttle:
        return 0.0
    now = table.at_load(place.rpm, place.map_kpa, 0.0)
    return math.log(max(place.filling_pct, 1.0) / max(now, 1.0))


def _hot_map_off(calibration: Calibration, evidence: Sequence[Evidence]) -> float:
    """Return what the fuel map lacks where a hot engine idles. [ln]"""
    by_trial: dict[int | None, list[float]] = {}
    for e in evidence:
        if e.quantity == "warm_up_enrichment" and e.coolant_c >= HOT_C:
            off = math.log(max(e.value, 1.0) / 100.0) + _map_moved(e, calibration)
            by_trial.setdefault(e.trial, []).append(off)
    if not by_trial:
        return 0.0
    means = [float(np.mean(values)) for values in by_trial.values()]
    told = _MAP_SPREAD**2 / (_MAP_SPREAD**2 + _HOT_ERROR**2 / len(means))
    return told * float(np.mean(means))
