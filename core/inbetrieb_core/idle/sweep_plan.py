"""How the valve is stepped through its range."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..bounds import out_of_bounds
from ..errors import FieldProblem

_LONGEST_S = 1800.0


@dataclass(frozen=True)
class SweepPlan:
    """Steps of a sweep.

    Attributes
    ----------
    low_pct, high_pct, step_pct : float
        Range and height of its steps. [%]
    dwell_s : float
        On each. [s]
    """

    low_pct: float = 0.0
    high_pct: float = 100.0
    step_pct: float = 5.0
    dwell_s: float = 5.0

    def problems(self) -> list[FieldProblem]:
        """Return what nobody can drive, one sentence each."""
        found = [
            problem
            for field, value, lower, upper, unit, title in (
                ("low_pct", self.low_pct, 0.0, 90.0, "%", "The lowest duty"),
                ("high_pct", self.high_pct, 10.0, 100.0, "%", "The highest duty"),
                ("step_pct", self.step_pct, 1.0, 20.0, "%", "A step"),
                ("dwell_s", self.dwell_s, 1.0, 60.0, "s", "The time on a step"),
            )
            if (problem := out_of_bounds(field, value, lower, upper, unit, title)) is not None
        ]
        if found:
            return found
        if self.high_pct - self.low_pct < 2.0 * self.step_pct:
            return [FieldProblem("high_pct", "A sweep has at least two steps.")]
        if self.dwell_s * len(self.places(self.low_pct)) > _LONGEST_S:
            return [FieldProblem("dwell_s", "That takes over half an hour: take larger steps.")]
        return []

    def places(self, begin_pct: float) -> tuple[float, ...]:
        """Return the duties in order, from where it idles up, down, and back again. [% → %]"""
        up = np.arange(self.low_pct, self.high_pct + 1e-9, self.step_pct)
        # Nobody jumps to an end.
        places = [begin_pct, *up[up > begin_pct], *up[::-1][1:], *up[1:][up[1:] <= begin_pct]]
        return tuple(float(place) for place in places)
