"""The order of work: stations, and what each does."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Station:
    """One step of the order.

    Attributes
    ----------
    number : int
        Place in the order.
    key, title : str
        Identifier and wording.
    does : str
        What the sheet does, in one line.
    """

    number: int
    key: str
    title: str
    does: str


STATIONS: tuple[Station, ...] = (
    Station(
        1, "intake", "Intake", "Records what is really fitted and reviews an inherited calibration."
    ),
    Station(
        2,
        "wiring",
        "Wiring",
        "Plans every function on a pin of the controller and prints the list.",
    ),
    Station(
        3,
        "sensors",
        "Sensors",
        "Turns data or points into transfer curves and checks them at key-on.",
    ),
    Station(
        4,
        "injectors",
        "Injectors",
        "Computes flow, dead time and duty, and the margin of the supply.",
    ),
    Station(5, "trigger", "Trigger", "Decodes the wheel, fits the timing light, sets the dwell."),
    Station(
        6,
        "base-maps",
        "Base maps",
        "Generates or carries over the maps and edits them on the bench.",
    ),
    Station(
        7,
        "first-start",
        "First start",
        "Runs the first start from a tablet: gates, timers, readings, stops.",
    ),
    Station(8, "hot-idle", "Hot idle", "Sets stop, valve, spark and air of the warm idle."),
    Station(9, "ladder", "Ladder", "Start tables over temperature, with their evidence."),
    Station(10, "trial", "Trial", "One start: trace, verdict and the one number to change."),
    Station(
        11,
        "fuel-map",
        "Fuel map",
        "Turns drive logs into cell corrections and finds faults by their fingerprint.",
    ),
    Station(12, "pulls", "Pulls", "Compares full-load pulls and climbs the boost staircase."),
    Station(
        13, "handover", "Handover", "Writes the record: what was done, and what is not proven."
    ),
)
