"""The trigger of a job as entered: wheel, sensors, edge, offset, firing order."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from ..bounds import out_of_bounds
from ..engine import EngineSpec
from ..errors import FieldProblem, InputRefused, field_refused
from ..firing import USUAL_ORDERS
from ..sentences import number
from .wheel import PATTERNS, Wheel, toothed

WheelKind = Literal["pattern", "toothed", "edges"]
_MOST_TEETH = 240


@dataclass(frozen=True)
class TriggerEntry:
    """A trigger as entered. Construct it, then call :meth:`check`.

    Attributes
    ----------
    kind : {"pattern", "toothed", "edges"}
        By a plain name, by teeth and gap, or by the angle of every edge.
    pattern : str
        Key of :data:`.wheel.PATTERNS`.
    teeth, missing : int
        Places round the wheel, and how many of them are empty in one gap. [–]
    on_cam : bool
        Whether the wheel turns with the cam.
    edges_deg, cam_edges_deg : tuple of float
        Angles of the edges; those of the second signal count for every kind but "pattern". [°]
    crank_kind, cam_kind : {"inductive", "hall"}, and "none" for the cam
    edge, cam_edge : {"rising", "falling"}
        That counts.
    offset_deg : float
        From the first edge behind the gap to top dead centre of cylinder 1's compression. [°]
    filter_us : float
        Edges nearer than this are ignored; 0 for none. [µs]
    raising_advances : bool
        Whether a larger offset in this controller makes the spark earlier.
    firing_order : tuple of int
        Empty where it is not known.
    note : str
    """

    kind: WheelKind = "pattern"
    pattern: str = "36−1 with cam"
    teeth: int = 36
    missing: int = 1
    on_cam: bool = False
    edges_deg: tuple[float, ...] = ()
    cam_edges_deg: tuple[float, ...] = ()
    crank_kind: Literal["inductive", "hall"] = "hall"
    cam_kind: Literal["none", "inductive", "hall"] = "hall"
    edge: Literal["rising", "falling"] = "rising"
    cam_edge: Literal["rising", "falling"] = "rising"
    offset_deg: float = 90.0
    filter_us: float = 0.0
    raising_advances: bool = True
    firing_order: tuple[int, ...] = ()
    note: str = ""

    def wheel(self) -> Wheel:
        """Return the wheel.

        Raises
        ------
        InputRefused
            If it is none.
        """
        if self.kind == "pattern":
            if self.pattern not in PATTERNS:
                raise field_refused("pattern", f"There is no pattern '{self.pattern[:40]}'.")
            return PATTERNS[self.pattern]
        if self.kind == "toothed":
            if not (1 <= self.teeth <= _MOST_TEETH and 0 <= self.missing < self.teeth):
                raise field_refused(
                    "teeth", f"1 to {_MOST_TEETH} teeth, fewer missing than there are."
                )
            name = f"{self.teeth}−{self.missing}" if self.missing else f"{self.teeth} teeth"
            gone = range(self.teeth - self.missing, self.teeth)
            return toothed(
                name + (" on the cam" if self.on_cam else ""), self.teeth, gone,
                on_cam=self.on_cam, cam_edges_deg=self.cam_edges_deg,
            )  # fmt: skip
        turn = 720.0 if self.on_cam else 360.0
        shifted = tuple(a - self.edges_deg[0] for a in self.edges_deg) if self.edges_deg else ()
        name = f"own wheel of {len(self.edges_deg)} edges"
        return Wheel(name, shifted, turn, self.cam_edges_deg)

    def check(self, spec: EngineSpec) -> TriggerEntry:
        """Return the entry itself once it can be.

        Parameters
        ----------
        spec : EngineSpec
            The engine it is on.

        Raises
        ------
        InputRefused
            With one sentence for everything that cannot.
        """
        problems = list(_problems(self, spec))
        if problems:
            raise InputRefused(problems)
        self.wheel()
        return self


def usual_trigger(spec: EngineSpec) -> TriggerEntry:
    """Return a trigger to begin from."""
    order = USUAL_ORDERS.get(spec.chambers, ()) if spec.cycle == "four_stroke" else ()
    return TriggerEntry(firing_order=order)


def _problems(entry: TriggerEntry, spec: EngineSpec) -> Iterator[FieldProblem]:
    for name, value, lower, upper, unit, title in (
        ("offset_deg", entry.offset_deg, -720.0, 720.0, "°", "The trigger offset"),
        ("filter_us", entry.filter_us, 0.0, 5000.0, "µs", "The filter"),
    ):
        found = out_of_bounds(name, value, lower, upper, unit, title)
        if found is not None:
            yield found
    order = entry.firing_order
    if order and sorted(order) != list(range(1, spec.chambers + 1)):
        yield FieldProblem(
            "firing_order",
            f"The firing order must name each of the {spec.chambers} cylinders once.",
        )
    if len(entry.note) > 500:
        yield FieldProblem("note", "A note has up to 500 letters.")


@dataclass(frozen=True)
class WheelPicture:
    """A wheel as it is drawn.

    Attributes
    ----------
    name : str
    edges_deg, cam_edges_deg : tuple of float
        [°]
    turn_deg : float
        [°]
    gaps_deg : tuple of (from, to)
        Stretches without a tooth. [°]
    top_dead_centres_deg : tuple of float
        Of all compressions within the turn drawn, cylinder 1 first. [°]
    sentences : tuple of str
        What this wheel can tell the controller.
    """

    name: str
    edges_deg: tuple[float, ...]
    cam_edges_deg: tuple[float, ...]
    turn_deg: float
    gaps_deg: tuple[tuple[float, float], ...]
    top_dead_centres_deg: tuple[float, ...]
    sentences: tuple[str, ...]


def wheel_picture(entry: TriggerEntry, spec: EngineSpec) -> WheelPicture:
    """Return what there is to draw of a trigger.

    Parameters
    ----------
    entry : TriggerEntry
        Checked.
    spec : EngineSpec
        The engine.
    """
    wheel = entry.wheel()
    steps = wheel.steps_deg
    usual = min(steps)
    gaps = tuple(
        (edge, edge + step)
        for edge, step in zip(wheel.edges_deg, steps, strict=True)
        if step > 1.4 * usual
    )
    between = 720.0 / (spec.firings_per_turn * 2.0)
    count = max(1, round(wheel.turn_deg / between))
    tops = tuple(round((entry.offset_deg + i * between) % wheel.turn_deg, 3) for i in range(count))
    return WheelPicture(
        wheel.name, wheel.edges_deg, wheel.cam_edges_deg, wheel.turn_deg, gaps,
        tuple(dict.fromkeys(tops)), tuple(_able(wheel, entry, spec)),
    )  # fmt: skip


def _able(wheel: Wheel, entry: TriggerEntry, spec: EngineSpec) -> Iterator[str]:
    knows_cycle = bool(wheel.cam_edges_deg) or (wheel.finds_itself and wheel.turn_deg == 720.0)
    if knows_cycle or spec.cycle == "rotary":
        yield "The controller knows the place in the whole cycle: sequential injection and a coil for each plug are possible."
    elif wheel.finds_itself:
        yield "The controller knows the turn, not the cycle: wasted spark and paired injection."
    else:
        yield "The controller knows the speed only: distributor and simultaneous injection."
    finest = min(wheel.steps_deg)
    yield f"{len(wheel.edges_deg)} edges in {wheel.turn_deg:.0f}°, {number(finest, 3)}° apart."
    if entry.filter_us > 0.0:
        quickest = finest / 6.0 / spec.rev_limit_rpm * 1e6
        if entry.filter_us > 0.5 * quickest:
            yield (
                f"The filter of {entry.filter_us:g} µs would swallow teeth: at {spec.rev_limit_rpm:.0f} rpm "
                f"they come every {quickest:.0f} µs."
            )
