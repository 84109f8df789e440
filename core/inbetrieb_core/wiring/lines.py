"""The pin-by-pin wiring list: every wire with its size, protection, and what a meter must read."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

from ..engine import EngineSpec
from ..sensors import SensorEntry
from .allocate import Allocation, Placed
from .capability import CAPABILITIES, SHARED, Capability
from .checks import Check, check_of, shared_check
from .colours import Colours
from .fitting import OUTPUT_KINDS, Fitting
from .functions import RELAY_COIL_A, WiredFunction
from .profile import ControllerProfile, Pin
from .wire import (
    CONTINUOUS_A,
    ISO_6722_MOHM_M,
    SMALLEST_MM2,
    SMALLEST_POWER_MM2,
    WireSize,
    gauge_number,
    size_wire,
    wire_resistance_ohm,
)

#: Voltage that may be lost along a wire, by what hangs on it (common practice, no source). [V]
_ALLOWED_V = {
    "signal": 0.05,
    "switch": 0.3,
    "injector": 0.25,
    "coil": 0.25,
    "feed": 0.4,
    "ground": 0.1,
}
_SIGNAL_A = 0.02
#: Heater of a wideband cell, mean (common practice, no source). [A]
_HEATER_A = 2.5


@dataclass(frozen=True)
class LineEdit:
    """What the installer says of one wire; None or empty leaves what was computed.

    Attributes
    ----------
    length_m : float or None
        [m]
    size_mm2 : float or None
        [mm²]
    colour, note : str
    """

    length_m: float | None = None
    size_mm2: float | None = None
    colour: str = ""
    note: str = ""


@dataclass(frozen=True)
class WiringLine:
    """One wire.

    Attributes
    ----------
    key : str
        The function's, the shared pin's or the feed's.
    title : str
    pin, connector : str
        Empty for a feed that ends at no pin.
    group, branch : str
        What it belongs to, and the branch of the loom.
    signal : str
        What the pin does.
    current_a : float
        Continuous. [A]
    length_m, size_mm2 : float
        [m, mm²]
    gauge : int
        American wire gauge that is at least as thick. [–]
    colour : str
        Letters of IEC 60757, base and tracer.
    drop_v : float
        Lost along it, warm. [V]
    too_thin : bool
        Whether it carries too much or loses too much.
    fuse_a : float or None
        [A]
    relay : bool
        Whether it goes to a relay.
    protection : str
        Shield or twist; empty for none.
    pull_up : str
        Empty for none.
    active : str
        Which state of the pin is on; empty where it has none.
    supply, ground : str
        Where the part gets its supply and its ground.
    note : str
    check : Check
    """

    key: str
    title: str
    pin: str
    connector: str
    group: str
    branch: str
    signal: str
    current_a: float
    length_m: float
    size_mm2: float
    gauge: int
    colour: str
    drop_v: float
    too_thin: bool
    fuse_a: float | None
    relay: bool
    protection: str
    pull_up: str
    active: str
    supply: str
    ground: str
    note: str
    check: Check


def lines_of(
    spec: EngineSpec,
    fitting: Fitting,
    profile: ControllerProfile,
    functions: Sequence[WiredFunction],
    allocation: Allocation,
    sensors: Sequence[SensorEntry] = (),
    edits: Mapping[str, LineEdit] | None = None,
) -> tuple[WiringLine, ...]:
    """Return the wiring list of a plan, by connector and pin, feeds last.

    Parameters
    ----------
    spec : EngineSpec
        The engine.
    fitting : Fitting
        What is fitted.
    profile : ControllerProfile
        The controller.
    functions : sequence of WiredFunction
        All of them.
    allocation : Allocation
        Where each is.
    sensors : sequence of SensorEntry
        As entered; their curves tell what a meter must read.
    edits : mapping of key to LineEdit, optional
        Lengths, sizes, colours and notes of the installer.
    """
    work = _Work(spec, fitting, profile, {f.key: f for f in functions}, allocation, sensors)
    raw = [*work.placed(), *work.shared(), *work.feeds()]
    colours = Colours()
    order = {pin.name: i for i, pin in enumerate(profile.pins)}
    raw.sort(key=lambda line: (order.get(line.pin, len(order)), line.key))
    return tuple(_edited(line, (edits or {}).get(line.key, LineEdit()), colours) for line in raw)


@dataclass(frozen=True)
class _Work:
    """What all lines of a plan share."""

    spec: EngineSpec
    fitting: Fitting
    profile: ControllerProfile
    functions: Mapping[str, WiredFunction]
    allocation: Allocation
    sensors: Sequence[SensorEntry]

    def placed(self) -> Iterator[WiringLine]:
        for number, placed in enumerate(self.allocation.placed):
            pin = self.profile.pin(placed.pin)
            assert pin is not None  # an allocation names pins of its profile
            yield self._line(self.functions[placed.function], pin, placed, number)

    def _line(self, function: WiredFunction, pin: Pin, placed: Placed, number: int) -> WiringLine:
        way = placed.way
        kind = {"fuel": "injector", "ignition": "coil", "output": "switch"}.get(
            function.group, "signal"
        )
        current = way.current_a or _SIGNAL_A
        if function.group == "ignition" and function.wires == 2:
            current = max(function.load_a, 1.0)
        size = size_wire(current, function.length_m, _ALLOWED_V[kind], fused=False)
        sensor = next((s for s in self.sensors if s.function == function.key), None)
        return WiringLine(
            function.key, function.title, pin.name, pin.connector, function.group, function.branch,
            CAPABILITIES[way.capability], round(current, 2), function.length_m, size.size_mm2,
            gauge_number(size.size_mm2), "", round(size.drop_v, 4), size.reason == "too_long", None,
            function.relay, _protection(function), _pull_up(pin, placed), _active(way.capability),
            self._supply(function, number), self._ground(function, number), pin.note,
            check_of(function, pin.name, size.resistance_ohm, self.fitting, sensor),
        )  # fmt: skip

    def _shared_pin(self, capability: Capability, number: int) -> str:
        pins = self.profile.with_capability(capability)
        return pins[number % len(pins)].name if pins else "none on this controller"

    def _supply(self, function: WiredFunction, number: int) -> str:
        if function.group == "trigger" and function.wires == 3:
            return f"5 V of pin {self._shared_pin('sensor_supply', number)}, or fused 12 V if it is made for that"
        if function.group == "sensor" and function.wires == 3 and function.key not in _OWN_SUPPLY:
            return f"5 V of pin {self._shared_pin('sensor_supply', number)}"
        if function.key in _OWN_SUPPLY:
            return "12 V, fused, behind the main relay"
        if function.group in ("fuel", "ignition") or (
            function.group == "output" and not function.relay
        ):
            return "12 V, fused, behind the main relay"
        if function.relay:
            return (
                "12 V at the relay's coil"
                if function.key == "main_relay"
                else "12 V behind the main relay"
            )
        return ""

    def _ground(self, function: WiredFunction, number: int) -> str:
        if function.group in ("sensor", "trigger"):
            return f"sensor ground, pin {self._shared_pin('sensor_ground', number)}"
        if function.group == "ignition" and function.wires == 3:
            return "coil ground on the cylinder head, of its own"
        return ""

    def shared(self) -> Iterator[WiringLine]:
        """Yield the supplies and grounds of the controller itself."""
        sunk = sum(
            placed.way.current_a
            for placed in self.allocation.placed
            if self.functions[placed.function].group in ("fuel", "output", "own")
        )
        sunk += sum(
            self.functions[p.function].load_a
            for p in self.allocation.placed
            if self.functions[p.function].group == "ignition"
            and self.functions[p.function].wires == 2
        )
        grounds = len(self.profile.with_capability("power_ground"))
        for pin in self.profile.pins:
            if not pin.is_shared:
                continue
            capability = pin.capabilities[0]
            current, kind, fused, title, branch = {
                "supply": (5.0, "feed", True, "Controller supply", "battery"),
                "sensor_supply": (0.1, "signal", False, "5 V for sensors", "engine"),
                "sensor_ground": (0.1, "signal", False, "Sensor ground", "engine"),
                "power_ground": (sunk / max(grounds, 1), "ground", False, "Power ground", "battery"),
            }[capability]  # fmt: skip
            yield _plain_line(
                f"pin_{pin.name}", title, pin.name, pin.connector, "supply", branch,
                CAPABILITIES[capability], current, 1.5, kind, fused, capability,
                pin.note or _shared_note(capability),
            )  # fmt: skip

    def feeds(self) -> Iterator[WiringLine]:
        """Yield the fused feeds that end at no pin."""
        together = 0.0
        for key, title, branch, length, current in self._fed():
            together += current
            yield _plain_line(
                key, title, "", "", "feed", branch, "12 V behind the main relay", current, length,
                "feed", True, "supply", "",
            )  # fmt: skip
        for key in self.fitting.outputs:
            kind = OUTPUT_KINDS[key]
            if not kind.relay or key == "main_relay":
                continue
            yield replace(
                _plain_line(
                    f"feed_{key}", f"{kind.title}, feed", "", "", "feed", kind.branch,
                    "battery through fuse and relay", kind.current_a, kind.length_m, "feed", True,
                    "supply", "Through the relay's contacts.",
                ),
                relay=True,
            )  # fmt: skip
        if together:
            yield replace(
                _plain_line(
                    "feed_main", "Main relay, feed", "", "", "feed", "battery",
                    "battery through the main fuse", min(together + 5.0, 60.0), 1.0, "feed", True,
                    "supply", "Feeds controller, injectors, coils and valves.",
                ),
                relay=True,
            )  # fmt: skip

    def _fed(self) -> Iterator[tuple[str, str, str, float, float]]:
        loads: dict[str, float] = {}
        for placed in self.allocation.placed:
            function = self.functions[placed.function]
            if function.group in ("fuel", "ignition"):
                loads[function.group] = loads.get(function.group, 0.0) + function.load_a
            elif function.group in ("output", "own") and not function.relay:
                loads["valves"] = loads.get("valves", 0.0) + placed.way.current_a
            elif function.relay:
                loads["valves"] = loads.get("valves", 0.0) + RELAY_COIL_A
        if "fuel" in loads:
            yield "feed_injectors", "Injectors, feed", "injectors", 1.5, loads["fuel"]
        if "ignition" in loads:
            yield "feed_coils", "Coils, feed", "coils", 1.5, loads["ignition"]
        if "valves" in loads:
            yield "feed_valves", "Valves and relays, feed", "engine", 1.5, loads["valves"]
        if "wideband" in self.fitting.sensors:
            yield "feed_wideband", "Wideband heater, feed", "exhaust", 2.5, _HEATER_A


_OWN_SUPPLY = ("wideband", "flexible_fuel", "speed")


def _shared_note(capability: Capability) -> str:
    return {
        "power_ground": "To one point at the engine block, each wire of its own.",
        "sensor_ground": "To sensors only, never to the chassis.",
        "supply": "Behind the main relay, fused of its own.",
        "sensor_supply": "To sensors only.",
    }[capability]


def _plain_line(
    key: str, title: str, pin: str, connector: str, group: str, branch: str, signal: str,
    current_a: float, length_m: float, kind: str, fused: bool, capability: Capability, note: str,
) -> WiringLine:  # fmt: skip
    smallest = SMALLEST_POWER_MM2 if kind in ("feed", "ground") else SMALLEST_MM2
    size = size_wire(
        min(current_a, 60.0), length_m, _ALLOWED_V[kind], fused=fused, smallest_mm2=smallest
    )
    check = (
        shared_check(capability, pin, size.resistance_ohm)
        if pin
        else Check(
            "Key on, relay pulled in: at the far end of the feed to battery minus.",
            11.5,
            15.0,
            "V",
            "battery",
        )  # fmt: skip
    )
    return WiringLine(
        key, title, pin, connector, group, branch, signal, round(current_a, 2), length_m,
        size.size_mm2, gauge_number(size.size_mm2), "", round(size.drop_v, 4),
        size.reason == "too_long", size.fuse_a, False, "", "", "", "", "", note, check,
    )  # fmt: skip


def _protection(function: WiredFunction) -> str:
    if function.group == "trigger":
        what = "shielded pair" if function.wires == 2 else "shielded, three cores"
        return f"{what}; shield to sensor ground at the controller's end alone"
    if function.group == "bus":
        return "twisted pair, 30 turns a metre or more"
    if function.key == "wideband":
        return "twisted with its ground"
    if function.key == "exhaust_temperature":
        return "thermocouple wire up to the amplifier"
    return ""


def _pull_up(pin: Pin, placed: Placed) -> str:
    way = placed.way
    ohm = f", {pin.pull_up_ohm:g} Ω" if pin.pull_up_ohm else ""
    if way.pull_up:
        return f"on{ohm}" if pin.pull_up == "switchable" else f"built in{ohm}"
    if way.capability == "analogue" and way.cost >= 3.0:
        return "external, 2490 Ω from 5 V to the input"
    if way.capability == "hall" and pin.pull_up == "none":
        return "external, 1000 Ω to the sensor's supply, unless the sensor has one"
    if pin.pull_up == "switchable" and way.capability in ("analogue", "frequency", "hall"):
        return "off"
    return ""


def _active(capability: Capability) -> str:
    if capability in ("low_side", "pwm", "injector", "ignition"):
        return "low: switches to ground"
    if capability == "high_side":
        return "high: switches to battery"
    if capability == "ignition_logic":
        return "high: 5 V charges the coil"
    return ""


def _edited(line: WiringLine, edit: LineEdit, colours: Colours) -> WiringLine:
    """Return a line with what the installer says of it, and a colour of its own."""
    length = line.length_m if edit.length_m is None else edit.length_m
    if edit.length_m is not None or edit.size_mm2 is not None:
        kind = {"fuel": "injector", "ignition": "coil", "output": "switch", "feed": "feed"}.get(
            line.group, "signal"
        )
        if line.group == "supply":
            kind = "ground" if "ground" in line.signal and "sensor" not in line.signal else "feed"
        allowed = _ALLOWED_V[kind]
        least = SMALLEST_POWER_MM2 if kind in ("feed", "ground") else SMALLEST_MM2
        wanted: WireSize = size_wire(
            min(line.current_a, 60.0),
            length,
            allowed,
            fused=line.fuse_a is not None,
            smallest_mm2=least,
        )
        size = wanted.size_mm2 if edit.size_mm2 is None else edit.size_mm2
        drop = line.current_a * wire_resistance_ohm(size, length, 70.0)
        line = replace(
            line, length_m=length, size_mm2=size, gauge=gauge_number(size), drop_v=round(drop, 4),
            too_thin=drop > allowed or CONTINUOUS_A[size] < max(line.current_a, wanted.fuse_a or 0.0),
            fuse_a=wanted.fuse_a,
        )  # fmt: skip
    return replace(
        line,
        colour=colours.take(line.group, line.signal, line.connector, edit.colour),
        note=edit.note.strip() or line.note,
    )


def sizes_mm2() -> tuple[float, ...]:
    """Return the cross-sections that wires are sold in. [mm²]"""
    return tuple(ISO_6722_MOHM_M)


def is_shared_line(line: WiringLine) -> bool:
    """Say whether a line is a supply or ground of the controller itself."""
    return any(CAPABILITIES[c] == line.signal for c in SHARED)
