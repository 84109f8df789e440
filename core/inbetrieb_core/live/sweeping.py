"""A sweep of the idle valve driven over the live link, step by step."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

from ..errors import InputRefused, field_refused
from ..idle import SweepPlan

State = Literal["running", "done", "stalled", "moved"]
#: Below this for so long it has stalled. [1/min, s]
_STALLED_RPM, _STALLED_S = 100.0, 0.5
#: A sweep begins on an engine that runs at least this fast. [1/min]
_RUNNING_RPM = 300.0


@dataclass
class SweepRun:
    """A sweep under way.

    Parameters
    ----------
    plan : SweepPlan
        Its steps.
    begin_s : float
        On the session's clock. [s]
    begin_pct : float
        Duty at which it idles. [%]
    rpm : float
        Speed as it begins. [1/min]

    Raises
    ------
    InputRefused
        If the engine does not run, or the plan cannot be.
    """

    plan: SweepPlan
    begin_s: float
    begin_pct: float
    rpm: float
    state: State = "running"
    end_s: float | None = None
    _low_since_s: float | None = field(default=None, repr=False)

    def __post_init__(self) -> None:
        problems = self.plan.problems()
        if problems:
            raise InputRefused(problems)
        if not self.rpm >= _RUNNING_RPM:
            raise field_refused(
                "sweep", "Start the engine first: a sweep is of an engine that idles."
            )
        self._places = self.plan.places(self.begin_pct)

    @property
    def is_running(self) -> bool:
        """Whether it is under way."""
        return self.state == "running"

    def duty_pct(self, time_s: float, rpm: float) -> float | None:
        """Return the duty to hold at a time, None once it has ended. [s, 1/min → %]"""
        if not self.is_running:
            return None
        if rpm >= _STALLED_RPM:
            self._low_since_s = None
        elif self._low_since_s is None:
            self._low_since_s = time_s
        elif time_s - self._low_since_s > _STALLED_S:
            self.state, self.end_s = "stalled", time_s
            return None
        step = int((time_s - self.begin_s) // self.plan.dwell_s)
        if step >= len(self._places):
            self.state, self.end_s = "done", time_s
            return None
        return self._places[max(0, step)]

    def moved(self, time_s: float) -> None:
        """End it, because somebody moved the valve by hand. [s]"""
        self.state, self.end_s = "moved", time_s

    def share(self, time_s: float) -> float:
        """Return how much of it is done at a time, 0 to 1. [s → –]"""
        whole = self.plan.dwell_s * len(self._places)
        until_s = time_s if self.end_s is None else self.end_s
        return min(1.0, max(0.0, (until_s - self.begin_s) / whole))

    @property
    def sentence(self) -> str:
        """What became of it."""
        if self.state == "stalled":
            return "It stalled: the sweep ends here, and the steps up to it count."
        if self.state == "moved":
            return (
                "The valve was moved by hand: the sweep ends there, and the steps up to it count."
            )
        if self.state == "done":
            return "The sweep is done; the valve is the controller's again."
        return "The valve is stepped through its range."
