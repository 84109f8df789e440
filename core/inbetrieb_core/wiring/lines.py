"""The pin-by-pin wiring list: every wire with its size, protection, and what a meter must read."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import partial

from ..sensors import SensorEntry
from .allocate import Allocation, Placed
from .capability import CAPABILITIES, Capability
from .checks import Check, check_of, feed_check, shared_check
from .colours import Colours
from .fitting import OUTPUT_KINDS, Fitting
from .functions import RELAY_COIL_A
from .profile import ControllerProfile, Pin
from .wire import ISO_6722_MOHM_M, WireUse, gauge_number, size_wire
from .wired_function import Group, WiredFunction

_SIGNAL_A = 0.02
#: Heater of a wideband cell, the controller itself, its 5 V and its sensor ground (common
#: practice, no source). [A]
_HEATER_A, _CONTROLLER_A, _SENSORS_A = 2.5, 5.0, 0.1
#: More than any wire of this list carries; a main feed beyond it is sized for it. [A]
_MOST_A = 60.0
_NEAR_M = 1.5
_USES: dict[Group, WireUse] = {"fuel": "injector", "ignition": "coil", "output": "switch"}


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


@dataclass(frozen=True)
class _Raw:
    """A wire before it has size and colour: what it is, carries and needs."""

    key: str
    title: str
    group: str
    branch: str
    signal: str
    use: WireUse
    current_a: float
    length_m: float
    base: str
    check: Callable[[float], Check]
    pin: str = ""
    connector: str = ""
    fused: bool = False
    relay: bool = False
    protection: str = ""
    pull_up: str = ""
    active: str = ""
    supply: str = ""
    ground: str = ""
    note: str = ""

    def line(self, edit: LineEdit, colours: Colours) -> WiringLine:
        """Return the wire sized and coloured, as the installer wants it where something is said."""
        length = self.length_m if edit.length_m is None else edit.length_m
        current = min(self.current_a, _MOST_A)
        size = size_wire(current, length, self.use, fused=self.fused, wanted_mm2=edit.size_mm2)
        return WiringLine(
            self.key, self.title, self.pin, self.connector, self.group, self.branch, self.signal,
            round(self.current_a, 2), length, size.size_mm2, gauge_number(size.size_mm2),
            colours.take(self.base, self.connector, edit.colour), round(size.drop_v, 4),
            not size.is_enough or self.current_a > _MOST_A, size.fuse_a, self.relay, self.protection,
            self.pull_up, self.active, self.supply, self.ground, edit.note.strip() or self.note,
            self.check(size.resistance_ohm),
        )  # fmt: skip


def lines_of(
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
    by_key = {function.key: function for function in functions}
    uses = [(placed, by_key[placed.function]) for placed in allocation.placed]
    raw = [
        *_placed(uses, profile, fitting, {sensor.function: sensor for sensor in sensors}),
        *_shared(uses, profile),
        *_feeds(uses, fitting),
    ]
    order = {pin.name: i for i, pin in enumerate(profile.pins)}
    raw.sort(key=lambda wire: (order.get(wire.pin, len(order)), wire.key))
    colours, said = Colours(), edits or {}
    return tuple(wire.line(said.get(wire.key, LineEdit()), colours) for wire in raw)


_Uses = Sequence[tuple[Placed, WiredFunction]]


def _placed(
    uses: _Uses,
    profile: ControllerProfile,
    fitting: Fitting,
    sensors: Mapping[str, SensorEntry],
) -> Iterator[_Raw]:
    """Yield the wire of every function that has a pin."""
    for number, (placed, function) in enumerate(uses):
        pin = profile.pin(placed.pin)
        assert pin is not None  # an allocation names pins of its profile
        current = placed.way.current_a or _SIGNAL_A
        if _feeds_coil(function):
            current = max(function.load_a, 1.0)
        yield _Raw(
            function.key, function.title, function.group, function.branch,
            CAPABILITIES[placed.way.capability], _USES.get(function.group, "signal"), current,
            function.length_m, function.group,
            partial(check_of, function, pin.name, fitting=fitting, sensor=sensors.get(function.key)),
            pin.name, pin.connector, False, function.relay, _protection(function),
            _pull_up(pin, placed), _active(placed.way.capability), _supply(function, profile, number),
            _ground(function, profile, number), pin.note,
        )  # fmt: skip


def _feeds_coil(function: WiredFunction) -> bool:
    """Say whether a coil's own current flows through the pin: it has no power stage."""
    return function.group == "ignition" and function.wires == 2


def _shared_pin(profile: ControllerProfile, capability: Capability, number: int) -> str:
    """Return one of several shared pins, in turn."""
    pins = profile.with_capability(capability)
    return pins[number % len(pins)].name if pins else "none on this controller"


_OWN_SUPPLY = ("wideband", "flexible_fuel", "speed")
_BEHIND_RELAY = "12 V, fused, behind the main relay"


def _supply(function: WiredFunction, profile: ControllerProfile, number: int) -> str:
    if function.key in _OWN_SUPPLY:
        return _BEHIND_RELAY
    if function.group in ("trigger", "sensor"):
        if function.wires != 3:
            return ""
        five = f"5 V of pin {_shared_pin(profile, 'sensor_supply', number)}"
        return five + (
            ", or fused 12 V if it is made for that" if function.group == "trigger" else ""
        )
    if function.relay:
        return (
            "12 V at the relay's coil"
            if function.key == "main_relay"
            else "12 V behind the main relay"
        )
    return _BEHIND_RELAY if function.group in ("fuel", "ignition", "output") else ""


def _ground(function: WiredFunction, profile: ControllerProfile, number: int) -> str:
    if function.group in ("sensor", "trigger"):
        return f"sensor ground, pin {_shared_pin(profile, 'sensor_ground', number)}"
    if function.group == "ignition" and function.wires == 3:
        return "coil ground on the cylinder head, of its own"
    return ""


#: Title, use, base of the colour, branch and note of the pins that many wires share.
_SHARED_WIRES: dict[Capability, tuple[str, WireUse, str, str, str]] = {
    "supply": ("Controller supply", "feed", "supply", "battery", "Behind the main relay, fused of its own."),
    "sensor_supply": ("5 V for sensors", "signal", "sensor_supply", "engine", "To sensors only."),
    "sensor_ground": ("Sensor ground", "signal", "sensor_ground", "engine", "To sensors only, never to the chassis."),
    "power_ground": ("Power ground", "ground", "power_ground", "battery", "To one point at the engine block, each wire of its own."),
}  # fmt: skip


def _shared(uses: _Uses, profile: ControllerProfile) -> Iterator[_Raw]:
    """Yield the supplies and grounds of the controller itself."""
    sunk = sum(
        function.load_a if _feeds_coil(function) else placed.way.current_a
        for placed, function in uses
        if _feeds_coil(function) or function.group in ("fuel", "output", "own")
    )
    grounds = max(1, len(profile.with_capability("power_ground")))
    currents = {"supply": _CONTROLLER_A, "power_ground": sunk / grounds}
    for pin in profile.pins:
        if not pin.is_shared:
            continue
        capability = pin.capabilities[0]
        title, use, base, branch, note = _SHARED_WIRES[capability]
        yield _Raw(
            f"pin_{pin.name}", title, "supply", branch, CAPABILITIES[capability], use,
            currents.get(capability, _SENSORS_A), _NEAR_M, base,
            partial(shared_check, capability, pin.name),
            pin.name, pin.connector, fused=capability == "supply", note=pin.note or note,
        )  # fmt: skip


def _feed(
    key: str, title: str, branch: str, current_a: float, length_m: float, **more: str
) -> _Raw:
    relayed = "signal" in more
    return _Raw(
        f"feed_{key}", f"{title}, feed", "feed", branch,
        more.get("signal", "12 V behind the main relay"), "feed", current_a, length_m, "supply",
        lambda _: feed_check(), fused=True, relay=relayed, note=more.get("note", ""),
    )  # fmt: skip


def _feeds(uses: _Uses, fitting: Fitting) -> Iterator[_Raw]:
    """Yield the fused feeds that end at no pin."""
    loads = {"injectors": 0.0, "coils": 0.0, "valves": 0.0}
    for placed, function in uses:
        if function.group == "fuel":
            loads["injectors"] += function.load_a
        elif function.group == "ignition":
            loads["coils"] += function.load_a
        elif function.relay:
            loads["valves"] += RELAY_COIL_A
        elif function.group in ("output", "own"):
            loads["valves"] += placed.way.current_a
    behind = [
        _feed("injectors", "Injectors", "injectors", loads["injectors"], _NEAR_M),
        _feed("coils", "Coils", "coils", loads["coils"], _NEAR_M),
        _feed("valves", "Valves and relays", "engine", loads["valves"], _NEAR_M),
    ]
    if "wideband" in fitting.sensors:
        behind.append(_feed("wideband", "Wideband heater", "exhaust", _HEATER_A, 2.5))
    behind = [feed for feed in behind if feed.current_a > 0.0]
    yield from behind
    for key in fitting.outputs:
        kind = OUTPUT_KINDS[key]
        if kind.relay and key != "main_relay":
            yield _feed(
                key, kind.title, kind.branch, kind.current_a, kind.length_m,
                signal="battery through fuse and relay", note="Through the relay's contacts.",
            )  # fmt: skip
    if behind:
        yield _feed(
            "main", "Main relay", "battery", sum(f.current_a for f in behind) + _CONTROLLER_A, 1.0,
            signal="battery through the main fuse",
            note="Feeds controller, injectors, coils and valves.",
        )  # fmt: skip


def _protection(function: WiredFunction) -> str:
    if function.group == "trigger":
        what = "shielded pair" if function.wires == 2 else "shielded, three cores"
        return f"{what}; shield to sensor ground at the controller's end alone"
    if function.group == "bus":
        return "twisted pair, 30 turns a metre or more"
    return {
        "wideband": "twisted with its ground",
        "exhaust_temperature": "thermocouple wire up to the amplifier",
    }.get(function.key, "")


def _pull_up(pin: Pin, placed: Placed) -> str:
    way = placed.way
    ohm = f", {pin.pull_up_ohm:g} Ω" if pin.pull_up_ohm else ""
    if way.pull_up:
        return f"on{ohm}" if pin.pull_up == "switchable" else f"built in{ohm}"
    if way.outside_pull_up:
        return "external, 2490 Ω from 5 V to the input"
    if way.capability == "hall" and pin.pull_up == "none":
        return "external, 1000 Ω to the sensor's supply, unless the sensor has one"
    return "off" if pin.pull_up == "switchable" else ""


def _active(capability: Capability) -> str:
    if capability in ("low_side", "pwm", "injector", "ignition"):
        return "low: switches to ground"
    return {
        "high_side": "high: switches to battery",
        "ignition_logic": "high: 5 V charges the coil",
    }.get(capability, "")


def sizes_mm2() -> tuple[float, ...]:
    """Return the cross-sections that wires are sold in. [mm²]"""
    return tuple(ISO_6722_MOHM_M)
