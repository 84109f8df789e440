"""From one start and all that earlier ones taught to at most one advice, and to what has to wait."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np

from ..causes import CAUSES, Diagnosis
from ..estimate import (
    MOST_STEP,
    CurveProposal,
    Evidence,
    LadderEstimate,
    SearchStep,
    chance_without,
    estimate,
    measured_proposals,
    search_step,
)
from ..sentences import quantity
from ..tables import DEFINITIONS, CellChange, Table, values_after
from .case import Case
from .cranking_remedies import died_at_handover, how_cranking_went
from .limits import limits_of
from .model import MEASURE, MEASURED, SEARCHED, Advice, MeasuredPart, Wait
from .proposal import Proposal
from .rich_or_lean import leaning_of
from .rulebook import RULES, Rule
from .running_remedies import contradicts_itself, how_it_ran_up

#: A person's observation counts less than a log.
_OBSERVED_WEIGHT = 0.7
#: A change of a cell below this share of it is lost in what one start differs from the next. [–]
_NOTICED = 0.004
#: How sure what was measured is, and a step that outcomes make likelier. [–]
_MEASURED_SURE, _SEARCHED_SURE = 0.85, 0.5
#: A measured change of air above this share explains how it ran up. [–]
_EXPLAINS = 0.1
#: The estimate is taken instead of a rule's own step where it does at least this share of it. [–]
_GOES_ALONG = 0.4
#: A searched step is at most so many first steps of the job's school. [–]
_SCHOOL_STEPS = 5.0
#: By how much a step of cranking fuel has to promise more than one of what follows it. [–]
_CLEARLY = 1.25
#: An outcome that all other starts make less likely than this is a surprise. [–]
_SURPRISE = 0.02
#: So often a cause is asked for before the tables go on without it.
_ASKED_ENOUGH = 3
_AIR = ("idle_valve", "cranking_air")
#: Tables that outcomes alone tell of, and by which the estimate searches them: prime and cranking
#: fuel share one need.
_SEARCHED_BY = {
    "prime_pulse": "cranking_fuel",
    "cranking_fuel": "cranking_fuel",
    "after_start_enrichment": "after_start_enrichment",
}


def advise(
    case: Case, diagnosis: Diagnosis, evidence: Sequence[Evidence]
) -> tuple[tuple[Advice, ...], tuple[Wait, ...]]:
    """Return at most one advice, and the rules that have to wait for it.

    Parameters
    ----------
    case : Case
        The start.
    diagnosis : Diagnosis
        What may be wrong under the bonnet.
    evidence : sequence of Evidence
        Of this start and all earlier ones.
    """
    weight = 1.0 if case.evidence == "log" else _OBSERVED_WEIGHT
    asks = bool(case.acceptance.asks_for_change)
    pending = [rule for rule in RULES if asks and rule.applies(case)]
    if holds_up_tables(case, diagnosis):
        if not asks:
            return (), ()
        first = "Until what comes first is mended, no table is changed."
        return (_check(diagnosis, weight),), tuple(
            Wait(rule.identifier, rule.table, first) for rule in _one_each(pending)
        )
    logged = _was_logged(evidence)
    believed = estimate(case.setting.spec, case.calibration, evidence, searched=logged)
    limits, place = limits_of(case.calibration), case.figures.coolant_c
    proposals = measured_proposals(believed, case.calibration, limits, place)
    if asks and (surprised := _surprised(case, believed, evidence)) is not None:
        first = "Until it is known that this start was as it seemed, no table is changed."
        waits = tuple(Wait(r.identifier, r.table, first) for r in _one_each(pending))
        return (_checks_first(surprised, weight),), waits
    advice = _first_step(case, believed, proposals, pending, weight)
    parts = [_part(proposal) for proposal in proposals.values()]
    for key in dict.fromkeys(_SEARCHED_BY.values()):
        free = advice is None or _SEARCHED_BY.get(advice.table or "") != key
        if free and key not in proposals:
            parts += _searched_part(_search(case, believed, key, must=False))
    if advice is None:
        if parts:
            return (_by_the_way(parts, weight),), ()
        return ((_measurement(case, diagnosis, weight),) if asks else ()), ()
    table = advice.table
    assert table is not None  # a step always changes one
    taken = tuple(part for part in parts if not _same_quantity(part.table, table))
    advice = replace(advice, measured=taken)
    changed = {table, *(part.table for part in taken)}
    title = DEFINITIONS[table].title.lower()
    reason = f"One change per start: {title} comes first."
    later = [r for r in pending if r.identifier != advice.rule and r.table not in changed]
    return (advice,), tuple(Wait(r.identifier, r.table, reason) for r in _one_each(later))


def holds_up_tables(case: Case, diagnosis: Diagnosis) -> bool:
    """Return whether a cause under the bonnet comes before every table.

    Parameters
    ----------
    case : Case
        The start.
    diagnosis : Diagnosis
        What may be wrong under the bonnet.
    """
    return diagnosis.blocks and not contradicts_itself(case) and not _asked_in_vain(case, diagnosis)


def _asked_in_vain(case: Case, diagnosis: Diagnosis) -> bool:
    """Say whether earlier starts asked for the same family of causes, and nothing was mended.

    Then it was looked for and is not there, or nobody will look: the tables are not kept waiting.
    """
    family = CAUSES[diagnosis.leading].family
    asked = [past.asked for past in case.history if past.asked and not past.mended]
    return sum(CAUSES[key].family == family for key in asked) >= _ASKED_ENOUGH


def _surprised(case: Case, believed: LadderEstimate, evidence: Sequence[Evidence]) -> float | None:
    """Return how likely this start's outcome was by all the others, where hardly anybody expected it. [–]

    Asked once: a second start of the kind is no surprise any more.
    """
    if believed.cranking is None or (case.history and case.history[-1].surprised):
        return None
    here = [e for e in evidence if e.outcome is not None and e.trial is None]
    if not here:
        return None
    chance = chance_without(believed.cranking, case.setting.spec, here[-1])
    return chance if chance is not None and chance < _SURPRISE else None


def _checks_first(chance: float, weight: float) -> Advice:
    return Advice(
        MEASURE,
        None,
        (),
        f"All other starts together make this outcome {quantity(100.0 * chance, '%', 1)} likely. Before "
        "any table: charge the battery, read the fuel pressure, look at a plug, and see whether the "
        "tables in the controller are those written down here. Then repeat this start unchanged after "
        "a full soak.",
        round(0.5 * weight, 2),
        "The same start comes out the same: then the estimate was wrong, and widens.",
    )


def _first_step(
    case: Case,
    believed: LadderEstimate,
    parts: Mapping[str, CurveProposal],
    pending: Sequence[Rule],
    weight: float,
) -> Advice | None:
    """Return what the first rule that applies asks for, with the values that the estimate gives."""
    for rule in pending:
        if rule.table == "after_start_enrichment" and (air := _air_explains(case, parts)):
            return _by_the_way([_part(parts[air])], weight)
        if rule.table in _SEARCHED_BY:
            found = _searched_for(case, believed, rule)
            if found is not None:
                return _searched_advice(case, *found, weight)
        proposal = rule.propose(case)
        part = parts.get(rule.table)
        if part is not None and _goes_along(case, rule.table, proposal.changes, part.changes):
            return _ruled_advice(rule, proposal, part, weight)
        if _matters(proposal.changes):
            return _ruled_advice(rule, proposal, None, weight)
    return None


def _searched_for(
    case: Case, believed: LadderEstimate, rule: Rule
) -> tuple[Rule, SearchStep] | None:
    """Return the searched step that a rule asks for.

    An engine that died on leaving cranking died of cranking fuel or of the fuel after it: the step is
    taken that makes a good start likelier in all.
    """
    step = _search(case, believed, _SEARCHED_BY[rule.table], must=True)
    handover = died_at_handover(case) or case.hung
    if rule.table != "after_start_enrichment" or not handover:
        return None if step is None else (rule, step)
    cranking = _search(case, believed, "cranking_fuel", must=True)
    if step is None or cranking is None:
        return None if step is None else (rule, step)
    # What follows cranking is the likelier cause: the other has to be so by some way.
    if cranking.after * step.before <= _CLEARLY * cranking.before * step.after:
        return rule, step
    return next(r for r in RULES if r.identifier == "cranking-fuel-died"), cranking


def _goes_along(
    case: Case, table: str, ruled: Sequence[CellChange], believed: Sequence[CellChange]
) -> bool:
    """Say whether the estimate moves a table here as the rule does, and not by far too little.

    What one start shows plainly is not voted down by what others made likely.
    """
    if table == "ve" or not _matters(ruled):
        return True
    asked, given = (
        _moved_at(case.calibration[table], changes, case.figures.coolant_c)
        for changes in (ruled, believed)
    )
    return asked == 0.0 or given / asked > _GOES_ALONG


def _moved_at(table: Table, changes: Sequence[CellChange], coolant_c: float) -> float:
    values = values_after(table, changes)
    return float(np.interp(coolant_c, table.axes[0].points, values)) - table.at(coolant_c)


def _was_logged(evidence: Sequence[Evidence]) -> bool:
    """Say whether the outcome of a start was read from a log; else the trade's small steps are taken."""
    outcomes = [e.outcome for e in evidence if e.outcome is not None]
    return any(not outcome.counted for outcome in outcomes)


def _search(case: Case, believed: LadderEstimate, table: str, *, must: bool) -> SearchStep | None:
    return search_step(
        believed,
        case.calibration,
        limits_of(case.calibration),
        table=table,
        tried_c=case.figures.coolant_c,
        must=must,
        most=min(MOST_STEP, math.log1p(_SCHOOL_STEPS * case.setting.step)),
    )


def _air_explains(case: Case, parts: Mapping[str, CurveProposal]) -> str | None:
    """Return the table of air whose measured change explains how it ran up, if there is one."""
    if case.evidence != "log":
        return None
    for table in _AIR:
        if table not in parts:
            continue
        moved = _moved_at(case.calibration[table], parts[table].changes, case.figures.coolant_c)
        now = case.value("idle_valve") + max(case.value("cranking_air"), 0.0)
        if abs(moved) > _EXPLAINS * max(now, 5.0):
            return table
    return None


def _ruled_advice(
    rule: Rule, proposal: Proposal, part: CurveProposal | None, weight: float
) -> Advice:
    return Advice(
        rule.identifier,
        rule.table,
        proposal.changes if part is None else part.changes,
        f"{proposal.because} {rule.why}",
        round(min(0.95, proposal.confidence) * weight, 2),
        rule.disproof,
        bands=() if part is None else part.bands,
        seen=() if part is None else part.seen,
    )


def _searched_advice(case: Case, rule: Rule, step: SearchStep, weight: float) -> Advice:
    table = step.proposal.table
    way = "more" if _rises(step.proposal.changes) else "less"
    if table == "cranking_fuel":
        happened, why_so = how_cranking_went(case), _why_so(case, way)
    else:
        happened, why_so = how_it_ran_up(case), ""
    title = DEFINITIONS[table].title.lower()
    return Advice(
        rule.identifier,
        table,
        step.proposal.changes,
        f"{happened}: try {way} {title}. {_chances(step)}{why_so} {rule.why}",
        round(min(0.95, max(step.after, 0.05)) * weight, 2),
        rule.disproof,
        bands=step.proposal.bands,
    )


def _why_so(case: Case, way: str) -> str:
    """Return what this start shows of cranking fuel; where earlier ones outweigh it, that they do."""
    leaning = leaning_of(case)
    if (leaning.direction > 0) == (way == "more"):
        return f" {leaning.sentence}"
    return (
        " By itself this start looks otherwise; the earlier ones and the engine data outweigh it."
    )


def _rises(changes: Sequence[CellChange]) -> bool:
    return sum(change.after - change.before for change in changes) > 0.0


def _chances(step: SearchStep) -> str:
    before, after = (quantity(100.0 * share, "%", 0) for share in (step.before, step.after))
    good = "a prompt run" if step.proposal.table == "cranking_fuel" else "living through it"
    return f"All starts so far make {good} {after} likely with it, and {before} as it is."


def _searched_part(step: SearchStep | None) -> list[MeasuredPart]:
    if step is None:
        return []
    part = _part(step.proposal)
    return [replace(part, because=f"Searched, not measured. {_chances(step)}", searched=True)]


def _part(part: CurveProposal) -> MeasuredPart:
    return MeasuredPart(
        part.table, part.changes, _because(part), part.bands, part.seen, part.trials
    )


def _because(part: CurveProposal) -> str:
    seen, count = sum(part.seen), len(part.seen)
    starts = "one start" if len(part.trials) < 2 else f"{len(part.trials)} starts"
    if seen == count:
        return f"Measured at {_cells(count)} by {starts}."
    if not seen:
        return f"Follows at {_cells(count)} from what {starts} measured elsewhere."
    return f"Measured at {seen} of {_cells(count)} by {starts}; the others follow from it."


def _cells(count: int) -> str:
    return "one cell" if count == 1 else f"{count} cells"


def _same_quantity(first: str, second: str) -> bool:
    """Say whether two tables put the same right: taken together they would do it twice."""
    return first == second or {first, second} == {"ve", "warm_up_enrichment"}


def _by_the_way(parts: Sequence[MeasuredPart], weight: float) -> Advice:
    """Return what starts taught as an advice of its own; what was measured stands first."""
    first, *others = parts
    title = DEFINITIONS[first.table].title
    return Advice(
        SEARCHED if first.searched else MEASURED,
        first.table,
        first.changes,
        f"{title}: {first.because}",
        round((_SEARCHED_SURE if first.searched else _MEASURED_SURE) * weight, 2),
        "The next start through these temperatures measures something else.",
        tuple(others),
        bands=first.bands,
        seen=() if first.searched else first.seen,
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


def _matters(changes: Sequence[CellChange]) -> bool:
    """Say whether a change can be noticed: cells at their bounds, or a step within noise, cannot."""
    return any(
        abs(change.after - change.before) > _NOTICED * max(abs(change.before), 1.0)
        for change in changes
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
