"""Intake: what is really fitted against what is claimed, and what that means for the work."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from ..errors import FieldProblem, InputRefused
from ..sensors import FUNCTIONS
from ..wiring import SWITCH_INPUTS

#: What is looked at on every job: key -> (wording, station where a difference matters).
INTAKE_ITEMS: dict[str, tuple[str, str]] = {
    "displacement": ("Displacement", "base-maps"),
    "cylinders": ("Cylinders or rotors", "base-maps"),
    "compression": ("Compression", "base-maps"),
    "cam": ("Cam", "base-maps"),
    "induction": ("Induction and charger", "base-maps"),
    "injectors": ("Injectors", "injectors"),
    "fuel_pump": ("Fuel pump and regulator", "injectors"),
    "idle_actuator": ("Idle actuator", "wiring"),
    "ignition": ("Coils and plugs", "trigger"),
    "trigger": ("Crank and cam wheel", "trigger"),
    "sensors": ("Sensors", "sensors"),
    "controller": ("Controller", "wiring"),
}
#: Inputs that a controller may have switched on: key -> what people call it.
CONFIGURABLE_INPUTS: dict[str, str] = {
    **{key: function.title.lower() for key, function in FUNCTIONS.items()},
    **{key: title.lower() for key, title in SWITCH_INPUTS.items()},
}
_LONGEST = 300


@dataclass(frozen=True)
class IntakeItem:
    """One thing looked at.

    Attributes
    ----------
    key : str
        Of :data:`INTAKE_ITEMS`.
    claimed, fitted : str
        What somebody said, and what was found; empty where nobody said or looked.
    differs : bool
        Whether the two are not the same thing.
    note : str
    """

    key: str
    claimed: str = ""
    fitted: str = ""
    differs: bool = False
    note: str = ""


@dataclass(frozen=True)
class IntakeEntry:
    """What is written down when the vehicle comes in. Construct it, then call :meth:`check`.

    Attributes
    ----------
    complaint : str
        In the owner's words.
    fuel_available : str
        What is sold locally.
    firmware : str
        Of the controller.
    came_with : str
        Loom, files, papers, spare parts.
    items : tuple of IntakeItem
    configured_inputs : tuple of str
        Keys of :data:`CONFIGURABLE_INPUTS` that are switched on in the controller.
    """

    complaint: str = ""
    fuel_available: str = ""
    firmware: str = ""
    came_with: str = ""
    items: tuple[IntakeItem, ...] = ()
    configured_inputs: tuple[str, ...] = ()

    def check(self) -> IntakeEntry:
        """Return the entry itself once it makes sense.

        Raises
        ------
        InputRefused
            With one sentence for everything that does not.
        """
        problems = list(_problems(self))
        if problems:
            raise InputRefused(problems)
        return self


def _problems(entry: IntakeEntry) -> Iterator[FieldProblem]:
    seen = set()
    for i, item in enumerate(entry.items):
        if item.key not in INTAKE_ITEMS or item.key in seen:
            yield FieldProblem(
                f"items.{i}.key",
                f"There is nothing to look at called '{item.key[:30]}', or it is there twice.",
            )
        seen.add(item.key)
        for name in ("claimed", "fitted", "note"):
            if len(getattr(item, name)) > _LONGEST:
                yield FieldProblem(f"items.{i}.{name}", f"At most {_LONGEST} letters.")
    for name in ("complaint", "fuel_available", "firmware", "came_with"):
        if len(getattr(entry, name)) > 4000:
            yield FieldProblem(name, "At most 4000 letters.")
    for key in entry.configured_inputs:
        if key not in CONFIGURABLE_INPUTS:
            yield FieldProblem("configured_inputs", f"There is no input called '{key[:30]}'.")


@dataclass(frozen=True)
class IntakeDifference:
    """Something that is not as claimed, or that nobody looked at.

    Attributes
    ----------
    key : str
        Of the item.
    looked_at : bool
    station : str
        Where it matters.
    sentence : str
    """

    key: str
    looked_at: bool
    station: str
    sentence: str


def intake_differences(entry: IntakeEntry) -> tuple[IntakeDifference, ...]:
    """Return what differs from the claim, and then what was claimed and not looked at."""
    differing, unseen = [], []
    for item in entry.items:
        title, station = INTAKE_ITEMS[item.key]
        if item.fitted.strip() and item.differs:
            differing.append(
                IntakeDifference(
                    item.key, True, station,
                    f"{title}: {item.fitted.strip()} is fitted"
                    + (f", {item.claimed.strip()} was claimed." if item.claimed.strip() else "."),
                )
            )  # fmt: skip
        elif item.claimed.strip() and not item.fitted.strip():
            unseen.append(
                IntakeDifference(
                    item.key,
                    False,
                    station,
                    f"{title}: {item.claimed.strip()} is claimed; nobody looked.",
                )
            )
    return (*differing, *unseen)
