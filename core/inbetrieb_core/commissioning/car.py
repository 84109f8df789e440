"""Where a car stands when its job begins: what somebody else has done needs no proof from this job."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

CarState = Literal["bare", "wired", "runs", "starts_left"]
#: Gates that a written reason may open.
Opened = Literal["wiring", "trigger", "outputs"]


@dataclass(frozen=True)
class CarBegins:
    """One way in which a job begins.

    Attributes
    ----------
    key : {"bare", "wired", "runs", "starts_left"}
    title : str
        Wording of the choice.
    opened : tuple of {"wiring", "trigger", "outputs"}
        Gates that are taken as passed.
    reason : str
        What the record says of it; empty where nothing is opened.
    """

    key: CarState
    title: str
    opened: tuple[Opened, ...]
    reason: str


CAR_BEGINS: dict[CarState, CarBegins] = {
    entry.key: entry
    for entry in (
        CarBegins("bare", "Bare: loom, sensors and trigger are still to do", (), ""),
        CarBegins(
            "wired",
            "Wired: the loom is in and checked",
            ("wiring",),
            "The car came wired: its loom was not planned in this job, and was said to be checked.",
        ),
        CarBegins(
            "runs",
            "It runs: fires on all, timing seen",
            ("wiring", "trigger", "outputs"),
            "The car came running: loom, trigger and outputs were not checked in this job.",
        ),
        CarBegins(
            "starts_left",
            "Only cold starts are left: it runs well warm",
            ("wiring", "trigger", "outputs"),
            "The car came running well warm: loom, trigger and outputs were not checked in this job.",
        ),
    )
}
