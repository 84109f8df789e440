"""The key-on check: is every sensor believable before anything is calibrated on it?"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from ..air import standard_pressure_kpa
from ..errors import FieldProblem, InputRefused
from ..quantities import PSI_KPA
from .diagnosis import (
    explain_pressure,
    explain_temperature,
    explain_throttle,
    explain_wideband,
)
from .entry import SensorEntry
from .functions import FUNCTIONS, SensorFunction
from .ground import name_shared_ground

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
#: A stopped engine cools with about this time constant (assumed). [h]
_COOLING_H = 2.5
_WARM_C = 90.0
_WEAK_BATTERY_V = 11.8


@dataclass(frozen=True)
class KeyOnReading:
    """What the controller shows for one sensor with the key on and the engine at rest.

    Attributes
    ----------
    value : float or None
        Reading; of the throttle shut, of fuel pressure at the end of the prime. [unit]
    opened : float or None
        Throttle only: reading fully open. [%]
    """

    value: float | None
    opened: float | None = None


@dataclass(frozen=True)
class Circumstances:
    """What is known without the sensors.

    Attributes
    ----------
    ambient_c : float or None
        Temperature where the engine stands. [°C]
    barometric_kpa : float or None
        Of a weather station or barometer, not reduced to sea level. [kPa]
    altitude_m : float
        Of the place; gives the pressure by the standard atmosphere if it is not known. [m]
    soak_h : float or None
        Time since the engine last ran. [h]
    meter_v : float or None
        Battery voltage on a meter. [V]
    rail_kpa : float
        Rail pressure wanted at prime, gauge. [kPa]
    ethanol_pct : float
        In the tank, as far as it is known. [%]
    """

    ambient_c: float | None = None
    barometric_kpa: float | None = None
    altitude_m: float = 0.0
    soak_h: float | None = None
    meter_v: float | None = None
    rail_kpa: float = 300.0
    ethanol_pct: float = 0.0

    def __post_init__(self) -> None:
        bounds = {
            "ambient_c": (-50.0, 60.0, "Ambient temperature", "°C"),
            "barometric_kpa": (50.0, 110.0, "Air pressure", "kPa"),
            "altitude_m": (-500.0, 5000.0, "Altitude", "m"),
            "soak_h": (0.0, 10_000.0, "The time since the engine ran", "h"),
            "meter_v": (4.0, 18.0, "Battery voltage", "V"),
        }
        problems = []
        for field, (low, high, name, unit) in bounds.items():
            value = getattr(self, field)
            if value is not None and not low <= value <= high:
                hint = ""
                if field == "barometric_kpa" and 500.0 <= value <= 1100.0:
                    hint = f" If {value:g} is hPa, enter {value / 10:g} kPa."
                sentence = (
                    f"{name} must be between {low:g} and {high:g} {unit}, not {value:g}.{hint}"
                )
                problems.append(FieldProblem(field, sentence))
        if problems:
            raise InputRefused(problems)

    @property
    def air_kpa(self) -> float:
        """Air pressure: as measured, else of the standard atmosphere. [kPa]"""
        if self.barometric_kpa is not None:
            return self.barometric_kpa
        return standard_pressure_kpa(self.altitude_m)

    @property
    def air_from(self) -> str:
        """Where that pressure comes from, in words."""
        if self.barometric_kpa is not None:
            return "the barometer"
        return f"the standard atmosphere at {self.altitude_m:g} m"

    @property
    def left_over_k(self) -> float:
        """How much warmer than ambient the engine may still be. [K]"""
        if self.soak_h is None or self.ambient_c is None:
            return 0.0
        return max(0.0, _WARM_C - self.ambient_c) * math.exp(-self.soak_h / _COOLING_H)


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
class KeyOnResult:
    """The whole check.

    Attributes
    ----------
    state : {"pass", "suspicious", "fail"}
        Fail closes the gate of the first start.
    sentence : str
        The result in one sentence.
    judgements : tuple of SensorJudgement
        In the order of the functions.
    """

    state: Literal["pass", "suspicious", "fail"]
    sentence: str
    judgements: tuple[SensorJudgement, ...]


def check_key_on(
    sensors: Sequence[SensorEntry],
    readings: Mapping[str, KeyOnReading],
    circumstances: Circumstances,
) -> KeyOnResult:
    """Judge every sensor of a job, and those every engine needs, at key-on.

    Parameters
    ----------
    sensors : sequence of SensorEntry
        The sensors as entered.
    readings : mapping of str to KeyOnReading
        By function.
    circumstances : Circumstances
        Weather, soak, meter.

    Raises
    ------
    InputRefused
        If a reading is for no known function or is not a number.
    """
    _refuse_bad(readings)
    entered = {sensor.function: sensor for sensor in sensors}
    judgements = []
    for key, definition in FUNCTIONS.items():
        if key not in entered and key not in readings and definition.needed != "always":
            continue
        reading = readings.get(key, KeyOnReading(None))
        judgements.append(_judge(definition, entered.get(key), reading, circumstances, readings))
    judgements = name_shared_ground(judgements, entered)
    return KeyOnResult(_whole_state(judgements), _whole_sentence(judgements), tuple(judgements))


def _refuse_bad(readings: Mapping[str, KeyOnReading]) -> None:
    problems = []
    for key, reading in readings.items():
        if key not in FUNCTIONS:
            problems.append(
                FieldProblem(f"readings.{key}", f"There is no sensor function '{key}'.")
            )
            continue
        for number in (reading.value, reading.opened):
            if number is not None and not (math.isfinite(number) and abs(number) < 1e5):
                problems.append(
                    FieldProblem(f"readings.{key}", f"{FUNCTIONS[key].title}: this is no reading.")
                )
    if problems:
        raise InputRefused(problems)


def _whole_state(judgements: Sequence[SensorJudgement]) -> Literal["pass", "suspicious", "fail"]:
    states = {judgement.state for judgement in judgements}
    if states & {"fail", "not_read"}:
        return "fail"
    return "suspicious" if "suspicious" in states else "pass"


def _whole_sentence(judgements: Sequence[SensorJudgement]) -> str:
    def named(*states: State) -> list[str]:
        return [j.title.lower() for j in judgements if j.state in states]

    failed, doubtful = named("fail", "not_read"), named("suspicious")
    if failed:
        first = next(j for j in judgements if j.state in ("fail", "not_read"))
        more = f" Also to mend: {', '.join(failed[1:])}." if len(failed) > 1 else ""
        return f"{first.sentence}{more}"
    if doubtful:
        return f"All sensors read, but look at {' and '.join(doubtful)} before the first start."
    return "Every sensor reads what it should."


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
        number = f"{value:.{self.definition.decimals}f}"
        if self.definition.unit == "lambda":
            return f"lambda {number}"
        return f"{number} {self.definition.unit}"


def _judge(
    definition: SensorFunction,
    sensor: SensorEntry | None,
    reading: KeyOnReading,
    circumstances: Circumstances,
    others: Mapping[str, KeyOnReading],
) -> SensorJudgement:
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
    why, look = explain_pressure(case.sensor, case.value, expected)
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
            f"{title} reads {case.shown(case.value)}, {source} is {expected:.0f} °C{allowed}.",
            expected,
            TEMPERATURE_K[0] + slack,
        )
    why, look = explain_temperature(case.sensor, case.value, expected)
    return case.judgement(
        state,
        f"{title} reads {case.shown(case.value)}, but {source} is {expected:.0f} °C: {why}",
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
