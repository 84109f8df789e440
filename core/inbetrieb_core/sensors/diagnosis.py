"""Why a sensor reads wrong: which one simple mistake would give exactly this reading."""

from __future__ import annotations

from ..quantities import PSI_KPA
from .entry import SensorEntry, full_signal_v
from .library import LIBRARY
from .sheet import USUAL_PULL_UPS_OHM, rail_readings
from .thermistor import Thermistor, divider_v

Explanation = tuple[str, tuple[str, ...]]

#: How near a mistake must come to the reading to be named.
_SAME_PULL_UP_SHARE = 0.06
_SAME_TEMPERATURE_K = 2.0
_SAME_PRESSURE_KPA = 2.0
_OPEN_WIRE_C = -35.0
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
        implied = implied_pull_up_ohm(transfer, reading_c, true_c)
        nearest = min(USUAL_PULL_UPS_OHM, key=lambda ohm: abs(ohm / implied - 1.0))
        if (
            abs(nearest / implied - 1.0) <= _SAME_PULL_UP_SHARE
            and abs(nearest / transfer.pull_up_ohm - 1.0) > _SAME_PULL_UP_SHARE
        ):
            return (
                f"a pull-up of {nearest:g} Ω instead of the entered {transfer.pull_up_ohm:g} Ω "
                "explains exactly this.",
                (f"the controller's pull-up: enter {nearest:g} Ω", "the sensor's curve"),
            )
        other = _other_thermistor(transfer, reading_c, true_c)
        if other:
            return f"the fitted sensor behaves like '{other}'.", (
                "which sensor is fitted: measure its resistance",
                "the curve that is entered",
            )
    if abs(reading_c - (1.8 * true_c + 32.0)) <= _SAME_TEMPERATURE_K:
        return "the reading is in °F.", ("the unit of the curve",)
    if isinstance(transfer, Thermistor):
        return "neither pull-up nor unit explains it.", general
    return "offset or slope is wrong.", ("the transfer that is entered", "sensor ground")


def _other_thermistor(transfer: Thermistor, reading_c: float, true_c: float) -> str:
    """Return the generic thermistor that would give this reading behind the entered pull-up."""
    for item in LIBRARY:
        made = item.made()
        if not isinstance(made, Thermistor):
            continue
        ohm = made.curve.resistance_ohm(true_c)
        would = transfer.value(divider_v(ohm, transfer.pull_up_ohm, transfer.supply_v))
        if abs(would - reading_c) <= _SAME_TEMPERATURE_K:
            return item.name
    return ""


def explain_pressure(
    sensor: SensorEntry | None, reading_kpa: float, true_kpa: float
) -> Explanation:
    """Return the likeliest mistake behind an air pressure, and what to look at.

    Parameters
    ----------
    sensor : SensorEntry or None
        As entered.
    reading_kpa, true_kpa : float
        What the controller shows, and what it should. [kPa]
    """
    look = ("the transfer that is entered", "sensor supply and ground", "a blocked hose")
    if abs(reading_kpa * PSI_KPA - true_kpa) <= 2.0 * _SAME_PRESSURE_KPA:
        return "the reading is in psi.", ("the unit of the transfer",)
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
    if sensor is not None:
        volts = sensor.made().signal(reading_kpa)
        for item in LIBRARY:
            if item.function != sensor.function or item.name == sensor.name:
                continue
            if abs(item.made().value(volts) - true_kpa) <= _SAME_PRESSURE_KPA:
                return (
                    f"its signal of {volts:.2f} V is what '{item.name}' gives at this pressure.",
                    ("which sensor is fitted", "the transfer that is entered"),
                )
    return "offset or slope is wrong, or the manifold is not at rest.", look


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
        return "the rich end means no voltage.", (
            "power of the wideband",
            "the signal wire",
        )
    return "not warm yet, fuel in the exhaust, or another transfer.", (
        "a minute of heating",
        "the transfer that is entered",
        "sensor ground",
    )
