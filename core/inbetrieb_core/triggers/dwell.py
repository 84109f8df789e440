"""Dwell: how long a coil must be fed to reach its current, and what limits it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from scipy.interpolate import PchipInterpolator

from ..bounds import out_of_bounds
from ..errors import InputRefused, field_refused

#: A coil must rest for this share of the time between two sparks (common practice, no source).
_REST_SHARE = 0.2
#: Mean power above which a coil on the engine overheats (assumed). [W]
_HOT_W, _TOO_HOT_W = 20.0, 35.0
_RUNNING_V = 14.0


@dataclass(frozen=True)
class Coil:
    """An ignition coil by its primary.

    Attributes
    ----------
    resistance_ohm : float
        Primary with wires and driver, 0.1 to 10. [Ω]
    inductance_mh : float
        Primary, 0.2 to 30. [mH]
    current_a : float
        Wanted at the spark, 1 to 30. [A]

    Raises
    ------
    InputRefused
        With one sentence for each field that cannot be.
    """

    resistance_ohm: float
    inductance_mh: float
    current_a: float

    def __post_init__(self) -> None:
        checked = (
            out_of_bounds("resistance_ohm", self.resistance_ohm, 0.1, 10.0, "Ω", "The coil's resistance"),
            out_of_bounds("inductance_mh", self.inductance_mh, 0.2, 30.0, "mH", "The coil's inductance"),
            out_of_bounds("current_a", self.current_a, 1.0, 30.0, "A", "The wanted current"),
        )  # fmt: skip
        problems = [problem for problem in checked if problem is not None]
        if problems:
            raise InputRefused(problems)


#: Stands for a coil nobody has entered (assumed).
MIDDLING_COIL = Coil(0.6, 4.0, 7.0)


def dwell_ms(coil: Coil, battery_v: float) -> float | None:
    """Return how long a coil must be fed, None where it never reaches its current.

    Parameters
    ----------
    coil : Coil
        Its primary.
    battery_v : float
        At the coil. [V]

    Notes
    -----
    t = −L/R·ln(1 − I·R/V); with I·R ≥ V the current is never reached.
    """
    share = coil.current_a * coil.resistance_ohm / battery_v if battery_v > 0.0 else math.inf
    if share >= 1.0:
        return None
    return -coil.inductance_mh / coil.resistance_ohm * math.log1p(-share)


@dataclass(frozen=True)
class DwellCell:
    """Dwell at one voltage of the controller's axis.

    Attributes
    ----------
    battery_v : float
        [V]
    dwell_ms : float or None
        None where the current is never reached. [ms]
    held : bool
        Whether a maker's table had to be held beyond its end.
    """

    battery_v: float
    dwell_ms: float | None
    held: bool


@dataclass(frozen=True)
class DwellSheet:
    """Dwell over voltage and its limits.

    Attributes
    ----------
    cells : tuple of DwellCell
        On the controller's axis.
    longest_ms : float
        At the rev limit, so that the coil still rests. [ms]
    duty_pct : float
        Of one coil at the rev limit and 14 V. [%]
    full_until_rpm : float
        Speed up to which the whole dwell fits. [1/min]
    power_w : float or None
        Mean heat of one coil at the rev limit; None for a maker's table without a coil. [W]
    level : {"good", "attention", "stop"}
    sentences : tuple of str
    duty : tuple of (speed [1/min], duty [%])
        Of one coil at 14 V, were the whole dwell given.
    """

    cells: tuple[DwellCell, ...]
    longest_ms: float
    duty_pct: float
    full_until_rpm: float
    power_w: float | None
    level: Literal["good", "attention", "stop"]
    sentences: tuple[str, ...]
    duty: tuple[tuple[float, float], ...] = ()


def spark_interval_ms(rpm: float, sparks_per_turn: float) -> float:
    """Return the time between two sparks of one coil. [ms]

    Parameters
    ----------
    rpm : float
        Shaft speed, above 0. [1/min]
    sparks_per_turn : float
        Of one coil: 0.5 for a coil at each cylinder of a four-stroke, 1 for a wasted spark or a
        rotor, half the cylinders for one coil and a distributor. [–]
    """
    return 60_000.0 / (rpm * sparks_per_turn)


def dwell_from_coil(
    coil: Coil, axis_v: Sequence[float], rev_limit_rpm: float, sparks_per_turn: float
) -> DwellSheet:
    """Return the dwell of a coil on the controller's own axis, and what limits it.

    Parameters
    ----------
    coil : Coil
        Its primary.
    axis_v : sequence of float
        Battery voltages. [V]
    rev_limit_rpm : float
        [1/min]
    sparks_per_turn : float
        Of one coil. [–]
    """
    cells = tuple(DwellCell(v, dwell_ms(coil, v), False) for v in axis_v)
    return _sheet(cells, dwell_ms(coil, _RUNNING_V), rev_limit_rpm, sparks_per_turn, coil)


def dwell_from_table(
    points: Sequence[Sequence[float]],
    axis_v: Sequence[float],
    rev_limit_rpm: float,
    sparks_per_turn: float,
) -> DwellSheet:
    """Return a maker's dwell (voltage [V], dwell [ms]) on the controller's own axis.

    Between the points PCHIP, beyond them the end held and flagged.

    Parameters
    ----------
    points : sequence of (voltage, dwell)
        At least two; dwell falls with voltage. [V, ms]
    axis_v : sequence of float
        Battery voltages. [V]
    rev_limit_rpm : float
        [1/min]
    sparks_per_turn : float
        Of one coil. [–]

    Raises
    ------
    InputRefused
        If the points are not as described.
    """
    values = np.array(sorted((float(v), float(t)) for v, t in points))
    if len(values) < 2 or not np.isfinite(values).all():
        raise field_refused("points", "At least two points of voltage and dwell are needed.")
    if (np.diff(values[:, 0]) <= 0).any() or (np.diff(values[:, 1]) > 0).any():
        raise field_refused(
            "points", "Dwell must fall from voltage to voltage: a coil charges faster with more."
        )
    if not (values[:, 1] > 0.1).all() or not (values[:, 1] < 50.0).all():
        raise field_refused("points", "A dwell lies between 0.1 and 50 ms. Is it in microseconds?")
    curve = PchipInterpolator(values[:, 0], values[:, 1])
    low, high = float(values[0, 0]), float(values[-1, 0])

    def at(volts: float) -> float:
        return float(curve(min(max(volts, low), high)))

    cells = tuple(DwellCell(v, at(v), not low <= v <= high) for v in axis_v)
    return _sheet(cells, at(_RUNNING_V), rev_limit_rpm, sparks_per_turn, None)


def _sheet(
    cells: tuple[DwellCell, ...],
    running_ms: float | None,
    rev_limit_rpm: float,
    sparks_per_turn: float,
    coil: Coil | None,
) -> DwellSheet:
    interval = spark_interval_ms(rev_limit_rpm, sparks_per_turn)
    longest = (1.0 - _REST_SHARE) * interval
    if running_ms is None:
        assert coil is not None  # a table has a dwell at every voltage
        reach = _RUNNING_V / coil.resistance_ohm
        return DwellSheet(
            cells, longest, 0.0, 0.0, None, "stop",
            (f"This coil never reaches {coil.current_a:g} A at {_RUNNING_V:g} V: at most {reach:.1f} A.",),
        )  # fmt: skip
    duty = 100.0 * running_ms / interval
    full_until = rev_limit_rpm * longest / running_ms
    power = None if coil is None else _mean_power_w(coil, min(running_ms, longest), interval)
    level: Literal["good", "attention", "stop"] = "good"
    sentences = [f"{running_ms:.1f} ms at {_RUNNING_V:g} V; {duty:.0f} % of the time at the limit."]
    if running_ms > longest:
        level = "attention"
        sentences.append(
            f"The whole dwell fits only up to {full_until:.0f} rpm; above, the spark gets weaker. "
            "A coil for each cylinder, or a faster coil, mends that."
        )
    if power is not None and power > _HOT_W:
        level = "stop" if power > _TOO_HOT_W else "attention"
        sentences.append(f"The coil would make {power:.0f} W of heat: it will overheat.")
    if any(cell.dwell_ms is None for cell in cells):
        weakest = min(cell.battery_v for cell in cells if cell.dwell_ms is not None)
        sentences.append(
            f"Below {weakest:g} V the current is never reached: the spark is weak there."
        )
    speeds = [rev_limit_rpm * i / 20.0 for i in range(1, 21)]
    curve = tuple(
        (round(n), round(100.0 * running_ms / spark_interval_ms(n, sparks_per_turn), 2))
        for n in speeds
    )
    return DwellSheet(cells, longest, duty, full_until, power, level, tuple(sentences), curve)


def _mean_power_w(coil: Coil, fed_ms: float, interval_ms: float) -> float:
    """Return the mean resistive heat of a coil.

    Parameters
    ----------
    coil : Coil
        Its primary.
    fed_ms, interval_ms : float
        Fed in every interval. [ms]

    Notes
    -----
    ∫R·i²dt with i = I_end·(1 − e^(−t/τ)), I_end = V/R, τ = L/R.
    """
    tau = coil.inductance_mh / coil.resistance_ohm
    end = _RUNNING_V / coil.resistance_ohm
    x = fed_ms / tau
    charge = fed_ms + 2.0 * tau * (math.exp(-x) - 1.0) - 0.5 * tau * (math.exp(-2.0 * x) - 1.0)
    return coil.resistance_ohm * end**2 * charge / interval_ms
