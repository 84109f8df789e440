"""From a log, or from what somebody saw, to verdict, findings and one piece of advice."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

from ..causes import Observed, diagnose
from ..errors import FieldProblem, InputRefused
from ..logs.gaps import Mended
from ..logs.pedal import pedal_rests
from ..logs.trace import Trace
from ..sentences import quantity
from ..tables import START_TABLES, Calibration
from .acceptance import Acceptance, acceptance_of
from .advise import advise, holds_up_tables
from .case import Case
from .figures import (
    after_start_lasts_s,
    coolant_at_start,
    figures_from_observation,
    figures_of,
    idle_target_of,
)
from .findings import find
from .model import (
    Finding,
    Observation,
    PastTry,
    Phase,
    StartAnalysis,
    StartFigures,
    StartSetting,
)
from .observe import observed_by_person, observed_in
from .outcomes import RAN, VERDICTS, Verdict
from .phases import find_moments, phases_of
from .readable import readable
from .taught import taught_by
from .told import about_the_log, told
from .verdict import sentence_of, verdict_of
from .window import NoStartError, StartWindow, mended, starts_in

#: Coolant of attempts that follow each other at once. [K]
_SAME_MORNING_K = 3.0
#: The slowest an engine is told to have run at: below it, it is the starter that turns it. [1/min]
_SLOWEST_RUNNING_RPM = 200.0
#: So many earlier starts of the job are read together with the present one.
_READ_TOGETHER = 12


def judge_log(
    trace: Trace,
    calibration: Calibration,
    setting: StartSetting,
    history: Sequence[PastTry] = (),
    start_number: int = 1,
) -> StartAnalysis:
    """Return everything said about one start of a log.

    Parameters
    ----------
    trace : Trace
        Needs ``rpm``; coolant may come from the setting instead.
    calibration : Calibration
        The tables that were in the controller.
    setting : StartSetting
        Engine, ambient, soak.
    history : sequence of PastTry
        Earlier starts of the job, oldest first.
    start_number : int
        Which start of the log, counted from 1; restarts are separate trials.

    Returns
    -------
    StartAnalysis
        Verdict, phases, figures, findings, advice and what has to wait.

    Raises
    ------
    CoreError
        If the log has no start, no speed, or coolant is unknown.
    """
    log = mended(trace)
    windows = starts_in(log, setting.spec.crank_to_run_rpm)
    return judge_start(log, windows, calibration, setting, history, start_number)


def judge_start(
    log: Mended,
    windows: Sequence[StartWindow],
    calibration: Calibration,
    setting: StartSetting,
    history: Sequence[PastTry] = (),
    start_number: int = 1,
) -> StartAnalysis:
    """Return everything said about one start of a mended log, its starts being known.

    Parameters
    ----------
    log : Mended
        See :func:`.window.mended`.
    windows : sequence of StartWindow
        Its starts.
    calibration, setting, history, start_number
        As for :func:`judge_log`.
    """
    if not 1 <= start_number <= len(windows):
        raise NoStartError(
            f"The log holds {len(windows)} start(s); there is no number {start_number}."
        )
    calibration = readable(calibration)
    window, cut = told(log, windows[start_number - 1], setting.spec.crank_to_run_rpm)
    part = log.trace.between(window.begin_s, window.end_s)
    coolant_c = coolant_at_start(part, setting, window.crank_s)
    target = idle_target_of(part, calibration, coolant_c)
    rests = pedal_rests(part, window.crank_s)
    moments = find_moments(part, window, setting.spec.crank_to_run_rpm, target, rests)
    gaps = tuple((gap.start_s, gap.end_s) for gap in log.gaps)
    figures = figures_of(part, moments, setting, calibration, target, coolant_c, rests, gaps)
    verdict = verdict_of(moments, figures)
    fade = after_start_lasts_s(part, moments, setting, calibration, coolant_c)
    extra = tuple(about_the_log(log, part, window, cut, len(windows), start_number, moments, rests))
    phases = phases_of(moments, fade, coolant_c)
    acceptance = acceptance_of(verdict, figures)
    observed = observed_in(part, moments, figures, verdict, acceptance, setting, calibration, rests)
    seen = _Seen(verdict, figures, phases, observed, acceptance, "log")
    setting = replace(setting, attempt=setting.attempt + _attempts_before(history, figures))
    return _conclude(seen, setting, calibration, history, extra)


def _attempts_before(history: Sequence[PastTry], figures: StartFigures) -> int:
    """Return how many vain attempts of the same log came right before a start. [–]

    Only starts of one log are known to follow each other at once.
    """
    count = 0
    for past in reversed(history):
        same = (
            past.in_same_log and abs(past.figures.coolant_c - figures.coolant_c) < _SAME_MORNING_K
        )
        if not same or past.verdict in RAN:
            break
        count += 1
    return count


def judge_observation(
    observation: Observation,
    calibration: Calibration,
    setting: StartSetting,
    history: Sequence[PastTry] = (),
) -> StartAnalysis:
    """Return everything said about a start that was seen and heard, not logged.

    Parameters
    ----------
    observation : Observation
        What was seen.
    calibration, setting, history
        As for :func:`judge_log`.

    Returns
    -------
    StartAnalysis
        By the same rules, with less weight.

    Raises
    ------
    InputRefused
        If the outcome is unknown or a number is impossible.
    """
    _check_observation(observation)
    calibration = readable(calibration)
    figures = figures_from_observation(observation, calibration)
    acceptance = acceptance_of(observation.outcome, figures)
    observed = observed_by_person(figures, observation.outcome, acceptance)
    seen = _Seen(observation.outcome, figures, (), observed, acceptance, "observation")
    return _conclude(seen, setting, calibration, history, ())


def past_try(analysis: StartAnalysis, calibration: Calibration) -> PastTry:
    """Return a finished start as later starts look back on it."""
    coolant_c = analysis.figures.coolant_c
    values = {key: calibration.at_coolant(key, coolant_c) for key in START_TABLES}
    return PastTry(
        analysis.figures,
        analysis.verdict,
        values,
        analysis.observed,
        taught=analysis.taught,
        asked=analysis.asked,
        asked_to_measure=analysis.asks_to_measure,
    )


def _check_observation(observation: Observation) -> None:
    problems = []
    if observation.outcome not in VERDICTS:
        problems.append(
            FieldProblem(
                "observation.outcome", f"The outcome must be one of: {', '.join(VERDICTS)}."
            )
        )
    bounds = {
        "coolant_c": (-50.0, 150.0, "°C"),
        "cranking_s": (0.0, 120.0, "s"),
        "flare_rpm": (_SLOWEST_RUNNING_RPM, 12_000.0, "rpm"),
        "dip_rpm": (0.0, 12_000.0, "rpm"),
        "settled_rpm": (_SLOWEST_RUNNING_RPM, 8000.0, "rpm"),
        "lambda_later": (0.4, 2.0, ""),
        "ran_s": (0.0, 3600.0, "s"),
    }
    for name, (low, high, unit) in bounds.items():
        value = getattr(observation, name)
        if value is not None and not low <= value <= high:
            limits = f"{quantity(low, unit, bare=True)} and {quantity(high, unit)}".rstrip()
            problems.append(
                FieldProblem(
                    f"observation.{name}", f"{name} must be between {limits}, not {value:g}."
                )
            )
    if problems:
        raise InputRefused(problems)


@dataclass(frozen=True)
class _Seen:
    """What was found in a record of a start, before anything is advised."""

    verdict: Verdict
    figures: StartFigures
    phases: tuple[Phase, ...]
    observed: Observed
    acceptance: Acceptance
    evidence: Literal["log", "observation"]


def _conclude(
    seen: _Seen,
    setting: StartSetting,
    calibration: Calibration,
    history: Sequence[PastTry],
    extra: Sequence[Finding],
) -> StartAnalysis:
    earlier = [past.observed for past in history if past.observed is not None and not past.mended]
    diagnosis = diagnose([*earlier[-_READ_TOGETHER:], seen.observed], setting.spec)
    case = Case(
        seen.verdict,
        seen.figures,
        setting,
        calibration,
        tuple(history),
        seen.evidence,
        seen.acceptance,
        seen.observed,
    )
    findings = (*find(case, diagnosis), *extra)
    taught = () if holds_up_tables(case, diagnosis) else taught_by(case)
    before = [*setting.known, *(evidence for past in history for evidence in past.taught)]
    advice, waits = advise(case, diagnosis, [*before, *taught])
    return StartAnalysis(
        seen.verdict,
        sentence_of(seen.verdict, seen.figures),
        seen.phases,
        seen.figures,
        findings,
        advice,
        waits,
        seen.acceptance.accepted,
        seen.evidence,
        seen.acceptance,
        diagnosis,
        seen.observed,
        taught,
    )
