"""Copper wires: size from current, length and the voltage that may be lost; fuses."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from ..bounds import out_of_bounds
from ..errors import InputRefused

WireUse = Literal["signal", "switch", "injector", "coil", "feed", "ground"]

#: Conductor cross-section [mm²] -> highest resistance at 20 °C [mΩ/m], road-vehicle cables
#: with copper conductors after ISO 6722-1 (memory).
ISO_6722_MOHM_M: dict[float, float] = {
    0.35: 52.0, 0.5: 37.1, 0.75: 24.7, 1.0: 18.5, 1.5: 12.7, 2.5: 7.60, 4.0: 4.71, 6.0: 3.14,
    10.0: 1.82, 16.0: 1.16, 25.0: 0.743,
}  # fmt: skip
#: Cross-section [mm²] -> continuous current at 50 °C around it [A]: from 1 mm² DIN VDE 0298-4
#: for road vehicles (memory), smaller ones assumed.
CONTINUOUS_A: dict[float, float] = {
    0.35: 4.0, 0.5: 7.0, 0.75: 10.0, 1.0: 13.5, 1.5: 17.0, 2.5: 22.7, 4.0: 29.8, 6.0: 38.3,
    10.0: 51.8, 16.0: 69.6, 25.0: 91.6,
}  # fmt: skip
#: Blade fuses after ISO 8820-3. [A]
FUSES_A = (3.0, 5.0, 7.5, 10.0, 15.0, 20.0, 25.0, 30.0, 40.0, 50.0, 60.0, 70.0, 80.0)
#: A fuse carries its load at no more than this share of its rating (common practice, no source).
_FUSE_SHARE = 0.75
#: Copper's resistance rises by so much a kelvin, and an engine bay is as warm as this (assumed).
COPPER_PER_K, BAY_C = 0.00393, 70.0
SMALLEST_MM2, SMALLEST_POWER_MM2 = 0.5, 0.75


#: Voltage that may be lost along a wire, by what it is for (common practice, no source). [V]
ALLOWED_V: dict[WireUse, float] = {
    "signal": 0.05, "switch": 0.3, "injector": 0.25, "coil": 0.25, "feed": 0.4, "ground": 0.1,
}  # fmt: skip


@dataclass(frozen=True)
class WireSize:
    """A wire, and whether it is thick enough.

    Attributes
    ----------
    size_mm2 : float
        Cross-section. [mm²]
    drop_v : float
        Lost along it at its current, in a warm engine bay. [V]
    resistance_ohm : float
        At 20 °C, as a meter at the bench sees it. [Ω]
    fuse_a : float or None
        Fuse that lets the load pass and protects the wire; None where none was asked for. [A]
    is_enough : bool
        Whether it carries the current and the fuse, and loses no more than allowed.
    """

    size_mm2: float
    drop_v: float
    resistance_ohm: float
    fuse_a: float | None
    is_enough: bool


def wire_resistance_ohm(size_mm2: float, length_m: float, temperature_c: float = 20.0) -> float:
    """Return the resistance of a wire. [Ω]

    Parameters
    ----------
    size_mm2 : float
        A size of :data:`ISO_6722_MOHM_M`. [mm²]
    length_m : float
        [m]
    temperature_c : float
        Of the copper. [°C]

    References
    ----------
    ISO 6722-1, conductor resistances; temperature coefficient of copper as in IEC 60028.
    """
    warm = 1.0 + COPPER_PER_K * (temperature_c - 20.0)
    return ISO_6722_MOHM_M[size_mm2] / 1000.0 * length_m * warm


def fuse_for(current_a: float) -> float | None:
    """Return the smallest fuse that carries a current without ageing; None beyond the largest.

    Parameters
    ----------
    current_a : float
        Continuous. [A]
    """
    return next((fuse for fuse in FUSES_A if _FUSE_SHARE * fuse >= current_a), None)


def size_wire(
    current_a: float,
    length_m: float,
    use: WireUse,
    *,
    fused: bool = False,
    wanted_mm2: float | None = None,
) -> WireSize:
    """Return the thinnest wire that carries a current and loses no more than its use allows.

    Parameters
    ----------
    current_a : float
        Continuous, 0 to 60. [A]
    length_m : float
        One way, 0.05 to 30. [m]
    use : str
        Key of :data:`ALLOWED_V`.
    fused : bool
        Whether a fuse of its own protects it: then the wire must stand the fuse.
    wanted_mm2 : float or None
        Size that somebody chose instead; it is told whether it is enough. [mm²]

    Raises
    ------
    InputRefused
        If current or length cannot be.
    """
    checked = (
        out_of_bounds("current_a", current_a, 0.0, 60.0, "A", "The current"),
        out_of_bounds("length_m", length_m, 0.05, 30.0, "m", "The length"),
    )
    problems = [problem for problem in checked if problem is not None]
    if problems:
        raise InputRefused(problems)
    fuse = fuse_for(current_a) if fused else None
    carried = max(current_a, fuse or 0.0)
    least = SMALLEST_POWER_MM2 if use in ("feed", "ground") else SMALLEST_MM2
    sizes = [size for size in ISO_6722_MOHM_M if size >= least]
    if wanted_mm2 is not None:
        sizes = [wanted_mm2]
    for size in sizes:
        drop = current_a * wire_resistance_ohm(size, length_m, BAY_C)
        is_enough = CONTINUOUS_A[size] >= carried and drop <= ALLOWED_V[use]
        if is_enough or size == sizes[-1]:
            break
    return WireSize(size, drop, wire_resistance_ohm(size, length_m), fuse, is_enough)


def gauge_number(size_mm2: float) -> int:
    """Return the American wire gauge that is at least as thick; only even ones are sold. [–]

    Parameters
    ----------
    size_mm2 : float
        Cross-section. [mm²]

    References
    ----------
    ASTM B258: the diameter of gauge n is 0.127 mm · 92^((36 − n)/39).
    """
    diameter = math.sqrt(4.0 * size_mm2 / math.pi)
    return 2 * math.floor((36.0 - 39.0 * math.log(diameter / 0.127) / math.log(92.0)) / 2.0)
