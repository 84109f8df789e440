"""What is fitted to the engine and must be wired: the installer's side of the plan."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Literal

from ..bounds import out_of_bounds
from ..engine import EngineSpec
from ..errors import FieldProblem, InputRefused
from ..sensors import FUNCTIONS
from .capability import CAPABILITIES, SHARED, Capability

Ignition = Literal["coil_per_cylinder", "wasted_spark", "distributor"]
Injection = Literal["sequential", "paired", "simultaneous"]
SensorKind = Literal["inductive", "hall"]
CamSensorKind = Literal["none", "inductive", "hall"]
IdleValve = Literal["none", "two_wire", "three_wire", "stepper"]

IGNITIONS: dict[Ignition, str] = {
    "coil_per_cylinder": "a coil for each plug",
    "wasted_spark": "a coil for two plugs, wasted spark",
    "distributor": "one coil and a distributor",
}
INJECTIONS: dict[Injection, str] = {
    "sequential": "sequential, an output for each injector",
    "paired": "paired, an output for two injectors",
    "simultaneous": "all together, two banks",
}
IDLE_VALVES: dict[IdleValve, str] = {
    "none": "none",
    "two_wire": "two wires, spring return",
    "three_wire": "three wires, opens and closes",
    "stepper": "stepper, four wires",
}


@dataclass(frozen=True)
class OutputKind:
    """A switched load.

    Attributes
    ----------
    title : str
    current_a : float
        Usual continuous current of the load itself, behind its relay if it has one. [A]
    relay : bool
        Whether it is switched through a relay.
    pwm_hz : tuple of float or None
        Frequencies it wants; None for a plain switch. [Hz]
    branch : str
        Branch of the loom.
    length_m : float
        Usual length of the wire. [m]
    """

    title: str
    current_a: float
    relay: bool
    pwm_hz: tuple[float, float] | None
    branch: str
    length_m: float


#: Loads with usual figures (common practice, no source).
OUTPUT_KINDS: dict[str, OutputKind] = {
    "main_relay": OutputKind("Main relay", 20.0, True, None, "battery", 1.5),
    "fuel_pump": OutputKind("Fuel pump", 9.0, True, None, "rear", 4.5),
    "fan_1": OutputKind("Fan 1", 18.0, True, None, "front", 2.5),
    "fan_2": OutputKind("Fan 2", 18.0, True, None, "front", 2.5),
    "tachometer": OutputKind("Tachometer", 0.02, False, None, "cabin", 2.0),
    "boost_valve": OutputKind("Boost valve", 1.0, False, (15.0, 60.0), "engine", 1.5),
    "cam_valve": OutputKind("Cam-profile valve", 1.5, False, None, "engine", 1.5),
    "purge_valve": OutputKind("Purge valve", 0.5, False, (5.0, 30.0), "engine", 1.5),
    "charge_cooler_pump": OutputKind("Charge-cooler pump", 5.0, True, None, "front", 2.5),
    "warning_lamp": OutputKind("Warning lamp", 0.2, False, None, "cabin", 2.0),
    "compressor": OutputKind("Air-conditioning compressor", 4.0, True, None, "front", 2.5),
    "cam_phaser": OutputKind("Cam-phaser valve", 1.2, False, (100.0, 400.0), "engine", 1.5),
    "cam_phaser_2": OutputKind("Cam-phaser valve 2", 1.2, False, (100.0, 400.0), "engine", 1.5),
    "electronic_throttle": OutputKind("Electronic throttle", 4.0, False, None, "engine", 1.5),
}


@dataclass(frozen=True)
class InputKind:
    """A signal beside the sensors that are calibrated.

    Attributes
    ----------
    title : str
    capabilities : tuple of str
        Of pins that can read it, the best first.
    pull_up : bool
        Whether it switches to ground and wants a pull-up.
    branch : str
        Branch of the loom.
    wires : {1, 2, 3}
        At the part.
    """

    title: str
    capabilities: tuple[Capability, ...]
    pull_up: bool
    branch: str
    wires: int


_SWITCH: tuple[Capability, ...] = ("frequency", "analogue")
_PULSES: tuple[Capability, ...] = ("hall", "frequency")
#: Common practice, no source.
INPUT_KINDS: dict[str, InputKind] = {
    "speed": InputKind("Vehicle speed", ("frequency",), True, "cabin", 2),
    "clutch_switch": InputKind("Clutch switch", _SWITCH, True, "cabin", 2),
    "brake_switch": InputKind("Brake switch", _SWITCH, True, "cabin", 2),
    "compressor_request": InputKind("Air-conditioning request", _SWITCH, True, "cabin", 2),
    "map_switch": InputKind("Map switch", _SWITCH, True, "cabin", 2),
    "launch_switch": InputKind("Launch switch", _SWITCH, True, "cabin", 2),
    "neutral_switch": InputKind("Neutral switch", _SWITCH, True, "engine", 2),
    "gear_position": InputKind("Gear position", ("analogue",), False, "engine", 3),
    "knock": InputKind("Knock sensor", ("knock",), False, "engine", 2),
    "knock_2": InputKind("Knock sensor 2", ("knock",), False, "engine", 2),
    "wideband_2": InputKind("Wideband lambda 2", ("wideband", "analogue"), False, "exhaust", 3),
    "cam_2": InputKind("Cam sensor 2", _PULSES, True, "engine", 3),
    "cam_3": InputKind("Cam sensor 3", _PULSES, True, "engine", 3),
    "cam_4": InputKind("Cam sensor 4", _PULSES, True, "engine", 3),
}
#: Their titles by key.
SWITCH_INPUTS: dict[str, str] = {key: kind.title for key, kind in INPUT_KINDS.items()}


@dataclass(frozen=True)
class OwnFunction:
    """Something of the installer's own that needs a pin."""

    title: str
    capability: Capability
    current_a: float = 0.5


@dataclass(frozen=True)
class Fitting:
    """What is fitted. Construct it, then call :meth:`check`.

    Attributes
    ----------
    ignition : {"coil_per_cylinder", "wasted_spark", "distributor"}
    coils : {"with_igniter", "plain"}
        Coils with their own power stage want a logic signal, plain ones a driver.
    injection : {"sequential", "paired", "simultaneous"}
    injector_ohm : float or None
        [Ω]; None takes a usual high-resistance injector.
    series_resistors : bool
        Whether low-resistance injectors have resistors in series.
    crank_sensor, cam_sensor : {"inductive", "hall"}, and "none" for the cam
    sensors : tuple of str
        Keys of :data:`..sensors.FUNCTIONS`.
    built_in_pressure : bool
        Whether the controller's own sensor reads the manifold.
    outputs : tuple of str
        Keys of :data:`OUTPUT_KINDS`.
    inputs : tuple of str
        Keys of :data:`SWITCH_INPUTS`.
    idle_valve : {"none", "two_wire", "three_wire", "stepper"}
    bus : bool
        Whether something hangs on the bus.
    wideband_on_bus : bool
        Whether the wideband talks over the bus.
    reserve_coil_per_cylinder : bool
        Whether outputs are kept for a coil at each plug later.
    fans_together : bool
        Whether both fans hang on one output.
    external_pull_ups, signal_converter : bool
        A resistor at the input of a two-wire sensor; a converter from inductive to digital.
    igniters : bool
        External power stages before plain coils.
    own : tuple of OwnFunction
    """

    ignition: Ignition = "coil_per_cylinder"
    coils: Literal["with_igniter", "plain"] = "with_igniter"
    injection: Injection = "sequential"
    injector_ohm: float | None = None
    series_resistors: bool = False
    crank_sensor: SensorKind = "hall"
    cam_sensor: CamSensorKind = "hall"
    sensors: tuple[str, ...] = (
        "throttle",
        "manifold_pressure",
        "coolant",
        "intake_air",
        "wideband",
    )
    built_in_pressure: bool = False
    outputs: tuple[str, ...] = ("main_relay", "fuel_pump", "fan_1", "tachometer")
    inputs: tuple[str, ...] = ()
    idle_valve: IdleValve = "two_wire"
    bus: bool = False
    wideband_on_bus: bool = False
    reserve_coil_per_cylinder: bool = False
    fans_together: bool = False
    external_pull_ups: bool = False
    signal_converter: bool = False
    igniters: bool = False
    own: tuple[OwnFunction, ...] = ()

    def check(self, spec: EngineSpec) -> Fitting:
        """Return the fitting itself once it can be.

        Parameters
        ----------
        spec : EngineSpec
            The engine it is fitted to.

        Raises
        ------
        InputRefused
            With one sentence for everything that cannot.
        """
        problems = list(_problems(self, spec))
        if problems:
            raise InputRefused(problems)
        return self


def usual_fitting(spec: EngineSpec, sensors: Sequence[str] = ()) -> Fitting:
    """Return what an engine usually has, with the sensors that are entered for it.

    Parameters
    ----------
    spec : EngineSpec
        The engine.
    sensors : sequence of str
        Keys of the sensors entered; empty where none is yet.
    """
    wired = tuple(key for key in sensors if key != "battery") or Fitting.sensors
    outputs = Fitting.outputs + (("boost_valve",) if spec.induction == "boosted" else ())
    return Fitting(
        sensors=wired,
        outputs=outputs,
        injection="sequential" if spec.fuelling == "port" else "paired",
    )


def with_sensors(
    fitting: Fitting, spec: EngineSpec, crank: SensorKind, cam: CamSensorKind
) -> Fitting:
    """Return a fitting with other sensors, and what can still be driven with them.

    Parameters
    ----------
    fitting : Fitting
        As proposed.
    spec : EngineSpec
        The engine.
    crank, cam : str
        Their kinds.
    """
    fitting = replace(fitting, crank_sensor=crank, cam_sensor=cam)
    if cam != "none" or spec.cycle == "rotary":
        return fitting
    # Without a cam signal the controller knows the turn only.
    injection = "paired" if fitting.injection == "sequential" else fitting.injection
    ignition = fitting.ignition
    if ignition == "coil_per_cylinder":
        ignition = "distributor" if spec.chambers % 2 else "wasted_spark"
    return replace(fitting, injection=injection, ignition=ignition)


def _problems(fitting: Fitting, spec: EngineSpec) -> Iterator[FieldProblem]:
    for field, keys, known in (
        ("sensors", fitting.sensors, FUNCTIONS),
        ("outputs", fitting.outputs, OUTPUT_KINDS),
        ("inputs", fitting.inputs, SWITCH_INPUTS),
    ):
        for key in keys:
            if key not in known:
                yield FieldProblem(field, f"Nothing of the kind '{key}' can be wired.")
        if len(set(keys)) != len(keys):
            yield FieldProblem(field, "One of them is listed twice.")
    if fitting.injector_ohm is not None:
        found = out_of_bounds(
            "injector_ohm", fitting.injector_ohm, 0.3, 60.0, "Ω", "The injector's resistance"
        )
        if found is not None:
            yield found
    if (
        fitting.injection == "sequential"
        and fitting.cam_sensor == "none"
        and spec.cycle != "rotary"
    ):
        yield FieldProblem(
            "injection",
            "Without a cam signal only paired or simultaneous injection is possible: the "
            "controller cannot tell which of two turns it is in.",
        )
    if fitting.ignition == "distributor" and spec.cycle == "rotary":
        yield FieldProblem("ignition", "A rotary with a distributor is not planned here.")
    if fitting.ignition == "wasted_spark" and spec.cycle == "rotary":
        yield FieldProblem("ignition", "Rotors share no coil: take one for each plug.")
    if fitting.ignition == "wasted_spark" and spec.cycle != "rotary" and spec.chambers % 2:
        yield FieldProblem("ignition", "A wasted spark needs an even number of cylinders.")
    if (
        fitting.cam_sensor == "none"
        and fitting.ignition == "coil_per_cylinder"
        and spec.cycle != "rotary"
    ):
        yield FieldProblem(
            "ignition", "A coil for each plug needs a cam signal, unless sparks are wasted."
        )
    if len(fitting.own) > 40:
        yield FieldProblem("own", "At most 40 own functions.")
    for i, own in enumerate(fitting.own):
        if not own.title.strip() or len(own.title) > 60:
            yield FieldProblem(f"own.{i}.title", "Say in a few words what it is.")
        if own.capability in SHARED or own.capability not in CAPABILITIES:
            yield FieldProblem(
                f"own.{i}.capability", "Supplies and grounds are not planned this way."
            )
        found = out_of_bounds(f"own.{i}.current_a", own.current_a, 0.0, 60.0, "A", "The current")
        if found is not None:
            yield found
