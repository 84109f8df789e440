"""Why a cell of a base map is what it is: the formula with this engine's numbers."""

from __future__ import annotations

from dataclasses import dataclass

from ..air import REFERENCE_CHARGE_K
from ..charge import cold_fuel, idle_air
from ..charge.filling import VE_LEAST_PCT, VE_MOST_PCT
from ..charge.start_values import expected_start_value
from ..charge.wall_temperature import cranking_wall_c, running_wall_c
from ..engine import EngineSpec
from ..errors import field_refused
from ..fuel import vaporised_share
from ..quantities import kelvin
from ..sentences import celsius, kilopascal, quantity
from ..tables import DEFINITIONS, START_TABLES, make_axis
from . import boost, limits
from .explained import lambda_terms, peak_terms, spark_terms, ve_terms
from .generate import generated_table
from .second_cam import second_profile
from .spark import SPARK_LEAST_DEG, SPARK_MOST_DEG
from .terms import Term, total


@dataclass(frozen=True)
class Why:
    """How a generated value comes about.

    Attributes
    ----------
    key, unit : str
        Of the table.
    formula : str
        In words and symbols.
    terms : tuple of Term
        What it is made of; for a sum they add up to `value`, unless it was held at a bound.
    value : float
        What the generator gives at the place. [unit of the table]
    held : str
        Which bound it was held at; empty for none.
    beneath : tuple of Term
        What one of the terms is made of itself.
    is_sum : bool
        Whether the terms add up to the value; else they are what the formula is made of.
    """

    key: str
    unit: str
    formula: str
    terms: tuple[Term, ...]
    value: float
    held: str = ""
    beneath: tuple[Term, ...] = ()
    is_sum: bool = False


def why(spec: EngineSpec, key: str, *place: float) -> Why | None:
    """Return how the generated value of a table at a place comes about.

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    key : str
        Of the table.
    place : float
        One value per axis. [unit of each axis]

    Returns
    -------
    Why or None
        None where the engine data say nothing of the table: such an engine has none.

    Raises
    ------
    InputRefused
        If there is no such table, or the place has another number of axes.
    """
    definition = DEFINITIONS.get(key)
    if definition is None or len(place) != len(definition.axes):
        raise field_refused("table", "There is no such cell.")
    base = key.removesuffix("_second_cam")
    if base != key:
        if spec.cam_profiles < 2:
            return None
        spec = second_profile(spec)
    if base == "ve":
        terms = ve_terms(spec, *place)
        return _sum(
            key,
            "VE = s − y/p, Hendricks & Sorenson, SAE 900616",
            terms,
            VE_LEAST_PCT,
            VE_MOST_PCT,
            peak_terms(spec),
        )
    if base == "spark":
        return _sum(
            key, "Conservative advance, no knock margin claimed", spark_terms(spec, *place),
            SPARK_LEAST_DEG, SPARK_MOST_DEG,
        )  # fmt: skip
    if base == "lambda_target":
        return _sum(
            key, "Cruise, richer with load and boost, idle by school", lambda_terms(spec, *place)
        )
    if key in START_TABLES:
        return _start(spec, key, place[0])
    return _other(spec, key, place)


def _sum(
    key: str, formula: str, terms: tuple[Term, ...], lower: float | None = None,
    upper: float | None = None, beneath: tuple[Term, ...] = (),
) -> Why:  # fmt: skip
    definition = DEFINITIONS[key]
    value, held = total(terms), ""
    if lower is not None and value < lower:
        value, held = (
            lower,
            f"held at the least that is trusted, {quantity(lower, definition.unit)}",
        )
    if upper is not None and value > upper:
        value, held = upper, f"held at the most that is trusted, {quantity(upper, definition.unit)}"
    return Why(key, definition.unit, formula, terms, value, held, beneath, is_sum=True)


def _start(spec: EngineSpec, key: str, coolant_c: float) -> Why:
    cranks, runs = cranking_wall_c(spec, coolant_c), running_wall_c(spec, coolant_c)
    wet = ", wet manifold" if spec.wet_manifold else ""
    vapour, running = (
        Term(
            "vaporised share",
            vaporised_share(spec.fuel, wall_c, spec.wet_manifold),
            f"of the fuel at {quantity(coolant_c, '°C')}"
            + (
                f", as at {quantity(wall_c, '°C')} in a usual engine"
                if abs(wall_c - coolant_c) > 0.5
                else ""
            )
            + wet,
        )
        for wall_c in (cranks, runs)
    )
    reference = Term(
        "reference pulse", spec.reference_pulse_ms, "ms, for 100 % filling and lambda 1"
    )
    crank = Term(
        "cranking fuel", cold_fuel.cranking_fuel_pct(spec, coolant_c), "% of the reference pulse"
    )
    target = idle_air.idle_target_rpm(spec, coolant_c)
    formula, terms = {
        "prime_pulse": (
            "school · cold share · reference pulse · cranking fuel · injections per cycle",
            (reference, crank, vapour),
        ),
        "cranking_fuel": (
            "100 · filling · cold density / lambda / vaporised share"
            + (" · share of a throttle body" if spec.wet_manifold else ""),
            (
                Term("filling", cold_fuel.CRANKING_VE, "while cranking (assumed)"),
                Term(
                    "cold density",
                    spec.barometric_kpa / 100.0 * REFERENCE_CHARGE_K / kelvin(coolant_c),
                    f"air at {quantity(coolant_c, '°C')} and {kilopascal(spec.barometric_kpa)} against the reference",
                ),
                Term(
                    "lambda",
                    cold_fuel.cranking_lambda(coolant_c),
                    "vapour mixture that lights readily: leaner the warmer",
                ),
                *(
                    [
                        Term(
                            "throttle body",
                            cold_fuel.throttle_body_share(coolant_c),
                            "half in the cold, all of it hot",
                        )
                    ]
                    if spec.wet_manifold
                    else []
                ),
                vapour,
            ),
        ),
        "after_start_enrichment": (
            "6 + 70·(1 − vaporised share)^1.5, more for a wet manifold",
            (running,),
        ),
        "after_start_fade": ("4 + 16·(1 − vaporised share), longer for a wet manifold", (running,)),
        "warm_up_enrichment": (
            f"100 + 95·(1 − vaporised share 12 K warmer)^1.75, none of it from {quantity(cold_fuel.WARM_C, '°C')}; "
            f"{cold_fuel.STILL_SETTLING_PCT:.0f} more, which end at {quantity(cold_fuel.SETTLED_C, '°C')}",
            (running,),
        ),
        "cranking_air": (
            f"{cold_fuel.ADDED_WARM:.0f} + {cold_fuel.ADDED_PER_K} for each kelvin below {celsius(90)}, "
            "more for a bigger cam, less of a bigger valve",
            (
                Term("oil", cold_fuel.added_pct(coolant_c), "thicker when cold"),
                Term("cam", spec.by_cam(0.0, 1.5, 3.0), f"wildness {spec.cam_wildness:.1f}"),
            ),
        ),
        "idle_valve": (
            "(air that friction needs − air past the stop) / air of the open valve",
            (
                Term(
                    "air",
                    idle_air.idle_air_gps(spec, target, coolant_c),
                    f"g/s at {target:.0f} rpm, oil films at {quantity(idle_air.oil_film_c(coolant_c), '°C')}",
                ),
                Term(
                    "past the stop", idle_air.expected_stop_gps(spec), "g/s with a closed throttle"
                ),
                Term("open valve", idle_air.open_valve_gps(spec), "g/s"),
            ),
        ),
        "idle_target": (
            f"warm speed + 5 for each kelvin below {celsius(60)}, at most 350",
            (
                Term("warm", idle_air.warm_idle_rpm(spec), f"{spec.schools.idle_speed} school"),
                Term(
                    "raised",
                    target - idle_air.warm_idle_rpm(spec),
                    f"at {quantity(coolant_c, '°C')}",
                ),
            ),
        ),
    }[key]
    value = expected_start_value(spec, key, coolant_c)
    is_sum = key in ("cranking_air", "idle_target")
    return Why(key, DEFINITIONS[key].unit, formula, terms, value, is_sum=is_sum)


def _other(spec: EngineSpec, key: str, place: tuple[float, ...]) -> Why | None:
    """Return the reason of limits, settings, boost and battery tables: that of their own cell."""
    unit = DEFINITIONS[key].unit
    if key == "boost_target" and spec.boost_kpa > 0.0:
        rpm, ethanol = place
        terms = (
            Term("barometric", spec.barometric_kpa, "kPa"),
            Term(
                "charger", boost.reachable_boost_kpa(spec, rpm), f"kPa it can make at {rpm:g} rpm"
            ),
            Term(
                "wanted",
                boost.wanted_boost_kpa(spec, ethanol / 100.0),
                f"kPa with {ethanol:g} % ethanol",
            ),
        )
        value = boost.boost_target_kpa(spec, rpm, ethanol)
        return Why(
            key,
            unit,
            "barometric + the smaller of what the charger can make and what is wanted",
            terms,
            value,
        )
    if key == "rev_limit":
        first = Term("first limit", limits.first_limit_rpm(spec), "warm, for the first start")
        value = limits.rev_limit_rpm(spec, place[0])
        return Why(key, unit, "first limit, lower while cold or too hot", (first,), value)
    axes = {name: make_axis(name, (place[i],)) for i, name in enumerate(DEFINITIONS[key].axes)}
    table = generated_table(spec, key, axes)
    if table is None:
        return None
    index = (0,) * table.values.ndim
    return Why(key, unit, table.mark(index).reason, (), float(table.values[index]))
