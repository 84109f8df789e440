"""When each output switches, and how it is tried at the bench."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

from ..bounds import out_of_bounds
from ..engine import EngineSpec
from ..errors import FieldProblem, InputRefused
from ..sentences import quantity
from ..trade import BOOST_VALVE_LEAST_PCT, BOOST_VALVE_MOST_PCT
from .fitting import OUTPUT_KINDS, Fitting

#: Slower than this the engine counts as standing. [1/min]
STANDING_RPM = 60.0
#: A usual thermostat is open from about here; a fan that runs below it fights the warm-up
#: (common practice, no source). [°C]
_THERMOSTAT_C = 78.0
_LEAST_HYSTERESIS_K = 1.0


@dataclass(frozen=True)
class OutputSettings:
    """Conditions of the outputs. Construct it, then call :meth:`check`.

    Attributes
    ----------
    fan_on_c, fan_off_c, fan_2_on_c, fan_2_off_c : float
        Coolant at which a fan starts and stops. [°C]
    pump_prime_s : float
        How long the pump runs at key-on. [s]
    pump_stops_s : float
        After the last sign of turning. [s]
    tachometer_pulses : float
        For each turn of the crankshaft. [–]
    idle_hz : float
        Frequency of the idle valve. [Hz]
    idle_opens_with : {"more", "less"}
        Whether more duty opens it.
    boost_hz : float
        Frequency of the boost valve. [Hz]
    boost_least_pct, boost_most_pct : float
        Duty outside which it does nothing more. [%]
    boost_raises_with : {"more", "less"}
        Whether more duty raises boost.
    compressor_off_throttle_pct : float
        Above it the compressor is let go. [%]
    """

    fan_on_c: float = 92.0
    fan_off_c: float = 87.0
    fan_2_on_c: float = 98.0
    fan_2_off_c: float = 93.0
    pump_prime_s: float = 2.0
    pump_stops_s: float = 1.5
    tachometer_pulses: float = 2.0
    idle_hz: float = 160.0
    idle_opens_with: Literal["more", "less"] = "more"
    boost_hz: float = 31.0
    boost_least_pct: float = BOOST_VALVE_LEAST_PCT
    boost_most_pct: float = BOOST_VALVE_MOST_PCT
    boost_raises_with: Literal["more", "less"] = "more"
    compressor_off_throttle_pct: float = 80.0

    def check(self) -> OutputSettings:
        """Return the settings themselves once they can be.

        Raises
        ------
        InputRefused
            With one sentence for everything that cannot.
        """
        problems = list(_problems(self))
        if problems:
            raise InputRefused(problems)
        return self


def usual_settings(spec: EngineSpec) -> OutputSettings:
    """Return settings to begin from; the tachometer gets a pulse for each firing."""
    return OutputSettings(tachometer_pulses=spec.firings_per_turn)


_RANGES = {
    "fan_on_c": (40.0, 125.0, "°C", "Fan on"),
    "fan_off_c": (30.0, 120.0, "°C", "Fan off"),
    "fan_2_on_c": (40.0, 125.0, "°C", "Fan 2 on"),
    "fan_2_off_c": (30.0, 120.0, "°C", "Fan 2 off"),
    "pump_prime_s": (0.5, 20.0, "s", "Pump prime"),
    "pump_stops_s": (0.2, 5.0, "s", "Pump stop"),
    "tachometer_pulses": (0.5, 12.0, "", "Pulses in a turn"),
    "idle_hz": (5.0, 1000.0, "Hz", "The idle valve's frequency"),
    "boost_hz": (5.0, 400.0, "Hz", "The boost valve's frequency"),
    "boost_least_pct": (0.0, 50.0, "%", "The least duty"),
    "boost_most_pct": (50.0, 100.0, "%", "The most duty"),
    "compressor_off_throttle_pct": (20.0, 100.0, "%", "The throttle"),
}


@dataclass(frozen=True)
class OutputLine:
    """A setting of an output as it is typed into a controller.

    Attributes
    ----------
    title, unit : str
    value : float
        [unit]
    """

    title: str
    value: float
    unit: str


def fan_and_pump(settings: OutputSettings) -> tuple[OutputLine, ...]:
    """Return what a base calibration needs of the outputs: fan and pump."""
    lines = []
    for name in ("fan_on_c", "fan_off_c", "pump_prime_s", "pump_stops_s"):
        _, _, unit, title = _RANGES[name]
        lines.append(OutputLine(title, getattr(settings, name), unit))
    return tuple(lines)


def _problems(settings: OutputSettings) -> Iterator[FieldProblem]:
    for name, (lower, upper, unit, title) in _RANGES.items():
        found = out_of_bounds(name, getattr(settings, name), lower, upper, unit, title)
        if found is not None:
            yield found
    for on, off, title in (
        ("fan_on_c", "fan_off_c", "The fan"),
        ("fan_2_on_c", "fan_2_off_c", "Fan 2"),
    ):
        if getattr(settings, on) < getattr(settings, off) + _LEAST_HYSTERESIS_K:
            yield FieldProblem(
                off,
                f"{title} must stop at least {_LEAST_HYSTERESIS_K:g} K below where it starts, or its "
                "relay chatters.",
            )


def fan_runs(on_c: float, off_c: float, coolant_c: float, rpm: float, was_running: bool) -> bool:
    """Say whether a fan runs: with hysteresis, and never while the engine stands.

    Parameters
    ----------
    on_c, off_c, coolant_c : float
        Where it starts and stops, and the coolant now. [°C]
    rpm : float
        Engine speed. [1/min]
    was_running : bool
        Whether it ran a moment ago.
    """
    if rpm < STANDING_RPM:
        return False
    return coolant_c >= on_c or (was_running and coolant_c > off_c)


def pump_runs(
    settings: OutputSettings, key_on_s: float, rpm: float, since_turning_s: float
) -> bool:
    """Say whether the fuel pump runs.

    Parameters
    ----------
    settings : OutputSettings
        In force.
    key_on_s : float
        Since the key was switched on. [s]
    rpm : float
        Engine speed. [1/min]
    since_turning_s : float
        Since the crankshaft last turned; infinite if it never did. [s]
    """
    if rpm >= STANDING_RPM or key_on_s <= settings.pump_prime_s:
        return True
    return since_turning_s <= settings.pump_stops_s


@dataclass(frozen=True)
class OutputSheet:
    """One output with its conditions and its test.

    Attributes
    ----------
    key, title : str
    conditions : tuple of str
    test : str
        What to do at the bench, and what must happen.
    caution : str
        What can hurt somebody; empty if nothing can.
    level : {"good", "attention"}
    remarks : tuple of str
        What is doubtful about the settings.
    """

    key: str
    title: str
    conditions: tuple[str, ...]
    test: str
    caution: str
    level: Literal["good", "attention"] = "good"
    remarks: tuple[str, ...] = ()


_ROTATING = "Fans start without warning: hands, sleeves and tools away. "
_FUEL = "Fuel under pressure: no sparks, extinguisher at hand, look for leaks. "
_LOCAL = "Local codes and licensed practice come first."


def output_sheets(
    spec: EngineSpec, fitting: Fitting, settings: OutputSettings
) -> tuple[OutputSheet, ...]:
    """Return conditions and bench test of every output that is fitted.

    Parameters
    ----------
    spec : EngineSpec
        The engine.
    fitting : Fitting
        What is fitted.
    settings : OutputSettings
        Checked conditions.
    """
    sheets = []
    for key in fitting.outputs:
        if key in ("fan_1", "fan_2"):
            sheets.append(_fan(key, fitting, settings))
        elif key == "fuel_pump":
            sheets.append(_pump(settings))
        elif key == "tachometer":
            sheets.append(_tachometer(spec, settings))
        elif key == "boost_valve":
            sheets.append(_boost(settings))
        elif key == "compressor":
            sheets.append(
                OutputSheet(
                    key, OUTPUT_KINDS[key].title,
                    (
                        f"Off above {settings.compressor_off_throttle_pct:g} % throttle, while "
                        "cranking, and with the engine standing.",
                    ),
                    "Engine idling: switch it on; idle must not fall below its target for long.",
                    _ROTATING + _LOCAL,
                )
            )  # fmt: skip
        elif key == "electronic_throttle":
            sheets.append(_electronic_throttle(fitting))
        else:
            sheets.append(
                OutputSheet(
                    key, OUTPUT_KINDS[key].title, ("Switched by the controller.",),
                    "Command it on and off: it must click or move each time, and be off at key-on.",
                    _ROTATING + _LOCAL if key == "charge_cooler_pump" else "",
                )
            )  # fmt: skip
    if fitting.idle_valve != "none":
        sheets.append(_idle(fitting, settings))
    return tuple(sheets)


def _electronic_throttle(fitting: Fitting) -> OutputSheet:
    twice = fitting.idle_valve != "none"
    return OutputSheet(
        "electronic_throttle", "Electronic throttle",
        (
            "Both tracks of pedal and throttle must agree; where they do not, the motor is switched off and "
            "the springs hold a fast idle.",
            "Idle air is the throttle's own: no idle valve beside it.",
        ),
        "Engine standing: press the pedal slowly; the throttle follows without sticking. Pull one plug of the "
        "pedal: it must fall back to its spring.",
        "The throttle plate closes by itself and cuts: keep fingers out with the key on. It decides how much "
        "the engine pulls: test it standing, then on stands, never first on the road.",
        "attention" if twice else "good",
        ("An idle valve is entered beside it: leave out one of the two.",) if twice else (),
    )  # fmt: skip


def _fan(key: str, fitting: Fitting, settings: OutputSettings) -> OutputSheet:
    on = settings.fan_on_c if key == "fan_1" else settings.fan_2_on_c
    off = settings.fan_off_c if key == "fan_1" else settings.fan_2_off_c
    remarks = []
    if on < _THERMOSTAT_C:
        remarks.append(
            f"It would start at {quantity(on, '°C')}, before a usual thermostat opens: the engine never gets warm."
        )
    if key == "fan_2" and "fan_1" in fitting.outputs and on <= settings.fan_on_c:
        remarks.append("Fan 2 starts no later than fan 1: both start at once and the battery dips.")
    return OutputSheet(
        key, OUTPUT_KINDS[key].title,
        (
            f"On from {quantity(on, '°C')}, off below {quantity(off, '°C')}.",
            "Never while the engine stands: it would flatten the battery.",
        ),
        "Command it on: it must blow towards the engine, and stop when commanded off.",
        _ROTATING + _LOCAL, "attention" if remarks else "good", tuple(remarks),
    )  # fmt: skip


def _pump(settings: OutputSettings) -> OutputSheet:
    return OutputSheet(
        "fuel_pump", "Fuel pump",
        (
            f"At key-on for {settings.pump_prime_s:g} s, then while the engine turns.",
            f"Off {settings.pump_stops_s:g} s after the last sign of turning, so that it does not "
            "pump into an accident.",
        ),
        f"Key on: it must hum for {settings.pump_prime_s:g} s and stop. Key off, on: the same again.",
        _FUEL + _LOCAL,
    )  # fmt: skip


def _tachometer(spec: EngineSpec, settings: OutputSettings) -> OutputSheet:
    pulses, firings = settings.tachometer_pulses, spec.firings_per_turn
    remarks: tuple[str, ...] = ()
    if abs(pulses - firings) > 1e-6:
        remarks = (
            f"An instrument for this engine usually wants {firings:g} pulses in a turn; with "
            f"{pulses:g} it would show {pulses / firings:.2f} times the speed.",
        )
    return OutputSheet(
        "tachometer", "Tachometer", (f"{pulses:g} pulses in a turn of the crankshaft.",),
        f"Command 3000 rpm: {50.0 * pulses:g} Hz at the pin; the instrument must show 3000.",
        "", "attention" if remarks else "good", remarks,
    )  # fmt: skip


def _boost(settings: OutputSettings) -> OutputSheet:
    return OutputSheet(
        "boost_valve", "Boost valve",
        (
            f"{settings.boost_hz:g} Hz; {settings.boost_raises_with} duty raises boost.",
            f"Duty is held within {settings.boost_least_pct:g} and {settings.boost_most_pct:g} %: "
            "outside it nothing more happens.",
            "At 0 % with the engine standing and at the boost cut.",
        ),
        "Command 50 %: it must buzz. Blow through it at 0 % and at 100 %: the ways must differ.",
        "A valve the wrong way round gives full boost: first run at 0 % duty. " + _LOCAL,
    )  # fmt: skip


def _idle(fitting: Fitting, settings: OutputSettings) -> OutputSheet:
    conditions: Sequence[str] = (
        f"{settings.idle_hz:g} Hz; {settings.idle_opens_with} duty opens it.",
    )
    if fitting.idle_valve == "three_wire":
        conditions = (*conditions, "The second winding gets the opposite duty.")
    if fitting.idle_valve == "stepper":
        conditions = ("Four wires; it is closed fully at key-off and counts from there.",)
    return OutputSheet(
        "idle_valve", "Idle valve", tuple(conditions),
        "Command 20 %, then 80 %: the air path must be narrow, then wide. If it is the other way "
        "round, its polarity is wrong. If it buzzes, try another frequency.",
        "",
    )  # fmt: skip


@dataclass(frozen=True)
class FanPicture:
    """A fan over a warm-up, a cool-down and a stop.

    Attributes
    ----------
    rising, falling : tuple of (coolant [°C], running 0 or 1)
        While the engine runs.
    """

    rising: tuple[tuple[float, float], ...]
    falling: tuple[tuple[float, float], ...]


def fan_picture(on_c: float, off_c: float) -> FanPicture:
    """Return when a fan runs as the coolant rises and falls again.

    Parameters
    ----------
    on_c, off_c : float
        Where it starts and stops. [°C]
    """
    low, high = off_c - 10.0, on_c + 10.0
    count = 121
    steps = [low + (high - low) * i / (count - 1) for i in range(count)]
    running, rising, falling = False, [], []
    for coolant in steps:
        running = fan_runs(on_c, off_c, coolant, 900.0, running)
        rising.append((round(coolant, 3), float(running)))
    for coolant in reversed(steps):
        running = fan_runs(on_c, off_c, coolant, 900.0, running)
        falling.append((round(coolant, 3), float(running)))
    return FanPicture(tuple(rising), tuple(falling))
