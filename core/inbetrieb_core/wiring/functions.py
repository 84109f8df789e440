"""From what is fitted to the list of functions that each need a pin, and the ways to serve them."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence

from ..engine import EngineSpec
from ..firing import order_of, turn_apart
from ..injectors.drivers import CHARGING_V, needs_current_limit, series_resistor_ohm
from ..sensors import FUNCTIONS
from ..sentences import listed
from .fitting import INPUT_KINDS, OUTPUT_KINDS, Fitting
from .profile import ControllerProfile
from .wired_function import Group, Importance, Way, WiredFunction

#: A usual high-resistance injector, where none is entered (assumed). [Ω]
USUAL_INJECTOR_OHM = 14.0
#: Peak of a limited injector's current (common practice, no source). [A]
_LIMITED_PEAK_A = 4.0
#: A relay's coil, and the primary current of an ignition coil (common practice, no source). [A]
RELAY_COIL_A, COIL_PRIMARY_A = 0.2, 8.0
_PAIRED = 2
_BRANCHES = {
    "throttle": "engine", "manifold_pressure": "engine", "barometric": "cabin", "coolant": "engine",
    "intake_air": "engine", "wideband": "exhaust", "fuel_pressure": "engine", "oil_pressure": "engine",
    "oil_temperature": "engine", "fuel_level": "rear", "flexible_fuel": "engine",
    "exhaust_temperature": "exhaust",
}  # fmt: skip
BRANCH_TITLES: dict[str, str] = {
    "engine": "Engine",
    "injectors": "Injector rail",
    "coils": "Ignition coils",
    "exhaust": "Exhaust",
    "front": "Front, radiator",
    "rear": "Rear, tank",
    "cabin": "Cabin",
    "battery": "Battery and fuses",
}
_LENGTHS_M = {
    "engine": 1.5, "injectors": 1.5, "coils": 1.5, "exhaust": 2.5, "front": 2.5, "rear": 4.5,
    "cabin": 2.0, "battery": 1.5,
}  # fmt: skip


def functions_of(
    spec: EngineSpec,
    fitting: Fitting,
    profile: ControllerProfile,
    firing_order: Sequence[int] = (),
) -> tuple[WiredFunction, ...]:
    """Return every function that needs a pin of its own.

    Parameters
    ----------
    spec : EngineSpec
        The engine.
    fitting : Fitting
        What is fitted to it.
    profile : ControllerProfile
        Whose fixed functions and built-in sensor are respected.
    firing_order : sequence of int
        Of the cylinders; the usual one where it is not known.
    """
    order = order_of(spec, firing_order)
    built_in = fitting.built_in_pressure and profile.built_in_pressure is not None
    return (
        *_triggers(fitting),
        *_ignition(spec, fitting, order),
        *_injectors(spec, fitting, order),
        *_sensors(fitting, built_in),
        *_outputs(fitting),
        *_inputs(fitting),
        *_bus(fitting),
        *_own(fitting),
    )


def _triggers(fitting: Fitting) -> Iterator[WiredFunction]:
    for key, title, kind in (
        ("crank", "Crank sensor", fitting.crank_sensor),
        ("cam", "Cam sensor", fitting.cam_sensor),
    ):
        if kind == "none":
            continue
        if kind == "inductive":
            ways = [Way("inductive")]
            if fitting.signal_converter:
                ways.append(Way("hall", 3.0))
                ways.append(Way("frequency", 4.0, pull_up=True))
        else:
            ways = [Way("hall", pull_up=True), Way("hall", 0.5)]
        wires = 2 if kind == "inductive" else 3
        yield WiredFunction(key, title, "trigger", tuple(ways), wires=wires)


def coil_count(spec: EngineSpec, fitting: Fitting) -> int:
    """Return how many ignition outputs the engine needs.

    A rotary has a leading and a trailing plug for each rotor, and rotors share no coil.
    """
    plugs = 2 * spec.chambers if spec.cycle == "rotary" else spec.chambers
    if fitting.ignition == "distributor":
        return 1
    if fitting.ignition == "wasted_spark":
        return spec.chambers // 2
    return plugs


def sparks_per_turn(spec: EngineSpec, fitting: Fitting) -> float:
    """Return how often one coil sparks in a turn of the shaft. [–]

    Parameters
    ----------
    spec : EngineSpec
        The engine.
    fitting : Fitting
        How it is ignited.
    """
    if spec.cycle == "rotary":
        return 1.0
    return {
        "coil_per_cylinder": 0.5, "wasted_spark": 1.0, "distributor": spec.chambers / 2.0
    }[fitting.ignition]  # fmt: skip


def _coil_title(spec: EngineSpec, fitting: Fitting, number: int, order: Sequence[int]) -> str:
    if fitting.ignition == "distributor":
        return "Ignition coil"
    if fitting.ignition == "wasted_spark":
        pair = turn_apart(order)[number - 1]
        return f"Ignition coil, cylinders {' and '.join(map(str, pair))}"
    if spec.cycle == "rotary":
        rotor, is_leading = (number + 1) // 2, number % 2 == 1
        return f"{'Leading' if is_leading else 'Trailing'} coil, rotor {rotor}"
    return f"Ignition coil {number}"


def _ignition(spec: EngineSpec, fitting: Fitting, order: Sequence[int]) -> Iterator[WiredFunction]:
    driver = Way("ignition", current_a=COIL_PRIMARY_A)
    logic = (Way("ignition_logic"),)
    ways = logic if fitting.coils == "with_igniter" or fitting.igniters else (driver,)
    count = coil_count(spec, fitting)
    for number in range(1, count + 1):
        yield WiredFunction(
            f"coil_{number}", _coil_title(spec, fitting, number, order), "ignition", ways,
            branch="coils", wires=3 if ways is logic else 2, load_a=_mean_coil_a(spec, count),
        )  # fmt: skip
    if fitting.reserve_coil_per_cylinder and fitting.ignition != "coil_per_cylinder":
        plugs = 2 * spec.chambers if spec.cycle == "rotary" else spec.chambers
        for number in range(count + 1, plugs + 1):
            yield WiredFunction(
                f"coil_{number}", f"Ignition coil {number}, reserved", "ignition", ways, "later",
                "coils", 1.5, 3 if ways is logic else 2,
            )  # fmt: skip


def _mean_coil_a(spec: EngineSpec, coils: int) -> float:
    """Return the mean current of one coil at the rev limit, 3 ms of half its peak at each spark. [A]"""
    sparks = spec.firings_per_turn * spec.rev_limit_rpm / 60.0 / coils
    return round(min(COIL_PRIMARY_A / 2.0, COIL_PRIMARY_A / 2.0 * 0.003 * sparks), 2)


def injector_groups(
    spec: EngineSpec, fitting: Fitting, firing_order: Sequence[int] = ()
) -> tuple[tuple[int, ...], ...]:
    """Return which injectors share an output, by their numbers from 1.

    Parameters
    ----------
    spec : EngineSpec
        The engine.
    fitting : Fitting
        How it injects.
    firing_order : sequence of int
        Of the cylinders; where each has one injector, those that share an output fire a turn apart.
    """
    count = spec.injectors.count
    order = order_of(spec, firing_order)
    if spec.cycle == "four_stroke" and count == spec.chambers and not count % 2:
        if fitting.injection == "paired":
            return turn_apart(order)
        if fitting.injection == "simultaneous":
            return tuple(sorted(tuple(sorted(order[i::2])) for i in (0, 1)))
    numbers = list(range(1, count + 1))
    if fitting.injection == "sequential":
        return tuple((n,) for n in numbers)
    if fitting.injection == "paired":
        half = math.ceil(count / _PAIRED)
        return tuple(tuple(numbers[i::half]) for i in range(half))
    return tuple(tuple(numbers[i::2]) for i in range(min(2, count)))


def _injectors(spec: EngineSpec, fitting: Fitting, order: Sequence[int]) -> Iterator[WiredFunction]:
    ohm = fitting.injector_ohm if fitting.injector_ohm is not None else USUAL_INJECTOR_OHM
    limited = needs_current_limit(ohm) and not fitting.series_resistors
    through = ohm + (series_resistor_ohm(ohm) if fitting.series_resistors else 0.0)
    each = _LIMITED_PEAK_A if limited else CHARGING_V / through
    for group in injector_groups(spec, fitting, order):
        current = round(len(group) * each, 2)
        way = Way(
            "injector", current_a=current, injector_class="current_limiting" if limited else "plain"
        )
        name = listed([str(n) for n in group])
        yield WiredFunction(
            f"injector_{group[0]}", f"Injector {name}", "fuel", (way,),
            branch="injectors", wires=2, load_a=current, parts=len(group),
        )  # fmt: skip


def _sensors(fitting: Fitting, built_in: bool) -> Iterator[WiredFunction]:
    for key in fitting.sensors:
        definition = FUNCTIONS[key]
        if key == "battery" or (key == "manifold_pressure" and built_in):
            continue
        if key == "wideband" and fitting.wideband_on_bus:
            continue
        wires = 3
        ways = [Way("analogue")]
        if definition.transfers[0] == "thermistor":
            wires = 2
            ways = [Way("analogue", pull_up=True)]
            if fitting.external_pull_ups:
                ways.append(Way("analogue", 3.0, outside_pull_up=True))
        elif definition.transfers[0] == "frequency":
            ways = [Way("frequency", pull_up=True), Way("frequency", 0.5)]
        elif key == "wideband":
            ways = [Way("wideband"), Way("analogue", 0.5)]
        elif key == "fuel_level":
            wires, ways = 2, [Way("analogue", pull_up=True), Way("analogue", 1.0)]
        branch = _BRANCHES.get(key, "engine")
        yield WiredFunction(
            key, definition.title, "sensor", tuple(ways),
            "needed" if definition.needed == "always" else "wanted",
            branch, _LENGTHS_M[branch], wires,
        )  # fmt: skip


def _outputs(fitting: Fitting) -> Iterator[WiredFunction]:
    for key in fitting.outputs:
        if key == "fan_2" and fitting.fans_together and "fan_1" in fitting.outputs:
            continue
        if key == "electronic_throttle":
            yield from _electronic_throttle()
            continue
        kind = OUTPUT_KINDS[key]
        through = RELAY_COIL_A if kind.relay else kind.current_a
        if key == "fan_1" and fitting.fans_together and "fan_2" in fitting.outputs:
            through *= 2.0
        if kind.pwm_hz:
            ways = [Way("pwm", current_a=through, hz=kind.pwm_hz)]
        elif key == "tachometer":
            ways = [Way("pwm", 0.2, current_a=through), Way("low_side", current_a=through)]
        else:
            ways = [Way("low_side", current_a=through), Way("high_side", 0.5, current_a=through)]
        title = "Fans 1 and 2" if key == "fan_1" and fitting.fans_together else kind.title
        yield WiredFunction(
            key, title, "output", tuple(ways),
            "needed" if key in ("fuel_pump", "main_relay") else "wanted",
            kind.branch, kind.length_m, 2, kind.current_a, kind.relay,
        )  # fmt: skip
    yield from _idle_valve(fitting)


def _electronic_throttle() -> Iterator[WiredFunction]:
    """Yield what an electronic throttle hangs on: its motor, its second track, and both of the pedal."""
    current = OUTPUT_KINDS["electronic_throttle"].current_a
    for number, title in ((1, "Throttle motor, opens"), (2, "Throttle motor, closes")):
        yield WiredFunction(
            f"throttle_motor_{number}", title, "output", (Way("bridge", current_a=current),),
            "needed", "engine", 1.5, 2, current,
        )  # fmt: skip
    for key, title, branch in (
        ("throttle_track_2", "Throttle, second track", "engine"),
        ("pedal_1", "Pedal, first track", "cabin"),
        ("pedal_2", "Pedal, second track", "cabin"),
    ):
        yield WiredFunction(
            key, title, "sensor", (Way("analogue"),), "needed", branch, _LENGTHS_M[branch], 3
        )


def _idle_valve(fitting: Fitting) -> Iterator[WiredFunction]:
    current = 1.2
    if fitting.idle_valve == "two_wire":
        way = Way("pwm", current_a=current, hz=(80.0, 320.0))
        yield WiredFunction(
            "idle_valve", "Idle valve", "output", (way,), "needed", "engine", 1.5, 2, current
        )
    elif fitting.idle_valve == "three_wire":
        way = Way("pwm", current_a=current, hz=(80.0, 320.0))
        for key, title in (
            ("idle_valve", "Idle valve, opens"),
            ("idle_valve_2", "Idle valve, closes"),
        ):
            yield WiredFunction(key, title, "output", (way,), "needed", "engine", 1.5, 3, current)
    elif fitting.idle_valve == "stepper":
        for n in range(1, 5):
            ways = (Way("low_side", current_a=0.5), Way("pwm", 0.5, current_a=0.5))
            key = "idle_valve" if n == 1 else f"idle_valve_{n}"
            yield WiredFunction(
                key, f"Idle stepper, wire {n}", "output", ways, "needed", "engine", 1.5, 4, 0.5
            )


def _inputs(fitting: Fitting) -> Iterator[WiredFunction]:
    for key in fitting.inputs:
        kind = INPUT_KINDS[key]
        ways = []
        for worse, capability in enumerate(kind.capabilities):
            ways.append(Way(capability, float(worse), pull_up=kind.pull_up))
            if kind.pull_up and capability != "analogue":
                ways.append(Way(capability, worse + 0.3))
        group: Group = "trigger" if key.startswith("cam_") else "sensor"
        length_m = _LENGTHS_M[kind.branch]
        yield WiredFunction(
            key, kind.title, group, tuple(ways), "wanted", kind.branch, length_m, kind.wires
        )


def _bus(fitting: Fitting) -> Iterator[WiredFunction]:
    if not (fitting.bus or fitting.wideband_on_bus):
        return
    importance: Importance = "needed" if fitting.wideband_on_bus else "wanted"
    for key, title, capability in (
        ("bus_high", "Bus, high wire", "bus_high"),
        ("bus_low", "Bus, low wire", "bus_low"),
    ):
        way = Way(capability)  # type: ignore[arg-type]
        yield WiredFunction(key, title, "bus", (way,), importance, "cabin", 2.0, 1)


def _own(fitting: Fitting) -> Iterator[WiredFunction]:
    for i, own in enumerate(fitting.own, start=1):
        ways = (Way(own.capability, current_a=own.current_a),)
        yield WiredFunction(
            f"own_{i}", own.title.strip(), "own", ways, "wanted", "cabin", 2.0, 1, own.current_a
        )
