"""One start as the rulebook sees it: figures, tables in force, and what was tried before."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

from ..charge import expected_start_value
from ..tables import Calibration, CellChange, move_by, rounded
from .acceptance import DIP_BELOW_TARGET_RPM, SETTLED_BAND_RPM, run_within_s
from .model import PastTry, StartFigures, StartSetting, Verdict
from .search import next_step

#: Tries at temperatures further apart than this teach little about each other. [K]
SAME_TEMPERATURE_K = 12.0
#: A table this far (in ln) from what engine data suggest is suspected first.
_SUSPICIOUS = 0.15
#: Largest correction taken from a measurement in one start.
MEASURED_LIMIT = 0.25
#: A settled mixture this far off explains what happened before it settled.
GROSS_NEED = 0.12


@dataclass(frozen=True)
class Case:
    """Verdict, figures and context of one start.

    Attributes
    ----------
    verdict, figures, setting, calibration : Verdict, StartFigures, StartSetting, Calibration
        Of this start.
    history : tuple of PastTry
        Earlier starts of the job, oldest first.
    evidence : {"log", "observation"}
        Where the figures come from.
    good : bool
        Whether the start is within acceptance.
    """

    verdict: Verdict
    figures: StartFigures
    setting: StartSetting
    calibration: Calibration
    history: tuple[PastTry, ...]
    evidence: Literal["log", "observation"]
    good: bool

    # --- what is in force -----------------------------------------------------------

    def value(self, table: str) -> float:
        """Return a start table's value at this start. [unit of the table]"""
        return self.calibration.at_coolant(table, self.figures.coolant_c)

    def expected(self, table: str) -> float:
        """Return what engine data suggest for it. [unit of the table]"""
        return expected_start_value(self.setting.spec, table, self.figures.coolant_c)

    def suspicion(self, table: str) -> float:
        """Return ln(expected / in force), 0 where the difference means nothing. [–]"""
        value, expected = self.value(table), self.expected(table)
        if value <= 0.0 or expected <= 0.0:
            return 0.0 if value == expected else math.copysign(1.0, expected - value)
        distance = math.log(expected / value)
        return distance if abs(distance) > _SUSPICIOUS else 0.0

    # --- what happened ---------------------------------------------------------------

    @cached_property
    def fired_late(self) -> bool:
        """Whether it ran, but later than acceptable, or fired too late and never ran."""
        f = self.figures
        after = f.run_after_s if f.run_after_s is not None else f.fire_after_s
        return after is not None and after > run_within_s(f.coolant_c)

    @cached_property
    def fired_promptly(self) -> bool:
        """Whether it fired so soon that cranking fuel is evidently right."""
        f = self.figures
        return f.fire_after_s is not None and f.fire_after_s <= 0.75 * run_within_s(f.coolant_c)

    @cached_property
    def gross_need(self) -> float | None:
        """Fuel need once settled, if measured and far off. [–]"""
        need = self.figures.need_settled
        return need if need is not None and abs(need - 1.0) > GROSS_NEED else None

    @cached_property
    def steady_off_rpm(self) -> float | None:
        """Steady speed minus target, None if unknown. [1/min]"""
        f = self.figures
        if f.steady_rpm is None or f.steady_target_rpm is None:
            return None
        return f.steady_rpm - f.steady_target_rpm

    @cached_property
    def dipped(self) -> bool:
        """Whether speed fell too low after the flare for another reason than a low idle."""
        f = self.figures
        if f.dip_rpm is None or f.dip_rpm >= f.target_rpm - DIP_BELOW_TARGET_RPM:
            return False
        off = self.steady_off_rpm
        low_throughout = off is not None and off < -SETTLED_BAND_RPM and f.steady_rpm is not None
        return not (low_throughout and f.dip_rpm > (f.steady_rpm or 0.0) - DIP_BELOW_TARGET_RPM)

    # --- what was tried ---------------------------------------------------------------

    def earlier(self) -> tuple[PastTry, ...]:
        """Return earlier starts at about this temperature, oldest first."""
        here = self.figures.coolant_c
        return tuple(
            entry
            for entry in self.history
            if abs(entry.figures.coolant_c - here) <= SAME_TEMPERATURE_K
        )

    def moves(self, table: str) -> int:
        """Return how often the table was changed between starts at this temperature. [–]"""
        values = [e.start_values[table] for e in self.earlier() if table in e.start_values]
        values.append(self.value(table))
        return sum(
            abs(b - a) > 0.004 * max(abs(a), 1.0) for a, b in zip(values, values[1:], strict=False)
        )

    def searched_step(
        self,
        table: str,
        badness: Callable[[Verdict, StartFigures], float],
        *,
        direction: int,
        offset: float = 0.0,
        tolerance: float = 0.1,
        patience: int = 1,
    ) -> float:
        """Return the next change of ln(offset + value), from outcomes alone. [–]

        `offset` [unit of the table] is added before the logarithm; differences of badness
        below `tolerance` [s] mean nothing; `patience` as in :func:`.search.next_step`.
        """
        tries = [
            (
                math.log(max(offset + entry.start_values[table], 0.01)),
                badness(entry.verdict, entry.figures),
            )
            for entry in self.earlier()
            if table in entry.start_values
        ]
        now = math.log(max(offset + self.value(table), 0.01))
        tries.append((now, badness(self.verdict, self.figures)))
        return next_step(tries, self.setting.step, direction, tolerance, patience)

    def vain_moves(self, table: str, badness: Callable[[Verdict, StartFigures], float]) -> int:
        """Return how many of the latest moves of a table brought nothing. [–]"""
        tries = [
            (e.start_values.get(table, 0.0), badness(e.verdict, e.figures)) for e in self.earlier()
        ]
        tries.append((self.value(table), badness(self.verdict, self.figures)))
        count = 0
        for (value, bad), (after, worse) in zip(tries[-2::-1], tries[:0:-1], strict=False):
            if abs(after - value) <= 0.004 * max(abs(value), 1.0):
                continue
            if worse < bad - 1.0:
                break
            count += 1
        return count

    # --- proposals --------------------------------------------------------------------

    @property
    def steady_coolant_c(self) -> float:
        """Coolant temperature at which the steady figures were taken. [°C]"""
        f = self.figures
        return f.coolant_c if f.steady_coolant_c is None else f.steady_coolant_c

    def steady_value(self, table: str) -> float:
        """Return a start table's value at the coolant of the steady figures."""
        return self.calibration.at_coolant(table, self.steady_coolant_c)

    def moved(self, table: str, delta: float, at_c: float | None = None) -> tuple[CellChange, ...]:
        """Return the cell changes that move a start table at a coolant temperature.

        Parameters
        ----------
        table : str
            Its key.
        delta : float
            By how much. [unit of the table]
        at_c : float, optional
            Where; the temperature at the start if not given. [°C]
        """
        target = self.calibration[table]
        return rounded(
            target, move_by(target, delta, self.figures.coolant_c if at_c is None else at_c)
        )

    def scaled(
        self, table: str, log_factor: float, offset: float = 0.0, at_c: float | None = None
    ) -> tuple[CellChange, ...]:
        """Return the changes that multiply (offset + value) by exp(log_factor [–]) there."""
        place = self.figures.coolant_c if at_c is None else at_c
        value = offset + self.calibration.at_coolant(table, place)
        return self.moved(table, (math.exp(log_factor) - 1.0) * value, place)


def badness_of_cranking(verdict: Verdict, figures: StartFigures) -> float:
    """Return how bad cranking went, in seconds of cranking; a start that never fired is 30. [s]"""
    if verdict in ("no fire", "no sync", "slow crank", "no crank"):
        return 30.0
    late = figures.run_after_s if figures.run_after_s is not None else figures.fire_after_s or 0.0
    return late + (12.0 if verdict == "fired and died" else 0.0)


def badness_of_run_up(verdict: Verdict, figures: StartFigures) -> float:
    """Return how bad the first seconds went: a stall, or the dip in units of 50 rpm. [s]"""
    if verdict in ("started and died", "fired and died"):
        return 30.0 - min(figures.ran_s or 0.0, 15.0)
    if figures.dip_rpm is None:
        return 0.0
    return max(0.0, figures.target_rpm - figures.dip_rpm) / 50.0
