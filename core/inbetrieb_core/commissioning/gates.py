"""Gates: what must be trusted before the engine is started on it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from ..idle import WarmIdle
from .output_tests import OutputFact, missing_tests

GateKey = Literal["intake", "wiring", "sensors", "injectors", "trigger", "base-maps", "hot-idle"]


@dataclass(frozen=True)
class KeyOnFact:
    """The newest key-on check, as far as the gate depends on it.

    Attributes
    ----------
    state : {"pass", "suspicious", "fail"}
    sentence : str
        Its result.
    overridden : bool
        Whether somebody wrote down why the work goes on all the same.
    stale : bool
        Whether a sensor was changed after it.
    """

    state: Literal["pass", "suspicious", "fail"]
    sentence: str
    overridden: bool
    stale: bool


@dataclass(frozen=True)
class Gate:
    """One gate before the first start.

    Attributes
    ----------
    key : {"intake", "wiring", "sensors", "injectors", "trigger", "base-maps", "hot-idle"}
        The station at which it is opened.
    is_open : bool
    is_refused : bool
        Whether it is closed by evidence, not only by work that is still to be done: then no
        advice on a table is accepted either.
    sentence : str
        What to do, or why it is open.
    closed_until : str
        What it waits for; empty if it is open.
    kind : {"enter", "check"}
        What is to be done at its station.
    part : str
        Sheet of the station; empty for its first.
    """

    key: GateKey
    is_open: bool
    is_refused: bool
    sentence: str
    closed_until: str = ""
    kind: Literal["enter", "check"] = "check"
    part: str = ""


_UNTIL_CHECK = "The first start waits for a key-on check."
_UNTIL_PASS = "The first start waits until the key-on check passes, or a reason is written down."


def sensor_gate(entered: int, check: KeyOnFact | None) -> Gate:
    """Return the gate of the sensors.

    Parameters
    ----------
    entered : int
        How many sensors are entered.
    check : KeyOnFact or None
        The newest key-on check.
    """
    if check is None:
        sentence = (
            "Check the sensors with the key on and the engine at rest."
            if entered
            else "Enter the sensors, then check them with the key on and the engine at rest."
        )
        if not entered:
            return Gate("sensors", False, False, sentence, _UNTIL_CHECK, "enter")
        return Gate("sensors", False, False, sentence, _UNTIL_CHECK, "check", "key-on")
    if check.overridden:
        return Gate("sensors", True, False, "Opened by a written reason.")
    failed = check.state == "fail"
    if check.stale:
        sentence = "A sensor was changed after the key-on check: check again."
        return Gate("sensors", False, failed, sentence, _UNTIL_CHECK, "check", "key-on")
    if failed:
        return Gate(
            "sensors", False, True, f"Mend, then check again. {check.sentence}", _UNTIL_PASS,
            "check", "key-on",
        )  # fmt: skip
    return Gate("sensors", True, False, check.sentence)


def injector_gate(level: str, sentences: Sequence[str], override_reason: str) -> Gate:
    """Return the gate of the injectors.

    Parameters
    ----------
    level : {"fits", "attention", "implausible"}
        Judgement of the injectors in this engine.
    sentences : sequence of str
        Why.
    override_reason : str
        Why implausible ones are right all the same; empty if nothing was written.
    """
    if level == "implausible" and not override_reason.strip():
        return Gate(
            "injectors",
            False,
            True,
            f"Look at the injectors first. {' '.join(sentences)}",
            "The first start waits until injectors and engine fit, or a reason is written down.",
        )
    return Gate("injectors", True, False, sentences[0] if sentences else "They fit.")


def wiring_gate(
    planned: bool, signed: bool, changed: int, reason: str, *, whole: bool = True
) -> Gate:
    """Return the gate of the wiring.

    Parameters
    ----------
    planned, signed : bool
        Whether there is a plan, and whether it was signed off.
    changed : int
        Lines that changed after that. [–]
    reason : str
        Why no plan is needed; empty if nothing was written.
    whole : bool
        Whether every function of the plan has a pin.
    """
    until = "The first start waits for a wiring plan that is signed off."
    if reason:
        return Gate("wiring", True, False, f"Opened by a written reason: {reason}")
    if not planned:
        sentence = (
            "Plan the wiring: choose the controller and let it place every function. If the car is "
            "wired already, write that down instead."
        )
        return Gate("wiring", False, False, sentence, until, "enter")
    if not whole:
        sentence = (
            "Not every function has a pin: change what is fitted, or take another controller."
        )
        return Gate("wiring", False, False, sentence, until, "enter")
    if not signed:
        sentence = "Check the wires at the bench, then sign the wiring list off."
        return Gate("wiring", False, False, sentence, until, "check", "list")
    if changed:
        sentence = f"{changed} line(s) changed after the sign-off: check them, then sign again."
        return Gate("wiring", False, False, sentence, until, "check", "list")
    return Gate("wiring", True, False, "The wiring list is signed off.")


@dataclass(frozen=True)
class CaptureFact:
    """The newest edge capture, as far as the gate depends on it.

    Attributes
    ----------
    agrees : bool
        Whether its pattern is the one entered.
    sentence : str
    stale : bool
        Whether the trigger was changed after it.
    """

    agrees: bool
    sentence: str
    stale: bool


def trigger_gate(entered: bool, capture: CaptureFact | None, timing_stop: str, reason: str) -> Gate:
    """Return the gate of the trigger.

    Parameters
    ----------
    entered : bool
        Whether a wheel is entered.
    capture : CaptureFact or None
        The newest one.
    timing_stop : str
        Sentence of the newest timing-light reading if it is a stop; else empty.
    reason : str
        Why the work goes on without a good capture; empty if nothing was written.
    """
    if timing_stop:
        return Gate(
            "trigger", False, True, timing_stop,
            "Nothing goes on until the timing light was repeated and agrees.", "check", "timing",
        )  # fmt: skip
    if reason:
        return Gate("trigger", True, False, f"Opened by a written reason: {reason}")
    until = "The first start waits for a capture of crank and cam that agrees with the wheel."
    if not entered:
        sentence = "Enter the trigger wheel, then crank and capture its edges."
        return Gate("trigger", False, False, sentence, until, "enter")
    if capture is None or capture.stale:
        sentence = (
            "Crank with ignition and injection disabled and capture the edges of crank and cam."
            if capture is None
            else "The trigger was changed after the capture: crank and capture again."
        )
        return Gate("trigger", False, False, sentence, until, "check", "capture")
    if not capture.agrees:
        return Gate("trigger", False, True, capture.sentence, until, "check", "capture")
    return Gate("trigger", True, False, capture.sentence)


def output_gate(facts: Sequence[OutputFact], reason: str) -> Gate:
    """Return the gate of the outputs: every coil and injector must have answered.

    Parameters
    ----------
    facts : sequence of OutputFact
        One for each output.
    reason : str
        Why the work goes on without them; empty if nothing was written.
    """
    if reason:
        return Gate("trigger", True, False, f"Outputs opened by a written reason: {reason}")
    untried, failed = missing_tests(facts)
    until = "The first start waits until every coil and injector has answered."
    if failed:
        sentence = f"Mend, then try again: {', '.join(failed)}."
        return Gate("trigger", False, True, sentence, until, "check", "outputs")
    if untried:
        sentence = f"Try each output on its own: {len(untried)} of {len(facts)} are still to do."
        return Gate("trigger", False, False, sentence, until, "check", "outputs")
    return Gate("trigger", True, False, "Every coil and injector answered.")


def intake_gate(undecided: int | None, verdict: str) -> Gate:
    """Return the gate of the intake: an inherited calibration is decided on before it is used.

    Parameters
    ----------
    undecided : int or None
        Revision of an inherited calibration that nobody has decided on; None where there is none.
    verdict : str
        What its review says.
    """
    if undecided is None:
        return Gate("intake", True, False, "Nothing inherited waits for a decision.")
    return Gate(
        "intake", False, False,
        f"Look the inherited calibration over, then repair it or start afresh. {verdict}",
        "The first start waits for a decision on the inherited calibration.", "check", "review",
    )  # fmt: skip


def base_map_gate(stops: Sequence[str]) -> Gate:
    """Return the gate of the base maps.

    Parameters
    ----------
    stops : sequence of str
        Findings in the newest revision that say stop and were not accepted with a reason.
    """
    if not stops:
        return Gate("base-maps", True, False, "Nothing in the tables says stop.")
    more = f" {len(stops) - 1} more say stop." if len(stops) > 1 else ""
    return Gate(
        "base-maps", False, False, f"Mend it on the table bench, or accept it with a reason. {stops[0]}{more}",
        "The first start waits until no table says stop.", "check", "tables",
    )  # fmt: skip


def hot_idle_gate(verdict: WarmIdle | None, reason: str) -> Gate:
    """Return the gate of the warm idle: it closes on what was read, not on what is still to be read.

    Parameters
    ----------
    verdict : WarmIdle or None
        None where nothing was read yet.
    reason : str
        Why the ladder goes on all the same; empty if nothing was written.
    """
    if verdict is None:
        return Gate("hot-idle", True, False, "Read the warm idle before the first cold start.")
    if reason and not verdict.is_true:
        return Gate("hot-idle", True, False, f"Opened by a written reason: {reason}")
    if verdict.is_refused:
        return Gate(
            "hot-idle", False, True,
            f"Nothing in the cold tables means anything until the warm idle is true. {verdict.sentence}",
            "The ladder waits for a true warm idle, or for a written reason.",
        )  # fmt: skip
    return Gate("hot-idle", True, False, verdict.sentence)
