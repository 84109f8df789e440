"""What is checked before the keys are handed over."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class ClosingCheck:
    """A closing check: what to do, what to write down, and what stays open without it."""

    key: str
    title: str
    text: str
    open_without: str


#: In their order; common practice, no source.
CLOSING: tuple[ClosingCheck, ...] = (
    ClosingCheck("sensors", "Each sensor unplugged, one by one", "Warm idle: pull coolant, intake air, throttle and pressure sensor one after another; write down what the controller takes instead and whether it runs on.", "what happens when a sensor fails"),
    ClosingCheck("read_back", "Controller read back", "Read the tables out of the controller, compare them with the last revision, note firmware and checksum.", "whether the controller holds the last revision"),
    ClosingCheck("leaks", "Leaks, plugs, wiring", "After a hot drive: fuel, oil, coolant, exhaust joints, plugs, wires near heat and moving parts.", "whether anything leaks or chafes after heat"),
    ClosingCheck("spare", "What the driver is told", "Warning lamps, what to do when it will not start, flood-clear, fuel that may be used.", "whether the driver knows what to do"),
    ClosingCheck("service", "Next service", "When plugs, filters and oil are due, and what to look at after 500 km.", "when it is looked at next"),
)  # fmt: skip
