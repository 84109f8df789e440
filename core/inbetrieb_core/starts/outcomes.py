"""What can become of a start, and which of it means that the engine ran."""

from __future__ import annotations

from typing import Literal, get_args

Verdict = Literal[
    "no crank",
    "slow crank",
    "no sync",
    "no fire",
    "fired and died",
    "started and died",
    "started on the pedal",
    "started",
]
VERDICTS: tuple[Verdict, ...] = get_args(Verdict)
#: It ran, and runs on.
STARTED: tuple[Verdict, ...] = ("started", "started on the pedal")
#: It ran by itself, however long.
RAN: tuple[Verdict, ...] = (*STARTED, "started and died")
#: It burned, and then stood.
DIED: tuple[Verdict, ...] = ("started and died", "fired and died")
