"""How each function is judged at key-on: one rule for each, with its tolerances."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from ..quantities import PSI_KPA
from ..sentences import celsius, quantity
from .circumstances import Circumstances, KeyOnReading
from .diagnosis import (
    explain_pressure,
    explain_temperature,
    explain_throttle,
    explain_wideband,
)
from .entry import SensorEntry
from .functions import FUNCTIONS, SensorFunction

State = Literal["pass", "suspicious", "fail", "not_read"]

#: Tolerances (common practice, no source): pass within, suspicious within the larger. [unit]
PRESSURE_KPA = (2.0, 5.0)
TEMPERATURE_K = (3.0, 8.0)
THROTTLE_PCT = (1.0, 4.0)
BATTERY_V = (0.2, 0.5)
FUEL_PRESSURE_SHARE = (0.10, 0.20)
OIL_AT_REST_KPA = (15.0, 30.0)
FREE_AIR_SHARE = (0.03, 0.06)
ETHANOL_PCT = (7.0, 15.0)
#: The weather moves air pressure about the standard atmosphere by this. [kPa]
_WEATHER_KPA = 3.0
_WEAK_BATTERY_V = 11.8


@dataclass(frozen=True)
class SensorJudgement:
    """What the key-on check says of one sensor.

    Attributes
    ----------
    function, title, unit : str
        Which sensor.
    state : {"pass", "suspicious", "fail", "not_read"}
    reading, opened : float or None
        What was read. [unit]
    expected : float or None
        What it should read. [unit]
    tolerance : float or None
        Within which it passes. [unit]
    sentence : str
        The reason.
    look_at : tuple of str
        What to look at, the likeliest first; empty if it passes.
    """

    function: str
    title: str
    unit: str
    state: State
    reading: float | None
    opened: float | None
    expected: float | None
    tolerance: float | None
    sentence: str
    look_at: tuple[str, ...]


@dataclass(frozen=True)
class _Case:
    """One sensor to judge, with all that may explain its reading."""

    definition: SensorFunction
    sensor: SensorEntry | None
    value: float
    opened: float | None
    circumstances: Circumstances
    others: Mapping[str, KeyOnReading]

    def judgement(
        self,
        state: State,
        sentence: str,
        expected: float | None = None,
        tolerance: float | None = None,
        look_at: Sequence[str] = (),
    ) -> SensorJudgement:
        """Return the judgement; what to look at is left out where the sensor passes."""
        look = () if state == "pass" else tuple(look_at)
        d = self.definition
        return SensorJudgement(
            d.key,
            d.title,
            d.unit,
            state,
            self.value,
            self.opened,
            expected,
            tolerance,
            sentence,
            look,
        )

    def shown(self, value: float) -> str:
        """Return a reading with its unit as a sentence shows it. [unit of the function]"""
        return quantity(value, self.definition.unit, self.definition.decimals)


def judge_sensor(
    definition: SensorFunction,
    sensor: SensorEntry | None,
    reading: KeyOnReading,
    circumstances: Circumstances,
    others: Mapping[str, KeyOnReading],
) -> SensorJudgement:
    """Return the judgement of one function's reading by its own rule.

    Parameters
    ----------
    definition : SensorFunction
        Which function.
    sensor : SensorEntry or None
        As entered.
    reading : KeyOnReading
        What the controller shows.
    circumstances : Circumstances
        Weather, soak, meter.
    others : mapping of str to KeyOnReading
        All readings, for those that are judged by another.
    """
    title = definition.title
    if reading.value is None:
        entered = "" if sensor else " and none is entered"
        return SensorJudgement(
            definition.key, title, definition.unit, "not_read", None, None, None, None,
            f"{title}: no reading{entered}. A sensor that does not read is mended first.",
            ("connector and supply", "whether the input is assigned in the controller"),
        )  # fmt: skip
    case = _Case(definition, sensor, reading.value, reading.opened, circumstances, others)
    return _JUDGES[definition.key](case)


def _graded(off: float, tolerance: tuple[float, float]) -> State:
    if abs(off) <= tolerance[0] + 1e-9:
        return "pass"
    return "suspicious" if abs(off) <= tolerance[1] else "fail"


def _judge_air_pressure(case: _Case) -> SensorJudgement:
    circumstances = case.circumstances
    expected = circumstances.air_kpa
    known = circumstances.barometric_kpa is not None
    room = 0.0 if known else _WEATHER_KPA
    tolerance = (PRESSURE_KPA[0] + room, PRESSURE_KPA[1] + room)
    state = _graded(case.value - expected, tolerance)
    if state == "pass":
        return case.judgement(
            state,
            f"{case.definition.title} reads {case.shown(case.value)} at rest; "
            f"{circumstances.air_from} says {case.shown(expected)}.",
            expected,
            tolerance[0],
        )
    why, look = explain_pressure(
        case.sensor, case.value, expected, circumstances.altitude_m if known else 0.0
    )
    return case.judgement(
        state,
        f"{case.definition.title} reads {case.shown(case.value)} with the engine at rest, but "
        f"{circumstances.air_from} says {case.shown(expected)}: {why}",
        expected,
        tolerance[0],
        look,
    )


def _judge_temperature(case: _Case) -> SensorJudgement:
    circumstances, title = case.circumstances, case.definition.title
    expected, source = circumstances.ambient_c, "ambient"
    warm_by = circumstances.left_over_k
    if expected is None:
        other = "intake_air" if case.definition.key != "intake_air" else "coolant"
        expected = case.others.get(other, KeyOnReading(None)).value
        source = FUNCTIONS[other].title.lower()
        if expected is None:
            return case.judgement(
                "suspicious",
                f"{title} reads {case.shown(case.value)}, but there is nothing to compare it with.",
                look_at=("a thermometer beside the engine",),
            )
    off = case.value - expected
    engine_side = case.definition.key in ("coolant", "oil_temperature", "exhaust_temperature")
    if circumstances.soak_h is None and off > 0 and case.value < 110.0:
        # Nobody said how long it stood: warmer is possible, colder is not.
        state: State = "pass" if off <= TEMPERATURE_K[0] else "suspicious"
        if state == "suspicious":
            return case.judgement(
                state,
                f"{title} reads {case.shown(case.value)}, {off:.0f} K above {source}. Say how long "
                "the engine stood, or check again after a night.",
                expected,
                TEMPERATURE_K[0],
                ("a check after a full soak",),
            )
    slack = warm_by if off > 0 and engine_side else 0.5 * warm_by if off > 0 else 0.0
    state = _graded(max(0.0, abs(off) - slack), TEMPERATURE_K)
    if state == "pass":
        allowed = f" (up to {slack:.0f} K of heat may be left)" if slack >= 1.0 else ""
        return case.judgement(
            state,
            f"{title} reads {case.shown(case.value)}, {source} is {celsius(expected)}{allowed}.",
            expected,
            TEMPERATURE_K[0] + slack,
        )
    why, look = explain_temperature(case.sensor, case.value, expected)
    return case.judgement(
        state,
        f"{title} reads {case.shown(case.value)}, but {source} is {celsius(expected)}: {why}",
        expected,
        TEMPERATURE_K[0] + slack,
        look,
    )


def _judge_throttle(case: _Case) -> SensorJudgement:
    closed_off = case.value
    if case.opened is None:
        state = _graded(closed_off, THROTTLE_PCT)
        if state == "pass":
            return case.judgement(
                "suspicious",
                f"Throttle reads {case.shown(case.value)} shut, but it was not opened: press the "
                "pedal to the floor once and read again.",
                0.0,
                THROTTLE_PCT[0],
                ("a reading with the pedal on the floor",),
            )
    else:
        off = max(abs(closed_off), abs(case.opened - 100.0))
        state = _graded(off, THROTTLE_PCT)
        if state == "pass":
            return case.judgement(
                state,
                f"Throttle reads {case.shown(case.value)} shut and {case.shown(case.opened)} open.",
                0.0,
                THROTTLE_PCT[0],
            )
    why, look = explain_throttle(case.value, case.opened)
    opened = "" if case.opened is None else f" and {case.shown(case.opened)} open"
    return case.judgement(
        state,
        f"Throttle reads {case.shown(case.value)} shut{opened}: {why}",
        0.0,
        THROTTLE_PCT[0],
        look,
    )


def _judge_battery(case: _Case) -> SensorJudgement:
    meter = case.circumstances.meter_v
    if meter is None:
        weak = case.value < _WEAK_BATTERY_V
        believable = 10.0 <= case.value <= 15.0
        return case.judgement(
            "fail" if not believable else "suspicious",
            f"Battery reads {case.shown(case.value)}"
            + (": charge it before it has to crank." if weak and believable else "")
            + (", which no resting battery has." if not believable else "")
            + ("; compare it with a meter at the battery." if not weak and believable else ""),
            None,
            None,
            ("a meter at the battery posts", "supply and ground of the controller"),
        )
    state = _graded(case.value - meter, BATTERY_V)
    weak = meter < _WEAK_BATTERY_V
    sentence = f"Battery reads {case.shown(case.value)}, the meter {case.shown(meter)}"
    if state == "pass":
        if weak:
            return case.judgement(
                "suspicious",
                f"{sentence}: they agree, but charge it before it has to crank.",
                meter,
                BATTERY_V[0],
                ("the battery's charge",),
            )
        return case.judgement(state, f"{sentence}.", meter, BATTERY_V[0])
    lower = case.value < meter
    return case.judgement(
        state,
        f"{sentence}: "
        + (
            "voltage is lost on the way to the controller."
            if lower
            else "the controller reads more than there is."
        ),
        meter,
        BATTERY_V[0],
        (
            "fuse, relay and ground of the controller, under load"
            if lower
            else "calibration of the battery input",
            "where the meter was put",
        ),
    )


def _judge_wideband(case: _Case) -> SensorJudgement:
    if case.sensor is None:
        return case.judgement(
            "suspicious",
            f"Wideband reads {case.shown(case.value)}, but its transfer is not entered: what free "
            "air should read is not known.",
            look_at=("the transfer of the wideband",),
        )
    transfer = case.sensor.made()
    lean = max(transfer.value(s) for s in transfer.known)
    rich = min(transfer.value(s) for s in transfer.known)
    tolerance = (FREE_AIR_SHARE[0] * lean, FREE_AIR_SHARE[1] * lean)
    state = _graded(min(0.0, case.value - lean), tolerance)
    if state == "pass":
        return case.judgement(
            state,
            f"Wideband reads its lean end, {case.shown(case.value)}, in free air.",
            lean,
            tolerance[0],
        )
    why, look = explain_wideband(case.value, rich)
    return case.judgement(
        state,
        f"Wideband reads {case.shown(case.value)} in free air instead of its lean end "
        f"{case.shown(lean)}: {why}",
        lean,
        tolerance[0],
        look,
    )


def _judge_fuel_pressure(case: _Case) -> SensorJudgement:
    wanted = case.circumstances.rail_kpa
    tolerance = (FUEL_PRESSURE_SHARE[0] * wanted, FUEL_PRESSURE_SHARE[1] * wanted)
    state = _graded(case.value - wanted, tolerance)
    sentence = f"Fuel pressure reads {case.shown(case.value)} at prime"
    if state == "pass":
        return case.judgement(state, f"{sentence}, as wanted.", wanted, tolerance[0])
    air = case.circumstances.air_kpa
    look: tuple[str, ...]
    if abs(case.value - wanted - air) <= tolerance[0]:
        why, look = "the sensor reads absolute pressure.", ("the transfer: gauge or absolute",)
    elif abs(case.value * PSI_KPA - wanted) <= tolerance[1]:
        why, look = "the reading is in psi.", ("the unit of the transfer",)
    elif case.value < 0.1 * wanted:
        why, look = (
            "no pressure at all.",
            ("whether the pump runs: relay, fuse, ground", "the sensor's supply"),
        )
    elif case.value < wanted:
        why, look = (
            f"{case.shown(wanted)} is wanted.",
            ("a longer prime", "leaks", "regulator, filter, pump voltage"),
        )
    else:
        why, look = (
            f"{case.shown(wanted)} is wanted.",
            ("a blocked return", "the regulator's setting and vacuum hose"),
        )
    return case.judgement(state, f"{sentence}: {why}", wanted, tolerance[0], look)


def _judge_oil_pressure(case: _Case) -> SensorJudgement:
    state = _graded(case.value, OIL_AT_REST_KPA)
    sentence = f"Oil pressure reads {case.shown(case.value)} with the engine at rest"
    if state == "pass":
        return case.judgement(state, f"{sentence}.", 0.0, OIL_AT_REST_KPA[0])
    absolute = abs(case.value - case.circumstances.air_kpa) <= OIL_AT_REST_KPA[0]
    return case.judgement(
        state,
        f"{sentence}: " + ("it reads absolute pressure." if absolute else "it should be none."),
        0.0,
        OIL_AT_REST_KPA[0],
        ("the transfer: gauge or absolute",)
        if absolute
        else ("the transfer's zero", "sensor ground"),
    )


def _judge_fuel_level(case: _Case) -> SensorJudgement:
    capacity = case.definition.upper
    if case.sensor is not None:
        transfer = case.sensor.made()
        capacity = max(transfer.value(s) for s in transfer.known)
        if case.sensor.capacity_l is not None:
            capacity = case.sensor.capacity_l
    inside = -0.5 <= case.value <= 1.02 * capacity
    return case.judgement(
        "pass" if inside else "fail",
        f"Fuel level reads {case.shown(case.value)}"
        + ("; see that it is about right." if inside else f"; the tank holds {capacity:g} l."),
        None,
        None,
        ("the float's wire and ground", "the volume table"),
    )


def _judge_flexible_fuel(case: _Case) -> SensorJudgement:
    expected = case.circumstances.ethanol_pct
    state = _graded(case.value - expected, ETHANOL_PCT)
    if not -2.0 <= case.value <= 103.0:
        return case.judgement(
            "fail",
            f"Flexible fuel reads {case.shown(case.value)}: the sensor gives no such frequency.",
            expected,
            ETHANOL_PCT[0],
            ("supply, ground and pull-up of the sensor", "the input: it must count frequency"),
        )
    if state == "pass":
        sentence = f"Flexible fuel reads {case.shown(case.value)}; {expected:.0f} % is entered."
        return case.judgement(state, sentence, expected, ETHANOL_PCT[0])
    # The tank may really hold something else: the sensor is not wrong for that.
    return case.judgement(
        "suspicious",
        f"Flexible fuel reads {case.shown(case.value)}, but the job says {expected:.0f} % ethanol.",
        expected,
        ETHANOL_PCT[0],
        ("what was really filled", "fuel left in the sensor from before"),
    )


_JUDGES: dict[str, Callable[[_Case], SensorJudgement]] = {
    "throttle": _judge_throttle,
    "manifold_pressure": _judge_air_pressure,
    "barometric": _judge_air_pressure,
    "coolant": _judge_temperature,
    "intake_air": _judge_temperature,
    "oil_temperature": _judge_temperature,
    "exhaust_temperature": _judge_temperature,
    "wideband": _judge_wideband,
    "fuel_pressure": _judge_fuel_pressure,
    "oil_pressure": _judge_oil_pressure,
    "fuel_level": _judge_fuel_level,
    "flexible_fuel": _judge_flexible_fuel,
    "battery": _judge_battery,
}
