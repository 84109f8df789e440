"""A controller as an open description: connectors, pins, tables, and how it starts an engine."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Final, Literal

from ..bounds import out_of_bounds
from ..charge.fading import FadeLaw, StartFading
from ..errors import FieldProblem, InputRefused
from ..sentences import quantity
from ..tables import AXES, DEFINITIONS
from .capability import CAPABILITIES, OUTPUTS, SHARED, Capability

FORMAT: Final = "inbetrieb-controller/1"
MOST_PINS, MOST_CONNECTORS, MOST_PLACES = 400, 12, 40

PullUp = Literal["none", "switchable", "fixed"]
InjectorClass = Literal["plain", "current_limiting"]


@dataclass(frozen=True)
class Connector:
    """One plug of the loom, its places counted in rows and columns from 1 at the top left.

    Attributes
    ----------
    name, title : str
        Short name, as pins use it, and wording.
    rows, columns : int
        Places. [–]
    view : {"wire_side", "mating_side"}
        From which side of the loom's plug the rows and columns are counted.
    """

    name: str
    title: str
    rows: int
    columns: int
    view: Literal["wire_side", "mating_side"] = "wire_side"


@dataclass(frozen=True)
class Pin:
    """One pin.

    Attributes
    ----------
    name : str
        Unique in the controller, such as A12.
    connector : str
        Name of its connector.
    row, column : int
        Its place there, from 1. [–]
    capabilities : tuple of str
        Keys of :data:`.capability.CAPABILITIES`.
    pull_up : {"none", "switchable", "fixed"}
        Of an input.
    pull_up_ohm : float or None
        [Ω]
    current_a : float or None
        Continuous, of an output; None where unknown. [A]
    injector_class : {"plain", "current_limiting"}
        Of an injector driver.
    lowest_hz, highest_hz : float or None
        Of a pulse-width output; None where there is no bound. [Hz]
    function : str
        Key of the function that the maker fixed to it; empty for none.
    note : str
    """

    name: str
    connector: str
    row: int
    column: int
    capabilities: tuple[Capability, ...]
    pull_up: PullUp = "none"
    pull_up_ohm: float | None = None
    current_a: float | None = None
    injector_class: InjectorClass = "plain"
    lowest_hz: float | None = None
    highest_hz: float | None = None
    function: str = ""
    note: str = ""

    @property
    def is_shared(self) -> bool:
        """Whether many wires share it: supplies and grounds."""
        return any(capability in SHARED for capability in self.capabilities)

    @property
    def words(self) -> str:
        """What it can do, in one phrase."""
        return ", ".join(CAPABILITIES[c] for c in self.capabilities) or "nothing that is known"


@dataclass(frozen=True)
class AxisFormat:
    """What a table's axis may be.

    Attributes
    ----------
    name : str
        Key of an axis of the calibration.
    most_points : int
        [–]
    points : tuple of float
        Where the controller fixes them; empty where they are free. [unit of the axis]
    """

    name: str
    most_points: int
    points: tuple[float, ...] = ()


@dataclass(frozen=True)
class TableFormat:
    """How the controller holds one table.

    Attributes
    ----------
    key : str
        Key of the table.
    unit : str
        As its own software shows it.
    step : float
        Smallest difference it stores. [unit]
    axes : tuple of AxisFormat
        In the order of the table's own axes.
    """

    key: str
    unit: str
    step: float
    axes: tuple[AxisFormat, ...]


@dataclass(frozen=True)
class BuiltInPressure:
    """A pressure sensor in the controller's housing, fed by a hose. Range absolute. [kPa]"""

    lower_kpa: float
    upper_kpa: float


@dataclass(frozen=True)
class ControllerProfile:
    """A controller. Construct it, then call :meth:`check`.

    Attributes
    ----------
    format : str
        Version of the file format.
    name, note : str
    connectors : tuple of Connector
    pins : tuple of Pin
    built_in_pressure : BuiltInPressure or None
    tables : tuple of TableFormat
        Those whose form is known.
    fade_law : {"linear_time", "linear_cycles", "exponential_time"}
        How after-start enrichment fades.
    crank_to_run_rpm : float or None
        Where the controller fixes it. [1/min]
    cranking_half_turns : float or None
        Turns of cranking after which a cranking pulse has fallen to half; None where it stays. [–]
    """

    format: Literal["inbetrieb-controller/1"]
    name: str
    connectors: tuple[Connector, ...]
    pins: tuple[Pin, ...]
    note: str = ""
    built_in_pressure: BuiltInPressure | None = None
    tables: tuple[TableFormat, ...] = ()
    fade_law: FadeLaw = "linear_time"
    crank_to_run_rpm: float | None = None
    cranking_half_turns: float | None = None

    @property
    def fading(self) -> StartFading:
        """How it runs its start fuel down."""
        return StartFading(self.fade_law, self.cranking_half_turns)

    def pin(self, name: str) -> Pin | None:
        """Return a pin by its name, None if there is none."""
        return next((pin for pin in self.pins if pin.name == name), None)

    def with_capability(self, *wanted: Capability) -> tuple[Pin, ...]:
        """Return the pins that have any of these abilities."""
        return tuple(pin for pin in self.pins if set(wanted) & set(pin.capabilities))

    def check(self) -> ControllerProfile:
        """Return the profile itself once it makes sense.

        Raises
        ------
        InputRefused
            With one sentence for everything that does not.
        """
        problems = [*_outline(self), *_pin_problems(self), *_table_problems(self)]
        if problems:
            raise InputRefused(problems[:60])
        return self


def _outline(profile: ControllerProfile) -> Iterator[FieldProblem]:
    if not profile.name.strip():
        yield FieldProblem("name", "Give the controller a name.")
    if not profile.pins:
        yield FieldProblem("pins", "A controller without pins cannot be wired.")
    if len(profile.pins) > MOST_PINS or len(profile.connectors) > MOST_CONNECTORS:
        yield FieldProblem(
            "pins", f"At most {MOST_PINS} pins on {MOST_CONNECTORS} connectors can be planned."
        )
    seen: set[str] = set()
    for i, connector in enumerate(profile.connectors):
        at = f"connectors.{i}"
        if not connector.name.strip() or connector.name in seen:
            yield FieldProblem(
                f"{at}.name", f"Connector '{connector.name}' is there twice or unnamed."
            )
        seen.add(connector.name)
        if not (1 <= connector.rows <= MOST_PLACES and 1 <= connector.columns <= MOST_PLACES):
            yield FieldProblem(
                f"{at}.rows", f"Connector {connector.name}: 1 to {MOST_PLACES} rows and columns."
            )
    yield from _pressure_problems(profile.built_in_pressure)
    if profile.crank_to_run_rpm is not None:
        found = out_of_bounds(
            "crank_to_run_rpm", profile.crank_to_run_rpm, 150.0, 1000.0, "rpm", "Crank-to-run speed"
        )
        if found is not None:
            yield found
    if profile.cranking_half_turns is not None:
        found = out_of_bounds(
            "cranking_half_turns", profile.cranking_half_turns, 0.5, 500.0, "turns", "Fall to half"
        )
        if found is not None:
            yield found


def _pressure_problems(sensor: BuiltInPressure | None) -> Iterator[FieldProblem]:
    if sensor is None:
        return
    if not 0.0 <= sensor.lower_kpa < sensor.upper_kpa <= 1000.0:
        yield FieldProblem(
            "built_in_pressure", "The built-in sensor must read from a lower to a higher pressure."
        )


def _pin_problems(profile: ControllerProfile) -> Iterator[FieldProblem]:
    plugs = {connector.name: connector for connector in profile.connectors}
    names: dict[str, int] = {}
    places: dict[tuple[str, int, int], str] = {}
    for i, pin in enumerate(profile.pins):
        at = f"pins.{i}"
        if not pin.name.strip() or len(pin.name) > 12:
            yield FieldProblem(f"{at}.name", f"Pin {i + 1} needs a name of 1 to 12 letters.")
        elif pin.name in names:
            yield FieldProblem(
                f"{at}.name",
                f"Pin {pin.name} is listed twice, as number {names[pin.name] + 1} and {i + 1}.",
            )
        names.setdefault(pin.name, i)
        plug = plugs.get(pin.connector)
        if plug is None:
            yield FieldProblem(
                f"{at}.connector", f"Pin {pin.name}: no connector '{pin.connector}'."
            )
        elif not (1 <= pin.row <= plug.rows and 1 <= pin.column <= plug.columns):
            yield FieldProblem(
                f"{at}.row",
                f"Pin {pin.name} lies outside connector {plug.name} "
                f"({plug.rows} rows, {plug.columns} columns).",
            )
        place = (pin.connector, pin.row, pin.column)
        if place in places and places[place] != pin.name:
            yield FieldProblem(f"{at}.row", f"Pins {places[place]} and {pin.name} share one place.")
        places.setdefault(place, pin.name)
        yield from _electrical_problems(pin, at)


def _electrical_problems(pin: Pin, at: str) -> Iterator[FieldProblem]:
    if len(set(pin.capabilities)) != len(pin.capabilities):
        yield FieldProblem(f"{at}.capabilities", f"Pin {pin.name} lists an ability twice.")
    if pin.is_shared and len(pin.capabilities) > 1:
        yield FieldProblem(
            f"{at}.capabilities", f"Pin {pin.name} is a supply or ground and nothing else."
        )
    if pin.pull_up != "none" and not {"analogue", "frequency", "hall"} & set(pin.capabilities):
        yield FieldProblem(f"{at}.pull_up", f"Pin {pin.name} has a pull-up but is no input.")
    for field, value, lower, upper, unit, name in (
        ("pull_up_ohm", pin.pull_up_ohm, 50.0, 1e6, "Ω", "pull-up"),
        ("current_a", pin.current_a, 0.005, 60.0, "A", "current"),
        ("lowest_hz", pin.lowest_hz, 0.0, 1e6, "Hz", "lowest frequency"),
        ("highest_hz", pin.highest_hz, 0.1, 1e6, "Hz", "highest frequency"),
    ):
        if value is None:
            continue
        found = out_of_bounds(
            f"{at}.{field}", value, lower, upper, unit, f"Pin {pin.name}: the {name}"
        )
        if found is not None:
            yield found
    carries = {*OUTPUTS, *SHARED, "ignition_logic"} & set(pin.capabilities)
    if pin.current_a is not None and not carries:
        yield FieldProblem(f"{at}.current_a", f"Pin {pin.name} has a current but is no output.")
    if (pin.lowest_hz or 0.0) >= (pin.highest_hz if pin.highest_hz is not None else math.inf):
        yield FieldProblem(f"{at}.lowest_hz", f"Pin {pin.name}: its frequencies do not rise.")


def _table_problems(profile: ControllerProfile) -> Iterator[FieldProblem]:
    seen: set[str] = set()
    for i, table in enumerate(profile.tables):
        at = f"tables.{i}"
        definition = DEFINITIONS.get(table.key)
        if definition is None or table.key in seen:
            yield FieldProblem(
                f"{at}.key", f"There is no table '{table.key}', or it is there twice."
            )
            continue
        seen.add(table.key)
        if not (math.isfinite(table.step) and table.step > 0.0):
            yield FieldProblem(f"{at}.step", f"{definition.title}: the step must be above 0.")
        if not definition.runs_over(tuple(axis.name for axis in table.axes)):
            yield FieldProblem(
                f"{at}.axes", f"{definition.title} runs over {' and '.join(definition.axes)}."
            )
            continue
        for j, axis in enumerate(table.axes):
            yield from _axis_problems(axis, f"{at}.axes.{j}", definition.title)


def _axis_problems(axis: AxisFormat, at: str, title: str) -> Iterator[FieldProblem]:
    bounds = AXES[axis.name]
    if not 2 <= axis.most_points <= 64:
        yield FieldProblem(f"{at}.most_points", f"{title}: an axis has 2 to 64 points.")
    rising = all(a < b for a, b in zip(axis.points, axis.points[1:], strict=False))
    inside = all(bounds.lower <= point <= bounds.upper for point in axis.points)
    if len(axis.points) > axis.most_points or not rising or not inside:
        yield FieldProblem(
            f"{at}.points", f"{title}: the points of {bounds.title.lower()} must rise within "
            f"{bounds.lower:g} and {quantity(bounds.upper, bounds.unit)}, at most {axis.most_points}.",
        )  # fmt: skip
