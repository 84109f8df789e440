"""From a log, or from what somebody saw, to verdict, findings and one piece of advice."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from ..causes import CAUSES, Diagnosis, Observed, diagnose
from ..errors import FieldProblem, InputRefused
from ..logs.gaps import Mended
from ..logs.pedal import pedal_rests
from ..logs.trace import Trace
from ..sentences import quantity
from ..tables import DEFINITIONS, START_TABLES, Calibration
from .acceptance import Acceptance, acceptance_of
from .case import Case
from .figures import coolant_at_start, figures_from_observation, figures_of, idle_target_of
from .findings import find
from .measured_parts import measured_parts
from .model import (
    MEASURE,
    MEASURED,
    Advice,
    Finding,
    MeasuredPart,
    Observation,
    PastTry,
    Phase,
    StartAnalysis,
    StartFigures,
    StartSetting,
    Wait,
)
from .observe import observed_by_person, observed_in
from .outcomes import VERDICTS, Verdict
from .phases import find_moments, phases_of
from .proposal import Proposal
from .rulebook import RULES, Rule
from .told import about_the_log, told
from .verdict import sentence_of, verdict_of
from .window import NoStartError, StartWindow, mended, starts_in

#: A person's observation counts less than a log.
_OBSERVED_WEIGHT = 0.7
#: A change of a cell below this share of it is lost in what one start differs from the next. [–]
_NOTICED = 0.004
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
    window, cut = told(log, windows[start_number - 1], setting.spec.crank_to_run_rpm)
    part = log.trace.between(window.begin_s, window.end_s)
    coolant_c = coolant_at_start(part, setting, window.crank_s)
    target = idle_target_of(part, calibration, coolant_c)
    rests = pedal_rests(part, window.crank_s)
    moments = find_moments(part, window, setting.spec.crank_to_run_rpm, target, rests)
    gaps = tuple((gap.start_s, gap.end_s) for gap in log.gaps)
    figures = figures_of(part, moments, setting, calibration, target, coolant_c, rests, gaps)
    verdict = verdict_of(moments, figures)
    fade = calibration.at_coolant("after_start_fade", coolant_c)
    extra = tuple(about_the_log(log, part, window, cut, len(windows), start_number, moments, rests))
    phases = phases_of(moments, fade, coolant_c)
    acceptance = acceptance_of(verdict, figures)
    observed = observed_in(
        part, moments, figures, verdict, acceptance.accepted, setting, calibration, rests
    )
    seen = _Seen(verdict, figures, phases, observed, acceptance, "log")
    return _conclude(seen, setting, calibration, history, extra)


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
    figures = figures_from_observation(observation, calibration)
    acceptance = acceptance_of(observation.outcome, figures)
    observed = observed_by_person(figures, observation.outcome, acceptance.accepted)
    seen = _Seen(observation.outcome, figures, (), observed, acceptance, "observation")
    return _conclude(seen, setting, calibration, history, ())


def past_try(analysis: StartAnalysis, calibration: Calibration) -> PastTry:
    """Return a finished start as later starts look back on it."""
    coolant_c = analysis.figures.coolant_c
    values = {key: calibration.at_coolant(key, coolant_c) for key in START_TABLES}
    return PastTry(analysis.figures, analysis.verdict, values, analysis.observed)


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
        "flare_rpm": (0.0, 12_000.0, "rpm"),
        "dip_rpm": (0.0, 12_000.0, "rpm"),
        "settled_rpm": (0.0, 8000.0, "rpm"),
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
    advice, waits = _advise(case, diagnosis)
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
    )


def _advise(case: Case, diagnosis: Diagnosis) -> tuple[tuple[Advice, ...], tuple[Wait, ...]]:
    """Return at most one advice, and the rules that have to wait for it."""
    weight = 1.0 if case.evidence == "log" else _OBSERVED_WEIGHT
    measured = () if diagnosis.blocks else tuple(measured_parts(case))
    if not case.acceptance.asks_for_change:
        # Good, or not seen to its end: nothing asks for a change, but it may have measured some.
        return _by_the_way(measured, weight), ()
    pending = [rule for rule in RULES if rule.applies(case)]
    if diagnosis.blocks:
        first = "Until what comes first is mended, no table is changed."
        return (_check(diagnosis, weight),), tuple(
            Wait(rule.identifier, rule.table, first) for rule in _one_each(pending)
        )
    for number, rule in enumerate(pending):
        proposal = rule.propose(case)
        if not _matters(proposal):
            continue
        advice = Advice(
            rule.identifier,
            rule.table,
            proposal.changes,
            f"{proposal.because} {rule.why}",
            round(min(0.95, proposal.confidence) * weight, 2),
            rule.disproof,
            tuple(part for part in measured if not _same_quantity(part.table, rule.table)),
        )
        title = DEFINITIONS[rule.table].title.lower()
        taken = {rule.table, *(part.table for part in advice.measured)}
        later = [other for other in pending[number + 1 :] if other.table not in taken]
        reason = f"One change per start: {title} comes first."
        return (advice,), tuple(Wait(r.identifier, r.table, reason) for r in _one_each(later))
    return _by_the_way(measured, weight) or (_measurement(case, diagnosis, weight),), ()


def _same_quantity(first: str, second: str) -> bool:
    """Say whether two tables put the same right: taken together they would do it twice."""
    return first == second or {first, second} == {"ve", "warm_up_enrichment"}


def _by_the_way(measured: Sequence[MeasuredPart], weight: float) -> tuple[Advice, ...]:
    """Return what a start measured as an advice of its own, where nothing else is to be changed."""
    if not measured:
        return ()
    first, *others = measured
    title = DEFINITIONS[first.table].title
    return (
        Advice(
            MEASURED,
            first.table,
            first.changes,
            f"{title}: {first.because}",
            round(0.85 * weight, 2),
            "The next start through these temperatures measures something else.",
            tuple(others),
        ),
    )


def _measurement(case: Case, diagnosis: Diagnosis, weight: float) -> Advice:
    """Return what to measure next where no table and no cause explains a start."""
    test = f" {diagnosis.test}" if diagnosis.test else ""
    return Advice(
        MEASURE,
        None,
        (),
        f"{case.acceptance.sentence} No table explains it: repeat this start unchanged after a full "
        f"soak and log it to the end.{test}",
        round(0.4 * weight, 2),
        "The same start comes out otherwise: then it was chance.",
    )


def _matters(proposal: Proposal) -> bool:
    """Say whether a change can be noticed: cells at their bounds, or a step within noise, cannot."""
    return any(
        abs(change.after - change.before) > _NOTICED * max(abs(change.before), 1.0)
        for change in proposal.changes
    )


def _check(diagnosis: Diagnosis, weight: float) -> Advice:
    """Return what to do about the leading cause, as advice without a table."""
    cause = CAUSES[diagnosis.leading]
    ranked = next(entry for entry in diagnosis.ranked if entry.key == cause.key)
    family = sum(r.probability for r in diagnosis.ranked if r.family == cause.family)
    seen = ranked.evidence[0] + " " if ranked.evidence else ""
    alike = [CAUSES[key].title for key in diagnosis.alike]
    named = cause.title if not alike else f"{cause.title}, or {', or '.join(alike)}"
    test = ""
    if alike:
        test = f" The log does not part them. {diagnosis.test}"
    return Advice(
        cause.key,
        None,
        (),
        f"{seen}The likely cause is {named}. {cause.do}{test}",
        round(min(0.95, family) * weight, 2),
        cause.disproof,
    )


def _one_each(rules: Sequence[Rule]) -> list[Rule]:
    """Return the first rule of each table."""
    seen: dict[str, Rule] = {}
    for rule in rules:
        seen.setdefault(rule.table, rule)
    return list(seen.values())
