"""Boost over the share of ethanol: every share has its own staircase; one that was not pulled gets no more than is safe.

Ethanol stands more pressure before it knocks than petrol (common practice, no source). So more ethanol than
was pulled gets what was pulled, and less gets the wastegate's own pressure until it was pulled itself.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..provenance import Provenance
from ..quantities import FloatArray
from ..tables import Axis, Table
from .boost import BoostTables, Staircase, boost_tables

#: Pulls whose shares lie within so much of each other were driven on the same fuel. [%]
SAME_SHARE_PCT = 10.0
#: Where a value of a staircase comes from.
STAIRCASE = "boost staircase"
_USUAL_SHARES = (0.0, 85.0)


@dataclass(frozen=True)
class SharedStep:
    """The share of ethanol that a pull of the staircase was driven on. [%]

    Attributes
    ----------
    number : int
        Of the pull.
    share_pct : float
        As logged, else as the tank was entered. [%]
    """

    number: int
    share_pct: float


def of_one_fuel(steps: Sequence[SharedStep]) -> tuple[int, ...]:
    """Return the pulls that were driven on the fuel of the newest one.

    Parameters
    ----------
    steps : sequence of SharedStep
        Oldest first.
    """
    if not steps:
        return ()
    newest = steps[-1].share_pct
    return tuple(step.number for step in steps if abs(step.share_pct - newest) <= SAME_SHARE_PCT)


def resting(stairs: Staircase, points: Sequence[float]) -> BoostTables:
    """Return what the least duty that was pulled makes over speed: the wastegate's own pressure.

    Parameters
    ----------
    stairs : Staircase
        With two duties at least.
    points : sequence of float
        Speeds of the tables. [1/min]
    """
    least = min(stairs.most_kpa)
    found = boost_tables(stairs, least, points)
    duty = min(stairs.duties)
    return replace(found, duty_pct=tuple(duty for _ in points))


def over_share(
    held: Table | None,
    key: str,
    pulled: BoostTables,
    at_rest: BoostTables,
    share_pct: float,
) -> Table:
    """Return a boost table with what was pulled at one share of ethanol, and what is safe at the others.

    Parameters
    ----------
    held : Table or None
        In force; columns that a staircase measured at another share stay.
    key : {"boost_target", "boost_duty"}
    pulled, at_rest : BoostTables
        Of the staircase, and of its least duty.
    share_pct : float
        That was pulled. [%]
    """
    shares = _USUAL_SHARES if held is None else held.axes[1].points
    # The column nearest to the fuel in the tank is the one that the controller reads most of.
    column = int(np.argmin(np.abs(np.array(shares) - share_pct)))
    same_axis = held is not None and tuple(held.axes[0].points) == pulled.rpm
    grid = np.empty((len(pulled.rpm), len(shares)))
    marks = np.empty(grid.shape, dtype=object)
    for number, share in enumerate(shares):
        if held is not None and same_axis and number != column and _was_pulled(held, number):
            grid[:, number], marks[:, number] = held.values[:, number], held.provenance[:, number]
            continue
        found = pulled if number >= column else at_rest
        grid[:, number] = _values(found, key)
        for row, inside in enumerate(pulled.measured):
            marks[row, number] = _mark(number - column, share, share_pct, inside, pulled)
    return Table(
        key, (Axis("rpm", "rpm", pulled.rpm), Axis("ethanol_pct", "%", shares)), grid, marks
    )


def _values(found: BoostTables, key: str) -> FloatArray:
    return np.array(found.target_kpa if key == "boost_target" else found.duty_pct)


def _was_pulled(held: Table, column: int) -> bool:
    return any(mark.source == STAIRCASE for mark in held.provenance[:, column])


def _mark(
    side: int, share: float, share_pct: float, inside: bool, pulled: BoostTables
) -> Provenance:
    if side == 0:
        return Provenance("measured" if inside else "calculated", pulled.sentence, STAIRCASE)
    if side > 0:
        return Provenance(
            "assumed",
            f"More ethanol than the {share_pct:.0f} % that was pulled: no more boost than there until it is pulled.",
        )
    return Provenance(
        "assumed",
        f"Less ethanol than the {share_pct:.0f} % that was pulled: the wastegate's own pressure until {share:.0f} % is pulled.",
    )
