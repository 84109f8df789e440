"""What to do next on a job: always exactly one sentence, and the gate that is open."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from typing import Literal

from ..sentences import celsius
from ..tables import DEFINITIONS
from .gates import Gate

#: A temperature counts as proven by a good start this near. [K]
_PROVEN_WITHIN_K = 8.0
_CHECK_C = (-10.0, 0.0, 10.0, 20.0, 40.0, 60.0, 85.0)


@dataclass(frozen=True)
class TrialFact:
    """A finished trial, as far as the order of work depends on it.

    Attributes
    ----------
    number : int
        Number within the job.
    coolant_c : float
        Coolant temperature at the start. [°C]
    good : bool
        Whether it was within acceptance.
    advice_table : str or None
        Table of its advice; None for a check or none.
    advice_reason : str
        Reason of its advice; empty without one.
    decision : {"accepted", "declined", ""}
        What was decided on it.
    revision : int
        Revision that was in the controller.
    """

    number: int
    coolant_c: float
    good: bool
    advice_table: str | None
    advice_reason: str
    decision: Literal["accepted", "declined", ""]
    revision: int


@dataclass(frozen=True)
class CheckTemperature:
    """A temperature at which starts have to be good, and whether one was.

    Attributes
    ----------
    coolant_c : float
        [°C]
    proven : bool
    """

    coolant_c: float
    proven: bool


@dataclass(frozen=True)
class NextAction:
    """The next action of a job.

    Attributes
    ----------
    sentence : str
        What to do.
    kind : {"enter", "check", "record", "decide", "mend", "repeat", "prove"}
        What sort of action it is.
    station : str
        Station at which it is done.
    gate : str
        What is closed until then; empty if nothing is.
    trial : int or None
        Number of the trial it is about.
    part : str
        Sheet of the station; empty for its first.
    """

    sentence: str
    kind: Literal["enter", "check", "record", "decide", "mend", "repeat", "prove"]
    station: str
    gate: str
    trial: int | None = None
    part: str = ""


def next_action(
    trials: Sequence[TrialFact],
    revision: int,
    gates: Sequence[Gate] = (),
    begun: Collection[str] = (),
) -> NextAction:
    """Return the one next action of a job.

    Parameters
    ----------
    trials : sequence of TrialFact
        All trials, oldest first.
    revision : int
        Newest revision of the calibration.
    gates : sequence of Gate
        In the order of the stations. A gate that is only not yet opened comes before the first
        start; one closed by evidence comes before everything.
    begun : collection of str
        Keys of the stations after the ladder of which there are records.
    """
    # What is known to be wrong comes before what is only still to be done.
    refused = [gate for gate in gates if not gate.is_open and gate.is_refused]
    waiting = [gate for gate in gates if not gate.is_open and not trials]
    if refused or waiting:
        gate = (refused or waiting)[0]
        return NextAction(gate.sentence, gate.kind, gate.key, gate.closed_until, part=gate.part)
    if not trials:
        return NextAction(
            "Record the first start: let the engine stand overnight, then crank it and bring its log.",
            "record",
            "trial",
            "No start is proven yet.",
        )
    last = trials[-1]
    place = f"trial {last.number} ({celsius(last.coolant_c)})"
    # What a good start measured by the way is offered on its sheet; nothing waits for it.
    if last.advice_reason and not last.decision and not last.good:
        if last.advice_table is None:
            return NextAction(
                f"Mend first what {place} found, then repeat the start unchanged.",
                "mend",
                "trial",
                last.advice_reason,
                last.number,
            )
        title = DEFINITIONS[last.advice_table].title.lower()
        return NextAction(
            f"Decide on the advice of {place}: {title}.",
            "decide",
            "trial",
            "This temperature is not proven.",
            last.number,
        )
    if not last.good:
        if revision > last.revision:
            return NextAction(
                f"Bring revision {revision} into the controller, let the engine soak, and repeat "
                f"the start at about {celsius(last.coolant_c)}.",
                "repeat",
                "trial",
                "This temperature is not proven.",
                last.number,
            )
        return NextAction(
            f"Repeat the start at about {celsius(last.coolant_c)}, or change a cell on the ladder first.",
            "repeat",
            "trial",
            "This temperature is not proven.",
            last.number,
        )
    open_c = [check.coolant_c for check in checks_of(trials) if not check.proven]
    if not open_c:
        return _after_the_ladder(begun)
    nearest = min(open_c, key=lambda c: abs(c - last.coolant_c))
    return NextAction(
        f"It starts well at {celsius(last.coolant_c)}. Next, prove {celsius(nearest)}.",
        "prove",
        "trial",
        f"{len(open_c)} of {len(_CHECK_C)} check temperatures are not proven.",
    )


#: What comes once every check temperature is proven: station, what to do, what is not told until then.
_AFTER_THE_LADDER = (
    (
        "fuel-map",
        "Every check temperature has a good start. Next, log a drive of steady holds for the fuel map, only "
        "where that is lawful and safe.",
        "The fuel map is proven at idle alone.",
    ),
    (
        "pulls",
        "The fuel map was driven. Next, full-load pulls: on a brake, or where it is lawful and safe.",
        "Nothing is known of full load.",
    ),
    (
        "handover",
        "Next, tick the closing checks and write the record.",
        "The job is not handed over.",
    ),
)


def _after_the_ladder(begun: Collection[str]) -> NextAction:
    for station, sentence, gate in _AFTER_THE_LADDER:
        if station not in begun:
            return NextAction(sentence, "enter", station, gate)
    done = "The order of work is done; what is not proven stands in the record."
    return NextAction(done, "enter", "handover", "")


def checks_of(trials: Sequence[TrialFact]) -> tuple[CheckTemperature, ...]:
    """Return every temperature that is asked for, the coldest first, and whether it is proven."""
    return tuple(CheckTemperature(c, _proven(c, trials)) for c in _CHECK_C)


def _proven(coolant_c: float, trials: Sequence[TrialFact]) -> bool:
    return any(t.good and abs(t.coolant_c - coolant_c) <= _PROVEN_WITHIN_K for t in trials)
