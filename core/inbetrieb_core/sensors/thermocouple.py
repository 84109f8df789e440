"""Thermocouple type K behind an amplifier."""

from __future__ import annotations

import math
from dataclasses import dataclass

from scipy.optimize import brentq

from ..errors import OutOfRangeError, field_refused
from ..sentences import celsius
from .points import Point
from .transfers import SignalUnit

LOWEST_C, HIGHEST_C = -270.0, 1372.0

#: Coefficients of E(t) [mV], t in °C. NIST Monograph 175 (ITS-90), type K.
_BELOW_0 = (
    0.0, 0.394501280250e-01, 0.236223735980e-04, -0.328589067840e-06, -0.499048287770e-08,
    -0.675090591730e-10, -0.574103274280e-12, -0.310888728940e-14, -0.104516093650e-16,
    -0.198892668780e-19, -0.163226974860e-22,
)  # fmt: skip
_ABOVE_0 = (
    -0.176004136860e-01, 0.389212049750e-01, 0.185587700320e-04, -0.994575928740e-07,
    0.318409457190e-09, -0.560728448890e-12, 0.560750590590e-15, -0.320207200030e-18,
    0.971511471520e-22, -0.121047212750e-25,
)  # fmt: skip
_BUMP = (0.118597600000e00, -0.118343200000e-03, 126.9686)


def type_k_mv(temperature_c: float) -> float:
    """Return the voltage of a type K thermocouple with its cold junction at 0 °C. [mV]

    Parameters
    ----------
    temperature_c : float
        Hot junction, −270 to 1372. [°C]

    Raises
    ------
    OutOfRangeError
        If the temperature lies outside the range above.

    References
    ----------
    ITS-90 reference function, NIST Monograph 175 (1993), type K.
    """
    if not LOWEST_C <= temperature_c <= HIGHEST_C:
        raise OutOfRangeError("temperature_c", temperature_c, LOWEST_C, HIGHEST_C, "°C")
    if temperature_c < 0.0:
        return sum(c * temperature_c**i for i, c in enumerate(_BELOW_0))
    bump = _BUMP[0] * math.exp(_BUMP[1] * (temperature_c - _BUMP[2]) ** 2)
    return sum(c * temperature_c**i for i, c in enumerate(_ABOVE_0)) + bump


def type_k_temperature_c(voltage_mv: float) -> float:
    """Return the hot junction's temperature; the inverse of :func:`type_k_mv`, ends held. [°C]

    Parameters
    ----------
    voltage_mv : float
        With the cold junction at 0 °C. [mV]
    """
    # Below −240 °C the function is nearly flat; nothing on an engine is that cold.
    if voltage_mv <= type_k_mv(-240.0):
        return -240.0
    if voltage_mv >= type_k_mv(HIGHEST_C):
        return HIGHEST_C
    return float(brentq(lambda t: type_k_mv(t) - voltage_mv, -240.0, HIGHEST_C, xtol=1e-9))


@dataclass(frozen=True)
class Thermocouple:
    """A type K thermocouple and the amplifier that makes a signal of it.

    Attributes
    ----------
    gain_v_per_mv : float
        Amplifier: volts out per millivolt in. [V/mV]
    offset_v : float
        Output at 0 mV. [V]
    cold_junction_c : float or None
        Temperature of the amplifier where it does not compensate for it; None where it does.
        [°C]
    full_v : float
        Highest voltage the input reads. [V]

    Raises
    ------
    InputRefused
        If the gain is 0, or a number cannot be.
    """

    gain_v_per_mv: float
    offset_v: float = 0.0
    cold_junction_c: float | None = None
    full_v: float = 5.0

    def __post_init__(self) -> None:
        if not (math.isfinite(self.gain_v_per_mv) and 1e-4 <= abs(self.gain_v_per_mv) <= 10.0):
            raise field_refused(
                "transfer.gain_v_per_mv",
                f"The gain must be between 0.0001 and 10 V per mV, not {self.gain_v_per_mv:g}.",
            )
        if not -5.0 <= self.offset_v <= 5.0:
            raise field_refused("transfer.offset_v", "The offset must be between −5 and 5 V.")
        if self.cold_junction_c is not None and not -40.0 <= self.cold_junction_c <= 120.0:
            raise field_refused(
                "transfer.cold_junction_c",
                f"The amplifier must be between {celsius(-40, bare=True)} and {celsius(120)}.",
            )

    @property
    def signal_unit(self) -> SignalUnit:
        """Always a voltage."""
        return "V"

    @property
    def _cold_mv(self) -> float:
        return 0.0 if self.cold_junction_c is None else type_k_mv(self.cold_junction_c)

    def value(self, signal: float) -> float:
        """Return the temperature at the voltage `signal`. [V → °C]"""
        return type_k_temperature_c((signal - self.offset_v) / self.gain_v_per_mv + self._cold_mv)

    def signal(self, value: float) -> float:
        """Return the voltage at the temperature `value`. [°C → V]"""
        held = min(max(value, LOWEST_C), HIGHEST_C)
        return self.offset_v + self.gain_v_per_mv * (type_k_mv(held) - self._cold_mv)

    @property
    def points(self) -> tuple[Point, ...]:
        """None: the curve is the standard's."""
        return ()

    @property
    def residuals(self) -> tuple[float, ...]:
        """None: the curve is the standard's. [K]"""
        return ()

    @property
    def known(self) -> tuple[float, float]:
        """The signals of −200 to 1372 °C that the input can read. [V]"""
        ends = sorted((self.signal(-200.0), self.signal(HIGHEST_C)))
        return max(0.0, ends[0]), min(self.full_v, ends[1])
