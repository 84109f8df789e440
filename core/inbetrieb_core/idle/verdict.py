"""One verdict: the warm idle is true. Nothing in the cold tables means anything before it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from .air import IdleAir
from .closing import ReturnTest
from .hunting import Hunting
from .loads import LoadResult
from .stop import StopAdvice
from .sweep import Sweep

State = Literal["good", "attention", "stop", "missing", "stale"]


@dataclass(frozen=True)
class Point:
    """One condition of a true warm idle.

    Attributes
    ----------
    key, title : str
    state : {"good", "attention", "stop", "missing", "stale"}
        Missing where nothing was read yet, stale where something it stands on changed since.
    sentence : str
    needed : bool
        Whether the ladder waits for it.
    """

    key: str
    title: str
    state: State
    sentence: str
    needed: bool


@dataclass(frozen=True)
class WarmIdle:
    """Whether the warm idle is true.

    Attributes
    ----------
    is_true : bool
    is_refused : bool
        Whether something was read that speaks against it, rather than only missing.
    sentence : str
    points : tuple of Point
    """

    is_true: bool
    is_refused: bool
    sentence: str
    points: tuple[Point, ...]


@dataclass(frozen=True)
class IdleFacts:
    """What was read of the warm idle, the newest of each; None where nothing was.

    Attributes
    ----------
    stop, closing, sweep, air, hunting
        As judged.
    loads : tuple of LoadResult
    stale : frozenset of str
        Keys of what was read before something changed that it stands on.
    """

    stop: StopAdvice | None = None
    closing: ReturnTest | None = None
    sweep: Sweep | None = None
    air: IdleAir | None = None
    hunting: Hunting | None = None
    loads: tuple[LoadResult, ...] = ()
    stale: frozenset[str] = frozenset()


def warm_idle(facts: IdleFacts, *, has_valve: bool = True) -> WarmIdle:
    """Return the verdict on the warm idle with each of its conditions.

    Parameters
    ----------
    facts : IdleFacts
        The newest of each.
    has_valve : bool
        Whether there is an idle valve at all.
    """
    points = tuple(_points(facts, has_valve))
    against = [p for p in points if p.needed and p.state in ("stop", "stale")]
    missing = [p for p in points if p.needed and p.state == "missing"]
    if against:
        first = against[0]
        return WarmIdle(False, True, f"{first.title}: {first.sentence}", points)
    if missing:
        named = ", ".join(p.title.lower() for p in missing)
        return WarmIdle(False, False, f"Still to be read on the warm engine: {named}.", points)
    return WarmIdle(True, False, "The warm idle is true.", points)


#: What each condition is called, and what to do while nothing was read of it.
_CONDITIONS: dict[str, tuple[str, str]] = {
    "stop": ("Throttle stop", "Read the warm valve and turn the stop until it sits well."),
    "return": (
        "Return of the throttle",
        "Open and let go a few times, and read where it comes to.",
    ),
    "sweep": ("Valve sweep", "Drive the valve through its range and bring the log."),
    "hunting": ("Steady idle", "Let it idle for half a minute and bring the log."),
}


def _points(facts: IdleFacts, has_valve: bool) -> Iterator[Point]:
    stop, closing, sweep, hunting, air = (
        facts.stop,
        facts.closing,
        facts.sweep,
        facts.hunting,
        facts.air,
    )
    states: dict[str, tuple[State, str] | None] = {
        "stop": None if stop is None else ("good" if stop.is_true else "stop", stop.sentences[0]),
        "return": None if closing is None else (_of_return(closing), closing.sentences[0]),
        "sweep": None if sweep is None else (_of_sweep(sweep), sweep.sentences[0]),
        "hunting": None if hunting is None else (_of_hunting(hunting), hunting.sentences[0]),
    }
    for key, read in states.items():
        if not has_valve and key in ("stop", "sweep"):
            continue
        title, to_do = _CONDITIONS[key]
        # A sweep may wait, but a valve that works the wrong way round may not.
        needed = key != "sweep" or (read is not None and read[0] == "stop")
        yield _point(facts, key, title, *(read or ("missing", to_do)), needed=needed)
    if air is not None:
        yield _point(facts, "air", "Unmetered air", _of_air(air), air.sentences[-1])
    for load in facts.loads:
        key = f"load-{load.load}"
        yield _point(facts, key, "Load", load.verdict, load.sentence, needed=load.stalled)


def _of_return(closing: ReturnTest) -> State:
    return "missing" if closing.verdict == "untold" else closing.verdict


def _of_sweep(sweep: Sweep) -> State:
    if sweep.inverted:
        return "stop"
    return "good" if sweep.told else "attention"


def _of_hunting(hunting: Hunting) -> State:
    if hunting.hunting:
        return "stop"
    return "good" if hunting.cause == "none" else "attention"


def _of_air(air: IdleAir) -> State:
    if air.leaks:
        return "stop"
    return "attention" if air.known_gps is None else "good"


def _point(
    facts: IdleFacts, key: str, title: str, state: State, sentence: str, *, needed: bool = True
) -> Point:
    if key in facts.stale and state != "missing":
        again = f"Something it stands on was changed since: read it again. ({sentence})"
        return Point(key, title, "stale", again, needed)
    return Point(key, title, state, sentence, needed)
