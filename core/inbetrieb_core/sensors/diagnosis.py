"""Why a sensor reads wrong: which simple mistakes would give about this reading, the likeliest first."""

from __future__ import annotations

import math
from collections.abc import Iterator

from ..air import standard_pressure_kpa
from ..sentences import number
from .circumstances import COOLING_H
from .entry import SensorEntry, full_signal_v
from .explanations import Explanation, Mistake, ranked
from .library import LIBRARY
from .sheet import USUAL_PULL_UPS_OHM, rail_readings
from .thermistor import Thermistor, divider_v
from .transfers import Transfer

#: How near a mistake must come to the reading to be named.
_SAME_PULL_UP_SHARE = 0.06
_SAME_TEMPERATURE_K = 2.0
_SAME_PRESSURE_KPA = 2.0
_OPEN_WIRE_C = -35.0
#: How exactly a mix-up of units gives a reading; where a run engine's coolant stands; grounds that are
#: met; from which altitude on the two barometers differ. [K, °C, mV, m]
_UNIT_K, _RUN_WARM_C, _ALTITUDE_TELLS_M = 1.5, 90.0, 150.0
_GROUNDS_MV = (-150, -100, -60, 60, 100, 150, 250)
#: A pull-up of no usual size may still be this. [Ω]
_PULL_UPS_OHM = (150.0, 30_000.0)
#: Units in which a pressure is met, each in kilopascal.
_PRESSURE_UNITS = {
    "psi": 6.894757, "bar": 100.0, "hPa": 0.1, "mmHg": 0.1333224, "inHg": 3.386389,
}  # fmt: skip
_OPEN_LOOK = ("connector and wire", "whether the input's pull-up is on", "the sensor itself")


def implied_pull_up_ohm(transfer: Thermistor, reading_c: float, true_c: float) -> float:
    """Return the pull-up with which a sensor at a known temperature gives this reading. [Ω]

    Parameters
    ----------
    transfer : Thermistor
        As entered.
    reading_c, true_c : float
        What the controller shows, and what it should. [°C]

    Notes
    -----
    The reading stands for the voltage V = transfer.signal(reading); the sensor's resistance R
    is known from its true temperature; R_pull-up = R·(V_supply/V − 1).
    """
    volts = transfer.signal(reading_c)
    return transfer.curve.resistance_ohm(true_c) * (transfer.supply_v / volts - 1.0)


def explain_temperature(sensor: SensorEntry | None, reading_c: float, true_c: float) -> Explanation:
    """Return the likeliest mistake behind a temperature, and what to look at.

    Parameters
    ----------
    sensor : SensorEntry or None
        As entered; None where nothing is.
    reading_c, true_c : float
        What the controller shows, and what it should. [°C]
    """
    general = (
        "the curve and pull-up that are entered",
        "connector and sensor ground",
        "resistance of the sensor on a meter",
    )
    if sensor is None:
        if reading_c <= _OPEN_WIRE_C:
            return "the coldest it can show. Wire open, or pull-up off?", _OPEN_LOOK
        return "nothing is entered for this sensor.", general
    transfer = sensor.made()
    if isinstance(transfer, Thermistor):
        hot, cold = rail_readings(transfer)
        if reading_c <= cold + _SAME_TEMPERATURE_K:
            return "the coldest it can show. Wire open, or pull-up off?", _OPEN_LOOK
        if reading_c >= hot - 5.0:
            return (
                "the hottest it can show. Pull-up off, or wire shorted to ground?",
                ("whether the input's pull-up is on", "a pinched wire", "the sensor itself"),
            )
    found = ranked(_wrong_temperatures(transfer, reading_c, true_c), reading_c, "°C")
    if found is not None:
        return found
    if isinstance(transfer, Thermistor):
        return "neither pull-up, sensor, unit nor heat left over explains it.", general
    return "offset or slope is wrong.", ("the transfer that is entered", "sensor ground")


def _wrong_temperatures(transfer: Transfer, reading_c: float, true_c: float) -> Iterator[Mistake]:
    """Yield the mistakes that could stand behind a temperature, each with what it would read."""
    yield Mistake("a reading in °F", 1.8 * true_c + 32.0, _UNIT_K, 0.5, ("the unit of the curve",))
    yield Mistake("a reading in kelvin", true_c + 273.15, _UNIT_K, 0.3, ("the unit of the curve",))
    if reading_c > true_c + 4.0 and reading_c < _RUN_WARM_C:
        hours = COOLING_H * math.log((_RUN_WARM_C - true_c) / (reading_c - true_c))
        yield Mistake(
            f"heat left from a run about {hours:.1f} h ago", reading_c, _UNIT_K, 0.2,
            ("a check after a night, or a thermometer on the sensor's housing",), "heat",
        )  # fmt: skip
    if not isinstance(transfer, Thermistor):
        return
    ohm = transfer.curve.resistance_ohm(true_c)

    def shows(resistance: float, pull_up: float, ground_v: float = 0.0) -> float:
        volts = divider_v(resistance, pull_up, transfer.supply_v - ground_v) + ground_v
        return transfer.value(min(volts, 0.999 * transfer.supply_v))

    def spread(value: float) -> float:
        # Resistors and curves are true to a few per cent.
        return _UNIT_K + abs(
            shows(1.05 * ohm, transfer.pull_up_ohm) - shows(ohm, transfer.pull_up_ohm)
        )

    for pull_up in USUAL_PULL_UPS_OHM:
        if abs(pull_up / transfer.pull_up_ohm - 1.0) > _SAME_PULL_UP_SHARE:
            would = shows(ohm, pull_up)
            yield Mistake(
                f"a pull-up of {pull_up:g} Ω instead of the entered {transfer.pull_up_ohm:g} Ω",
                would, spread(would), 1.0,
                (f"the controller's pull-up: is it {pull_up:g} Ω?", "the sensor's curve"), "pull-up",
            )  # fmt: skip
    implied = implied_pull_up_ohm(transfer, reading_c, true_c)
    if _PULL_UPS_OHM[0] < implied < _PULL_UPS_OHM[1]:
        yield Mistake(
            f"a pull-up of about {number(implied, 2)} Ω", reading_c, _UNIT_K, 0.1,
            ("the controller's pull-up: measure it",), "pull-up",
        )  # fmt: skip
    for item in LIBRARY:
        made = item.made()
        if isinstance(made, Thermistor):
            would = shows(made.curve.resistance_ohm(true_c), transfer.pull_up_ohm)
            yield Mistake(
                f"a sensor like '{item.name}'", would, spread(would), 0.5,
                ("which sensor is fitted: measure its resistance", "the curve that is entered"), "sensor",
            )  # fmt: skip
    for millivolts in _GROUNDS_MV:
        would = shows(ohm, transfer.pull_up_ohm, 1e-3 * millivolts)
        yield Mistake(
            f"a sensor ground about {millivolts} mV off", would, 0.5 * _UNIT_K, 0.15,
            ("sensor ground, from the sensor to the controller",), "ground",
        )  # fmt: skip
    resistive = 2.0 * ohm
    yield Mistake(
        "a corroded connector that doubles the resistance",
        shows(resistive, transfer.pull_up_ohm), 2.0 * _UNIT_K, 0.1,
        ("connector: clean it and measure again",), "connector",
    )  # fmt: skip


def explain_pressure(
    sensor: SensorEntry | None, reading_kpa: float, true_kpa: float, altitude_m: float = 0.0
) -> Explanation:
    """Return the mistakes that may stand behind an air pressure, and what to look at.

    Parameters
    ----------
    sensor : SensorEntry or None
        As entered.
    reading_kpa, true_kpa : float
        What the controller shows, and what it should. [kPa]
    altitude_m : float
        Of the place. [m]
    """
    look = ("the transfer that is entered", "sensor supply and ground", "a blocked hose")
    lowest, highest = (None, None) if sensor is None else _ends(sensor)
    if abs(reading_kpa) <= 3.0:
        return (
            "it reads gauge pressure, or the signal is at ground.",
            ("the transfer: it must be absolute", "signal wire and supply"),
        )
    if lowest is not None and reading_kpa <= lowest + _SAME_PRESSURE_KPA:
        return "the lowest it can show: the signal is at ground, or there is no supply.", (
            "supply of the sensor",
            "signal wire",
        )
    if highest is not None and reading_kpa >= highest - _SAME_PRESSURE_KPA:
        return "the highest it can show: the sensor's ground is open.", (
            "sensor ground",
            "signal wire, for a short to supply",
        )
    found = ranked(_wrong_pressures(sensor, true_kpa, altitude_m), reading_kpa, "kPa")
    if found is not None:
        return found
    return "offset or slope is wrong, or the manifold is not at rest.", look


def _wrong_pressures(
    sensor: SensorEntry | None, true_kpa: float, altitude_m: float
) -> Iterator[Mistake]:
    """Yield the mistakes that could stand behind an air pressure, each with what it would read."""
    for unit, kpa in _PRESSURE_UNITS.items():
        would = true_kpa / kpa
        yield Mistake(
            f"a reading in {unit}", would, max(0.03 * would, 0.02), 0.6,
            ("the unit of the transfer",),
        )  # fmt: skip
    if abs(altitude_m) > _ALTITUDE_TELLS_M:
        reduced = standard_pressure_kpa(0.0) - standard_pressure_kpa(altitude_m)
        yield Mistake(
            f"a barometer that is reduced to sea level, at {altitude_m:.0f} m", true_kpa - reduced,
            1.0 + 0.1 * abs(reduced), 1.0,
            ("the weather station: its pressure at the place, not at sea level",), "barometer",
        )  # fmt: skip
    if sensor is None:
        return
    transfer = sensor.made()
    for item in LIBRARY:
        if item.function == sensor.function and item.name != sensor.name:
            volts = item.made().signal(true_kpa)
            yield Mistake(
                f"a sensor like '{item.name}'", transfer.value(volts), _SAME_PRESSURE_KPA, 0.5,
                ("which sensor is fitted", "the transfer that is entered"), "sensor",
            )  # fmt: skip
    true_v = transfer.signal(true_kpa)
    for millivolts in _GROUNDS_MV:
        yield Mistake(
            f"a sensor ground about {millivolts} mV off", transfer.value(true_v + 1e-3 * millivolts),
            0.5 * _SAME_PRESSURE_KPA, 0.25, ("sensor ground, from the sensor to the controller",), "ground",
        )  # fmt: skip


def _ends(sensor: SensorEntry) -> tuple[float, float]:
    """Return the lowest and highest reading that the controller can show. [unit of the function]"""
    transfer, definition = sensor.made(), sensor.definition
    ends = sorted(transfer.value(volts) for volts in (0.0, full_signal_v(sensor.function)))
    return max(definition.lower, ends[0]), min(definition.upper, ends[1])


def explain_throttle(closed_pct: float, open_pct: float | None) -> Explanation:
    """Return the likeliest mistake behind the throttle's ends, and what to look at.

    Parameters
    ----------
    closed_pct : float
        Reading shut. [%]
    open_pct : float or None
        Reading fully open. [%]
    """
    if open_pct is not None and closed_pct > 90.0 and open_pct < 10.0:
        return "the direction is reversed.", ("closed and open, captured the right way round",)
    if open_pct is not None and abs(open_pct - closed_pct) < 5.0:
        return "it does not move.", (
            "signal wire: pulled to supply or ground",
            "whether the throttle really opens",
        )
    if open_pct is not None and open_pct < 96.0 and abs(closed_pct) <= 2.0:
        return "the throttle does not reach full opening.", (
            "pedal, cable and carpet",
            "open position: capture it again",
        )
    return "closed and open were not captured as they are now.", (
        "both ends: capture them again",
        "the throttle stop and the sensor's screws",
    )


def explain_wideband(reading: float, rich_end: float) -> Explanation:
    """Return the likeliest mistake behind a wideband in free air, and what to look at.

    Parameters
    ----------
    reading : float
        What the controller shows. [lambda]
    rich_end : float
        The transfer's richest reading. [lambda]
    """
    if abs(reading - 1.0) <= 0.02:
        return "lambda 1 is a default, or the output meant for a narrow-band input.", (
            "which output of the wideband is wired",
            "whether the sensor is heated and without fault",
        )
    if reading <= rich_end + 0.02:
        return (
            "the rich end, where free air is lean: no voltage, or an output that runs the other way round.",
            (
                "power of the wideband",
                "the signal wire",
                "which end of its output is rich: the transfer may be reversed",
            ),
        )
    return "not warm yet, fuel in the exhaust, or another transfer.", (
        "a minute of heating",
        "the transfer that is entered",
        "sensor ground",
    )
