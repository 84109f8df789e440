"""What a review finds, where, and how grave it is."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Literal

from ...engine import EngineSpec
from ..calibration import Calibration
from ..table import Index, Table

Severity = Literal["stop", "attention", "note"]
RANK: dict[Severity, int] = {"stop": 0, "attention": 1, "note": 2}


@dataclass(frozen=True)
class ReviewFinding:
    """Something noticed in a table.

    Attributes
    ----------
    rule : str
        Which rule noticed it; a key of :data:`.RULE_TITLES`.
    table : str
        Key of the table; empty where it is about no table.
    cells : tuple of index
        Where.
    severity : {"stop", "attention", "note"}
    sentence : str
        What it is and why it matters.
    size : float
        How large it is, in the table's unit; ranks findings of one severity.
    subject : str
        What it is about where that is no table.
    identifier : str
        The same for the same finding in the same cells, so that it can be accepted with a reason.
    """

    rule: str
    table: str
    cells: tuple[Index, ...]
    severity: Severity
    sentence: str
    size: float
    subject: str = ""
    identifier: str = field(init=False)

    def __post_init__(self) -> None:
        first = ".".join(map(str, self.cells[0])) if self.cells else ""
        object.__setattr__(
            self,
            "identifier",
            f"{self.rule}:{self.table or self.subject}:{first}:{len(self.cells)}",
        )


@dataclass(frozen=True)
class ReviewContext:
    """What is known besides the calibration.

    Attributes
    ----------
    spec : EngineSpec or None
        The engine; None where only the tables are known.
    expected : Calibration or None
        What the engine data suggest, on the same axes.
    configured_inputs : tuple of str
        Inputs that are switched on in the controller, as people call them.
    wired_inputs : tuple of str or None
        Those that are wired; None where that is not known.
    only : frozenset of str or None
        Tables to look at; all of them where None.
    """

    spec: EngineSpec | None = None
    expected: Calibration | None = None
    configured_inputs: tuple[str, ...] = ()
    wired_inputs: tuple[str, ...] | None = None
    only: frozenset[str] | None = None

    @property
    def barometric_kpa(self) -> float:
        """Outside pressure, that of the sea level where the engine is not known. [kPa]"""
        return 101.325 if self.spec is None else self.spec.barometric_kpa


def finding(
    rule: str, table: Table, cells: Sequence[Index], severity: Severity, what: str, size: float
) -> ReviewFinding:
    """Return a finding whose sentence names table and place.

    Parameters
    ----------
    rule, what : str
        Which rule, and the sentence about it.
    table : Table
    cells : sequence of index
        One at least.
    severity : {"stop", "attention", "note"}
    size : float
        In the table's unit. [unit of the table]
    """
    place = table.place(cells[0])
    where = f" {place}" if place else ""
    if len(cells) > 1:
        where += f" and {len(cells) - 1} more"
    return ReviewFinding(
        rule, table.key, tuple(tuple(map(int, c)) for c in cells), severity,
        f"{table.definition.title}{where}: {what}", float(size),
    )  # fmt: skip
