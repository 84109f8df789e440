"""How near another engine is: a documented distance, part by part."""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..engine import EngineSpec
from ..sentences import number, quantity, significant


@dataclass(frozen=True)
class DistancePart:
    """One way in which two engines differ.

    Attributes
    ----------
    name : str
        What differs.
    amount : float
        How much it counts. [–]
    sentence : str
        Both sides.
    """

    name: str
    amount: float
    sentence: str


def _ratio(name: str, weight: float, mine: float, other: float, unit: str) -> DistancePart:
    return DistancePart(
        name,
        weight * abs(math.log(other / mine)),
        f"{number(other, 3)} against {quantity(significant(mine, 3), unit)}".strip(),
    )


def _step(name: str, weight: float, mine: object, other: object) -> DistancePart:
    words = [str(value).replace("_", " ") for value in (other, mine)]
    return DistancePart(name, weight if mine != other else 0.0, f"{words[0]} against {words[1]}")


def distance_parts(spec: EngineSpec, other: EngineSpec) -> tuple[DistancePart, ...]:
    """Return in what two engines differ, the largest part first.

    Parameters
    ----------
    spec : EngineSpec
        The engine that needs a calibration.
    other : EngineSpec
        The one that has one.

    Returns
    -------
    tuple of DistancePart
        Their sum is the distance. Weights are our own (assumed): what changes the shape of the
        tables counts most (cycle 6, where fuel is injected 3, induction 2), then what scales
        them (cam 1 for each class, chamber size 1.5 and torque peak 1.5 for each factor e, ethanol
        2 for petrol against pure, compression 0.15 a point, valves 0.4 each). Injectors, altitude
        and schools count nothing: carrying over works them out.
    """
    parts = [
        _step("working cycle", 6.0, spec.cycle, other.cycle),
        _step("fuel is injected", 3.0, spec.fuelling, other.fuelling),
        _step("induction", 2.0, spec.induction, other.induction),
        DistancePart(
            "cam",
            abs(other.cam_wildness - spec.cam_wildness),
            f"wildness {other.cam_wildness:.1f} against {spec.cam_wildness:.1f}",
        ),
        _ratio("one chamber", 1.5, spec.chamber_l, other.chamber_l, "l"),
        _ratio("torque peak", 1.5, spec.torque_peak_rpm, other.torque_peak_rpm, "rpm"),
        _ratio("number of chambers", 0.3, spec.chambers, other.chambers, ""),
        DistancePart(
            "ethanol share",
            2.0 * abs(other.ethanol_volume_share - spec.ethanol_volume_share),
            f"{100 * other.ethanol_volume_share:.0f} against {100 * spec.ethanol_volume_share:.0f} %",
        ),
        DistancePart(
            "compression",
            0.15 * abs(other.compression_ratio - spec.compression_ratio),
            f"{other.compression_ratio:g} against {spec.compression_ratio:g}",
        ),
        DistancePart(
            "valves",
            0.4 * abs(other.valves_per_chamber - spec.valves_per_chamber)
            if spec.cycle == other.cycle == "four_stroke"
            else 0.0,
            f"{other.valves_per_chamber} against {spec.valves_per_chamber} in each chamber",
        ),
    ]
    if spec.boost_kpa > 0.0 and other.boost_kpa > 0.0:
        parts.append(
            DistancePart(
                "boost",
                abs(other.boost_kpa - spec.boost_kpa) / 100.0,
                f"{other.boost_kpa:g} against {quantity(spec.boost_kpa, 'kPa')}",
            )
        )
    return tuple(sorted(parts, key=lambda part: -part.amount))


def distance(spec: EngineSpec, other: EngineSpec) -> float:
    """Return how far another engine is: the sum of :func:`distance_parts`, 0 for the same. [–]"""
    return sum(part.amount for part in distance_parts(spec, other))
