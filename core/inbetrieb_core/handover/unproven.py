"""What is not proven, each with what would prove it: read off the facts, never typed, never coloured."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from ..fuelling import COLD_BELOW_C
from ..sentences import celsius
from .closing import CLOSING
from .facts import JobFacts

#: Starts below this chance are not counted on; a map is done from this share on. [–]
LIKELY, _MAP_DONE = 0.8, 0.8
#: Cells assumed beyond this share are said. [–]
_ASSUMED = 0.05


@dataclass(frozen=True)
class Unproven:
    """Something that is not proven.

    Attributes
    ----------
    what : str
        In a sentence.
    proof : str
        What would prove it.
    serious : bool
        Whether the car should not be handed over without a word about it.
    """

    what: str
    proof: str
    serious: bool = False


def unproven(facts: JobFacts) -> tuple[Unproven, ...]:
    """Return everything that is not proven, the serious first."""
    found = [
        *_fallen(facts), *_starts(facts), *_gates(facts), *_idle(facts), *_map(facts), *_full_load(facts), *_tables(facts),
        *_elsewhere(facts), *_closing(facts),
    ]  # fmt: skip
    return tuple(sorted(found, key=lambda one: not one.serious))


def _fallen(facts: JobFacts) -> Iterator[Unproven]:
    for one in facts.reopening.fallen if facts.reopening else ():
        if not one.again:
            yield Unproven(f"{one.what}: fell with {one.because}.", one.proof, True)


def _starts(facts: JobFacts) -> Iterator[Unproven]:
    if not facts.starts:
        yield Unproven(
            "No start was ever recorded.", "Record a start at each check temperature.", True
        )
    for chance in facts.chances:
        if chance.coverage == "proven":
            continue
        if chance.coverage == "likely":
            yield Unproven(f"A start at {celsius(chance.coolant_c)} is likely ({100 * chance.good:.0f} %), not proven.", f"Two good cold starts near {celsius(chance.coolant_c)}.")  # fmt: skip
        else:
            seen = "was never seen" if chance.coverage == "extrapolated" else "is open"
            yield Unproven(f"A start at {celsius(chance.coolant_c)} {seen}: good with {100 * chance.good:.0f} %.", f"Cold starts near {celsius(chance.coolant_c)} until two in a row are good.", chance.good < LIKELY)  # fmt: skip
    if facts.starts and not facts.starts[-1].good:
        yield Unproven(f"The last start, number {facts.starts[-1].number}, was not good: {facts.starts[-1].verdict}.", "A good start on the tables in force.", True)  # fmt: skip


def _gates(facts: JobFacts) -> Iterator[Unproven]:
    for gate in facts.gates:
        if not gate.is_open:
            yield Unproven(
                f"{gate.title}: {gate.sentence}",
                "Do what its station asks for.",
                True,
            )
    for one in facts.decisions:
        yield Unproven(f"{one.where}: passed by a written reason – {one.reason}", "What the gate asks for, instead of the reason.")  # fmt: skip
    for one in facts.skipped:
        yield Unproven(f"Left out on the first start: {one.what} – {one.reason}", "Do that step.")


def _idle(facts: JobFacts) -> Iterator[Unproven]:
    if not facts.is_idle_true:
        yield Unproven(facts.idle or "The warm idle was not looked at.", "Stop, return, sweep and a steady idle, read at station 8.")  # fmt: skip


def _map(facts: JobFacts) -> Iterator[Unproven]:
    if not facts.passes:
        yield Unproven("The fuel map was never corrected from a drive: it is as generated.", "A warm drive through the loads that are used, solved at station 11.", True)  # fmt: skip
    elif facts.map_done is not None and facts.map_done < _MAP_DONE:
        yield Unproven(f"Of the cells that were driven {100 * facts.map_done:.0f} % are within ±3 % with their band.", "Another drive and pass.")  # fmt: skip
    if not facts.has_transients:
        yield Unproven("Transients were not looked at: a quick pedal may stumble.", "Steps of the pedal at held speeds, read at station 11.")  # fmt: skip
    if not facts.cold_driven:
        yield Unproven(f"Driving below {celsius(COLD_BELOW_C)} after the start was not looked at apart from the starts.", "A drive off cold, logged until warm, and a pass over the map.")  # fmt: skip


def _full_load(facts: JobFacts) -> Iterator[Unproven]:
    if not facts.pulls:
        yield Unproven(
            "Full load was never measured.", "Pulls at station 12, limits first.", facts.is_boosted
        )
    elif facts.pulls[-1].stop:
        yield Unproven(f"The last pull, number {facts.pulls[-1].number}, says stop: {facts.pulls[-1].stop}", "Mend it and pull again.", True)  # fmt: skip


def _tables(facts: JobFacts) -> Iterator[Unproven]:
    total = sum(sum(t.cells.values()) for t in facts.tables)
    assumed = sum(t.cells.get("assumed", 0) for t in facts.tables)
    if total and assumed / total > _ASSUMED:
        yield Unproven(f"{assumed} of {total} cells are assumed, not measured.", "They are listed in the paper for the next calibrator; measure those that are used.")  # fmt: skip
    if facts.in_car is None:
        yield Unproven("Nobody stamped which revision is in the car.", "Write the newest into the controller and stamp it.")  # fmt: skip
    elif facts.in_car != facts.revision:
        yield Unproven(f"The car holds revision {facts.in_car}, the newest is {facts.revision}.", "Write the newest into the controller and stamp it.", True)  # fmt: skip


def _elsewhere(facts: JobFacts) -> Iterator[Unproven]:
    yield Unproven(
        f"Another altitude than {facts.altitude_m:.0f} m was not tried.",
        "A drive and a cold start up there.",
    )
    yield Unproven(
        f"Another fuel than {facts.fuel} was not tried.", "A tank of it, a cold start, a drive."
    )


def _closing(facts: JobFacts) -> Iterator[Unproven]:
    done = {one.key for one in facts.closing}
    for check in CLOSING:
        if check.key not in done:
            yield Unproven(f"Not known: {check.open_without}.", f"{check.title}: {check.text}")
