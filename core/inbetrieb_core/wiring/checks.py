"""What a meter must read at each wire before the controller is plugged in, and with the key on."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from ..bounds import out_of_bounds
from ..errors import InputRefused, field_refused
from ..injectors.drivers import series_resistor_ohm
from ..sensors import SensorEntry, ThermistorEntry
from ..sensors.entry import make_transfer
from ..sensors.thermistor import Thermistor
from ..sentences import celsius, number, quantity, significant
from .capability import Capability
from .fitting import Fitting
from .functions import USUAL_INJECTOR_OHM
from .wired_function import WiredFunction

#: A crimp at each end and the meter's leads add up to this. [Ω]
_CONTACTS_OHM = 0.6
_FEED_V = (11.5, 15.0)
#: Where a car is wired. [°C]
_BENCH_C = (0.0, 40.0)


@dataclass(frozen=True)
class Check:
    """One measurement at the bench.

    Attributes
    ----------
    instruction : str
        Where to hold the meter.
    lower, upper : float
        What it must read. [unit]
    unit : {"Ω", "V"}
    basis : str
        Where the figure comes from.
    """

    instruction: str
    lower: float
    upper: float
    unit: Literal["Ω", "V"]
    basis: str


@dataclass(frozen=True)
class CheckResult:
    """A reading against what was expected."""

    is_good: bool
    sentence: str


def continuity(pin: str, where: str, wire_ohm: float) -> Check:
    """Return the check of a bare wire from pin to plug.

    Parameters
    ----------
    pin, where : str
        Its two ends.
    wire_ohm : float
        Of the wire alone. [Ω]
    """
    return Check(
        f"Both ends unplugged: pin {pin} to {where}.",
        0.0,
        round(wire_ohm + _CONTACTS_OHM, 2),
        "Ω",
        "wire and contacts",
    )


def check_of(
    function: WiredFunction,
    pin: str,
    wire_ohm: float,
    fitting: Fitting,
    sensor: SensorEntry | None,
) -> Check:
    """Return the one check that tells most about a function's wire.

    Parameters
    ----------
    function : WiredFunction
        What hangs on the wire.
    pin : str
        Name of its pin.
    wire_ohm : float
        Resistance of the wire. [Ω]
    fitting : Fitting
        What is fitted.
    sensor : SensorEntry or None
        The sensor as entered, where it is one.
    """
    if function.group == "fuel":
        return _injector_check(function, pin, wire_ohm, fitting)
    if function.group == "ignition" and function.wires == 2:
        return Check(
            f"Loom off the controller: pin {pin} to the coils' feed, coil plugged in.",
            0.2, round(3.0 + wire_ohm, 1), "Ω", "primary of a usual coil (common practice)",
        )  # fmt: skip
    if sensor is not None and isinstance(sensor.transfer, ThermistorEntry):
        return _thermistor_check(sensor, pin, wire_ohm)
    if function.group == "trigger" and function.wires == 2:
        return Check(
            f"Loom off the controller: pin {pin} to the sensor's other wire, sensor plugged in.",
            200.0, 2500.0, "Ω", "coil of a usual inductive sensor (common practice)",
        )  # fmt: skip
    if function.group == "trigger":
        return Check(
            f"Key on, sensor unplugged: its signal wire (pin {pin}) to sensor ground.",
            4.5, 13.0, "V", "pulled up to 5 V or to battery",
        )  # fmt: skip
    if function.relay:
        return Check(
            f"Loom off the controller: pin {pin} to the relay's feed, relay plugged in.",
            50.0, 130.0, "Ω", "coil of a usual 12 V relay (common practice)",
        )  # fmt: skip
    if function.group == "bus":
        return Check(
            "Battery off: high wire to low wire.",
            54.0, 66.0, "Ω", "two terminators of 120 Ω side by side, ISO 11898",
        )  # fmt: skip
    return continuity(pin, _plug(function), wire_ohm)


def _plug(function: WiredFunction) -> str:
    """Return where the far end of a function's wire is."""
    if function.group == "ignition":
        return "the signal terminal of the coil's plug"
    if function.group == "sensor":
        return "the signal terminal of the sensor's plug"
    return f"the plug of: {function.title.lower()}"


def _injector_check(function: WiredFunction, pin: str, wire_ohm: float, fitting: Fitting) -> Check:
    known = fitting.injector_ohm is not None
    each = fitting.injector_ohm if fitting.injector_ohm is not None else USUAL_INJECTOR_OHM
    if fitting.series_resistors:
        each += series_resistor_ohm(each)
    count = function.parts
    spread = 0.08 if known else 0.2
    together = each / count
    return Check(
        f"Loom off the controller: pin {pin} to the injectors' feed, injectors plugged in.",
        round(together * (1.0 - spread), 2),
        round(together * (1.0 + spread) + wire_ohm + _CONTACTS_OHM, 2),
        "Ω",
        f"{count} × {each:g} Ω side by side" if count > 1 else f"{each:g} Ω"
        + ("" if known else ", a usual injector: enter the resistance"),
    )  # fmt: skip


def _thermistor_check(sensor: SensorEntry, pin: str, wire_ohm: float) -> Check:
    made = make_transfer(sensor.transfer)
    assert isinstance(made, Thermistor)
    warm, cold = (made.curve.resistance_ohm(c) for c in reversed(_BENCH_C))
    middle = made.curve.resistance_ohm(20.0)
    return Check(
        f"Loom off the controller: pin {pin} to sensor ground, sensor plugged in.",
        significant(min(warm, cold), 3),
        significant(max(warm, cold) + wire_ohm + _CONTACTS_OHM, 3),
        "Ω",
        f"its curve from {celsius(_BENCH_C[1], bare=True)} to {celsius(_BENCH_C[0])}; about "
        f"{number(middle, 3)} Ω at {celsius(20.0)}",
    )


def shared_check(capability: Capability, pin: str, wire_ohm: float) -> Check:
    """Return the check of a supply or ground.

    Parameters
    ----------
    capability : str
        Of the pin.
    pin : str
        Its name.
    wire_ohm : float
        Of the wire. [Ω]
    """
    if capability == "supply":
        return Check(
            f"Key on, loom off the controller: pin {pin} to battery minus.",
            *_FEED_V, "V", "battery",
        )  # fmt: skip
    if capability == "sensor_supply":
        return Check(
            f"Key on, one sensor unplugged: its supply wire (pin {pin}) to sensor ground.",
            4.9, 5.1, "V", "5 V ± 2 %",
        )  # fmt: skip
    where = "battery minus" if capability == "power_ground" else "the ground of each sensor's plug"
    return continuity(pin, where, wire_ohm)


def feed_check() -> Check:
    """Return the check of a feed that ends at no pin."""
    return Check(
        "Key on, relay pulled in: at the far end of the feed to battery minus.",
        *_FEED_V, "V", "battery",
    )  # fmt: skip


def judge_check(check: Check, reading: float, unit: str) -> CheckResult:
    """Judge a reading.

    Parameters
    ----------
    check : Check
        What was to be measured.
    reading : float
        On the meter. [unit of the check]
    unit : str
        As typed; it must be the check's.

    Raises
    ------
    InputRefused
        If the reading is no reading of a meter.
    """
    if unit != check.unit:
        raise field_refused("unit", f"This check reads in {check.unit}, not in {unit}.")
    found = out_of_bounds("reading", reading, -30.0, 1e8, check.unit, "A meter's reading")
    if found is not None or not math.isfinite(reading):
        raise InputRefused([found] if found is not None else [])
    if check.lower <= reading <= check.upper:
        return CheckResult(True, f"{quantity(reading, check.unit)} is right.")
    wanted = f"{check.lower:g} to {quantity(check.upper, check.unit)}"
    if check.unit == "Ω" and reading > max(10.0 * check.upper, check.upper + 1e4):
        return CheckResult(False, f"{reading:g} Ω instead of {wanted}: the wire is open.")
    if check.unit == "Ω" and check.lower > 1.0 and reading < 0.2 * check.lower:
        return CheckResult(
            False, f"{reading:g} Ω instead of {wanted}: a short, or the wrong wire at this pin."
        )
    return CheckResult(False, f"{quantity(reading, check.unit)} instead of {wanted}.")
