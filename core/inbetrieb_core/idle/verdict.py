"""One verdict: the warm idle is true. Nothing in the cold tables means anything before it."""

from __future__ import annotations

from collections.abc import Sequence
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


def _points(facts: IdleFacts, has_valve: bool) -> Sequence[Point]:
    def point(key: str, title: str, state: State, sentence: str, *, needed: bool = True) -> Point:
        if key in facts.stale and state != "missing":
            return Point(
                key,
                title,
                "stale",
                f"Something it stands on was changed since: read it again. ({sentence})",
                needed,
            )
        return Point(key, title, state, sentence, needed)

    stop, closing, sweep, air, hunting = (
        facts.stop,
        facts.closing,
        facts.sweep,
        facts.air,
        facts.hunting,
    )
    found = []
    if has_valve:
        found.append(
            point("stop", "Throttle stop", "missing", "Read the warm valve and turn the stop until it sits well.")
            if stop is None
            else point("stop", "Throttle stop", "good" if stop.is_true else "stop", stop.sentences[0])
        )  # fmt: skip
    found.append(
        point("return", "Return of the throttle", "missing", "Open and let go a few times, and read where it comes to.")
        if closing is None
        else point("return", "Return of the throttle", "missing" if closing.verdict == "untold" else closing.verdict, closing.sentences[0])
    )  # fmt: skip
    if has_valve:
        found.append(
            point("sweep", "Valve sweep", "missing", "Drive the valve through its range and bring the log.", needed=False)
            if sweep is None
            else point("sweep", "Valve sweep", "good" if sweep.told and not sweep.inverted else "attention", sweep.sentences[0], needed=False)
        )  # fmt: skip
    found.append(
        point("hunting", "Steady idle", "missing", "Let it idle for half a minute and bring the log.")
        if hunting is None
        else point("hunting", "Steady idle", "stop" if hunting.hunting else "attention" if hunting.cause != "none" else "good", hunting.sentences[0])
    )  # fmt: skip
    if air is not None:
        found.append(
            point("air", "Unmetered air", "stop" if air.leaks else "good" if air.told or air.known_gps else "attention", " ".join(air.sentences[-1:]))
        )  # fmt: skip
    for load in facts.loads:
        found.append(
            point(f"load-{load.load}", "Load", load.verdict, load.sentence, needed=load.stalled)
        )
    return found
