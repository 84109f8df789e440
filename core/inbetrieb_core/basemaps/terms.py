"""A generated value as the terms it is the sum of, so that the reason and the value are one thing."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass


@dataclass(frozen=True)
class Term:
    """One contribution to a value.

    Attributes
    ----------
    name : str
        What it stands for.
    amount : float
        Its size, signed; the terms of a value add up to it. [unit of the value]
    because : str
        The rule with this engine's numbers.
    """

    name: str
    amount: float
    because: str


def total(terms: Sequence[Term]) -> float:
    """Return the sum of terms. [unit of the value]"""
    return sum(term.amount for term in terms)
