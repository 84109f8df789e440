"""One start as the rulebook sees it: figures, tables in force, and what was tried before."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

from ..causes import Observed
from ..charge import expected_start_value
from ..charge.charge_temperature import thinner_charge
from ..tables import Calibration, CellChange, move_by, rounded
from .acceptance import (
    DIP_GOOD_RPM,
    LAMBDA_BAND,
    SETTLED_BAND_RPM,
    Acceptance,
    run_good_within_s,
    run_within_s,
)
from .model import PastTry, StartFigures, StartSetting
from .outcomes import DIED, STARTED, Verdict
from .search import next_step

#: Tries at temperatures further apart than this teach little about each other. [K]
SAME_TEMPERATURE_K = 12.0
#: A departure from the table in force (in ln) below this is none.
_SAME = 0.004
#: A starter turns an engine at about this speed where none was logged. [1/min]
_CRANKS_AT_RPM = 200.0
#: Largest correction taken from a measurement in one start.
MEASURED_LIMIT = 0.45
#: A valve this far from its table is being held there by the loop. [%, –]
_VALVE_APART_PCT, _VALVE_APART_SHARE = 2.0, 0.06
#: It left cranking in time within this share of the limit, and hung if it took so long from there. [–, s]
_LEFT_IN_TIME, _HANGS_S = 0.9, 0.3
#: Most that a mixture may ask for while the engine misfires: it reads leaner than it is. [–]
_MISFIRES_MOST = 1.08
#: Above this share of what the tables ask for the loop had opened the valve. [–]
_OPENED_SHARE = 1.1
#: Below this share of its table the loop had closed the valve. [–]
_CLOSED_SHARE = 0.7
#: An idle this far from its target runs on other cells of the fuel map. [–]
_FAR_FROM_IDLE = 0.12
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
    acceptance : Acceptance
        How the start stands against the limits.
    observed : Observed
        What its record shows of mixture and air.
    """

    verdict: Verdict
    figures: StartFigures
    setting: StartSetting
    calibration: Calibration
    history: tuple[PastTry, ...]
    evidence: Literal["log", "observation"]
    acceptance: Acceptance
    observed: Observed

    # --- what is in force -----------------------------------------------------------

    def value(self, table: str) -> float:
        """Return a start table's value at this start. [unit of the table]"""
        return self.calibration.at_coolant(table, self.figures.coolant_c)

    def expected(self, table: str) -> float:
        """Return what engine data suggest for it. [unit of the table]"""
        return expected_start_value(self.setting.spec, table, self.figures.coolant_c)

    def departure(self, table: str) -> float:
        """Return how far a table stands from the engine data, as |ln|: a reason to look there. [–]

        It says which of two tables is looked at first, never which way it is changed.
        """
        value = self.value(table)
        expected = expected_start_value(self.setting.spec, table, self.figures.coolant_c)
        if value <= 0.0 or expected <= 0.0:
            return 0.0 if value == expected else 1.0
        return abs(math.log(expected / value))

    def short_of_data(self, table: str, offset: float = 0.0) -> float:
        """Return how far (value + `offset` [unit of the table]) lies below the engine data, or 0. [ln]"""
        coolant_c = self.figures.coolant_c
        expected = offset + expected_start_value(self.setting.spec, table, coolant_c)
        return max(0.0, math.log(max(expected, 1.0) / max(offset + self.value(table), 1.0)))

    # --- what happened ---------------------------------------------------------------

    @cached_property
    def ran_late(self) -> bool:
        """Whether it ran later than acceptable with a margin, or fired too late and never ran."""
        f = self.figures
        if self.verdict in STARTED:
            return f.run_after_s is not None and f.run_after_s > run_good_within_s(f.coolant_c)
        after = f.run_after_s if f.run_after_s is not None else f.fire_after_s
        return after is not None and after > run_within_s(f.coolant_c)

    @cached_property
    def cranked_share(self) -> float:
        """Return the cranking fuel that it had on average ÷ a prompt start's, where it is run down. [–]"""
        f = self.figures
        seconds = f.left_after_s or f.run_after_s or f.cranked_s or 0.0
        turned = seconds * (f.cranking_rpm or _CRANKS_AT_RPM) / 60.0
        return self.setting.fading.cranking_share(turned)

    @cached_property
    def fired_promptly(self) -> bool:
        """Whether it fired so soon that cranking fuel is evidently right."""
        f = self.figures
        return f.fire_after_s is not None and f.fire_after_s <= 0.75 * run_within_s(f.coolant_c)

    @cached_property
    def hung_s(self) -> float | None:
        """How long it hung at a low speed after it left cranking in time, None where it did not. [s]

        What follows then, a loop that has opened the valve, a flare, a stall, comes from that.
        """
        left, ran = self.figures.left_after_s, self.figures.run_after_s
        if left is None or ran is None:
            return None
        if left > _LEFT_IN_TIME * run_within_s(self.figures.coolant_c):
            return None
        if self.verdict in STARTED and not self.ran_late:
            return None  # it took its time, and was there in time all the same
        return ran - left if ran - left > _HANGS_S else None

    @property
    def thinner(self) -> float:
        """By how much its charge weighed less than in ordinary air; 0 where nobody logged the air. [ln]"""
        intake_c, coolant_c = self.figures.intake_c, self.figures.coolant_c
        return 0.0 if intake_c is None else thinner_charge(intake_c, coolant_c)

    @property
    def hung(self) -> bool:
        """Whether it hung; see :attr:`hung_s`."""
        return self.hung_s is not None

    @cached_property
    def wound_up(self) -> bool:
        """Whether the loop may have opened the valve while it hung: then the flare is the loop's."""
        if not self.hung:
            return False
        valve = self.figures.flare_valve_pct
        tables = self.value("idle_valve") + max(self.value("cranking_air"), 0.0)
        return valve is None or valve > _OPENED_SHARE * tables

    @cached_property
    def loop_dip(self) -> bool:
        """Whether the loop closed the valve during the flare, so that speed fell for want of air."""
        f, table = self.figures, self.value("idle_valve")
        if f.dip_valve_pct is None or not self.dipped or self.hung:
            return False
        return f.dip_valve_pct < _CLOSED_SHARE * table - 1.0

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
    def mixture_need(self) -> float | None:
        """Fuel needed over given that has to be put right, None where the mixture is acceptable. [–]

        The settled one where that is off, else the worst that keeps the start from acceptance. Of an
        idle far from its target it is not known: the mixture is read where the engine will run.
        """
        off = self.idle_to_mend_rpm
        if off is not None and abs(off) > _FAR_FROM_IDLE * self.figures.target_rpm:
            return None
        need = self._mixture_read
        return None if need is None else min(need, _MISFIRES_MOST) if self.misfires else need

    @cached_property
    def misfires(self) -> bool:
        """Whether its mixture jumped as that of an engine does in which single charges do not burn."""
        seen = [s for s in self.observed.stretches if s.total is not None or s.misfires]
        return bool(seen) and 2 * sum(s.misfires for s in seen) > len(seen)

    @cached_property
    def _mixture_read(self) -> float | None:
        f = self.figures
        if f.need_settled is not None and abs(f.need_settled - 1.0) > LAMBDA_BAND:
            return f.need_settled
        open_point = "mixture" in self.acceptance.asks_for_change
        return math.exp(f.mixture_off) if open_point and f.mixture_off is not None else None

    @cached_property
    def mixture_coolant_c(self) -> float:
        """Coolant at which :attr:`mixture_need` was measured. [°C]"""
        f = self.figures
        settled = f.need_settled is not None and abs(f.need_settled - 1.0) > LAMBDA_BAND
        if settled or f.mixture_off_c is None:
            return self.steady_coolant_c
        return f.mixture_off_c

    @cached_property
    def idle_to_mend_rpm(self) -> float | None:
        """Departure of idle from its target that has to be put right, None where it need not. [1/min]"""
        off = self.steady_off_rpm
        if off is not None and abs(off) > SETTLED_BAND_RPM:
            return off
        open_point = "idle" in self.acceptance.asks_for_change
        return self.figures.idle_off_rpm if open_point else None

    @cached_property
    def idle_coolant_c(self) -> float:
        """Coolant at which :attr:`idle_to_mend_rpm` was measured. [°C]"""
        off, place = self.steady_off_rpm, self.figures.idle_off_c
        steady = off is not None and abs(off) > SETTLED_BAND_RPM
        return self.steady_coolant_c if steady or place is None else place

    @cached_property
    def valve_need(self) -> float | None:
        """Valve opening that idle took ÷ opening in the table, where the loop held the speed. [–]

        None where it is not known, or where the valve stood as in the table.
        """
        f = self.figures
        opening = self.steady_value("idle_valve")
        if f.idle_valve_pct is None or opening < 2.0 or f.idle_valve_pct < 0.5:
            return None
        apart = f.idle_valve_pct - opening
        if abs(apart) < max(_VALVE_APART_PCT, _VALVE_APART_SHARE * opening):
            return None
        return f.idle_valve_pct / opening

    @cached_property
    def dipped(self) -> bool:
        """Whether speed fell too low after the flare for another reason than a low idle."""
        f = self.figures
        if f.dip_rpm is None or f.dip_rpm >= f.target_rpm - DIP_GOOD_RPM:
            return False
        off = self.steady_off_rpm
        low_throughout = off is not None and off < -SETTLED_BAND_RPM and f.steady_rpm is not None
        return not (low_throughout and f.dip_rpm > (f.steady_rpm or 0.0) - DIP_GOOD_RPM)

    # --- what was tried ---------------------------------------------------------------

    def earlier(self) -> tuple[PastTry, ...]:
        """Return earlier starts at about this temperature, oldest first."""
        here = self.figures.coolant_c
        return tuple(
            entry
            for entry in self.history
            if abs(entry.figures.coolant_c - here) <= SAME_TEMPERATURE_K
        )

    def departures(self, table: str, offset: float = 0.0) -> tuple[tuple[float, PastTry], ...]:
        """Return how far each earlier try stood from the table in force, at its own coolant.

        Starts at other temperatures had other values of the same table; only what was changed
        since is a try. `offset` [unit of the table] is added before the logarithm. [–]
        """
        found = []
        for entry in self.earlier():
            if table not in entry.start_values:
                continue
            now = offset + self.calibration.at_coolant(table, entry.figures.coolant_c)
            then = offset + entry.start_values[table]
            found.append((math.log(max(then, 0.01) / max(now, 0.01)), entry))
        return tuple(found)

    def moves(self, table: str, offset: float = 0.0) -> int:
        """Return how often the table was changed between starts at this temperature. [–]

        `offset` [unit of the table] as in :meth:`departures`.
        """
        values = [departure for departure, _ in self.departures(table, offset)] + [0.0]
        return sum(abs(b - a) > _SAME for a, b in zip(values, values[1:], strict=False))

    def tempered(self, table: str, step: float, offset: float = 0.0) -> float:
        """Return a `step` [–], halved where it goes back towards the try before: it was overshot.

        `offset` [unit of the table] as in :meth:`departures`. [–]
        """
        moved = [d for d, _ in self.departures(table, offset) if abs(d) > _SAME]
        if not moved or moved[-1] * step <= 0.0:
            return step
        return math.copysign(min(abs(step), 0.5 * abs(moved[-1])), step)

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
            (departure, badness(entry.verdict, entry.figures))
            for departure, entry in self.departures(table, offset)
        ]
        tries.append((0.0, badness(self.verdict, self.figures)))
        return next_step(tries, self.setting.step, direction, tolerance, patience)

    def vain_moves(
        self,
        table: str,
        badness: Callable[[Verdict, StartFigures], float],
        offset: float = 0.0,
    ) -> int:
        """Return how many of the latest moves of a table brought nothing. [–]

        `offset` [unit of the table] as in :meth:`departures`.
        """
        tries = [
            (departure, badness(entry.verdict, entry.figures))
            for departure, entry in self.departures(table, offset)
        ]
        tries.append((0.0, badness(self.verdict, self.figures)))
        count = 0
        for (value, bad), (after, worse) in zip(tries[-2::-1], tries[:0:-1], strict=False):
            if abs(after - value) <= _SAME:
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
    if verdict in DIED:
        return 30.0 - min(figures.ran_s or 0.0, 15.0)
    if figures.dip_rpm is None:
        return 0.0
    return max(0.0, figures.target_rpm - figures.dip_rpm) / 50.0
