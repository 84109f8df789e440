"""Gates: what must be trusted before the engine is started on it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal


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
    key : {"sensors", "injectors"}
        Also the station at which it is opened.
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
    """

    key: Literal["sensors", "injectors"]
    is_open: bool
    is_refused: bool
    sentence: str
    closed_until: str = ""
    kind: Literal["enter", "check"] = "check"


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
        kind: Literal["enter", "check"] = "check" if entered else "enter"
        return Gate("sensors", False, False, sentence, _UNTIL_CHECK, kind)
    if check.overridden:
        return Gate("sensors", True, False, "Opened by a written reason.")
    failed = check.state == "fail"
    if check.stale:
        sentence = "A sensor was changed after the key-on check: check again."
        return Gate("sensors", False, failed, sentence, _UNTIL_CHECK)
    if failed:
        return Gate(
            "sensors", False, True, f"Mend, then check again. {check.sentence}", _UNTIL_PASS
        )
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
