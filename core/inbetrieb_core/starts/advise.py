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
from ..tables import DEFINITIONS, CellChange, Table, values_after
from .advice_words import (
    by_the_way,
    cause_first,
    checks_first,
    measured_part,
    measurement,
    ruled_advice,
    searched_advice,
    searched_part,
)
from .case import Case
from .chance import may_be_chance
from .cranking_remedies import failed_at_handover, runs_up_wrong
from .limits import limits_of
from .model import Advice, Wait
from .outcomes import STARTED
from .rich_or_lean import shown_by_itself
from .rulebook import RULES, Rule
from .running_remedies import contradicts_itself

#: A person's observation counts less than a log.
_OBSERVED_WEIGHT = 0.7
#: A change of a cell below this share of it is lost in what one start differs from the next. [–]
_NOTICED = 0.004
#: A measured change of air above this share explains how it ran up. [–]
_EXPLAINS = 0.1
#: The estimate is taken instead of a rule's own step where it does at least this share of it. [–]
_GOES_ALONG = 0.4
#: A searched step is at most so many first steps of the job's school. [–]
_SCHOOL_STEPS = 5.0
#: And so many where a start was accepted and only stands near a limit: there is little to gain.
_NEAR_STEPS = 2.0
#: By how much a step of cranking fuel has to promise more than one of what follows it, and by how much it
#: has to be likelier to blame. [–, –]
_CLEARLY, _CLEARLY_TO_BLAME = 1.25, 1.6
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
        return (cause_first(diagnosis, weight),), tuple(
            Wait(rule.identifier, rule.table, first) for rule in _one_each(pending)
        )
    logged = _was_logged(evidence)
    believed = estimate(case.setting.spec, case.calibration, evidence, searched=logged)
    limits, place = limits_of(case.calibration), case.figures.coolant_c
    proposals = measured_proposals(believed, case.calibration, limits, place)
    if asks and (surprised := _surprised(case, believed, evidence)) is not None:
        first = "Until it is known that this start was as it seemed, no table is changed."
        waits = tuple(Wait(r.identifier, r.table, first) for r in _one_each(pending))
        return (checks_first(surprised, weight),), waits
    # What may be chance is left alone. After a start that was accepted only a step is searched that
    # makes others likelier and this one no less likely: it costs no morning.
    searched = tuple(dict.fromkeys(_SEARCHED_BY.values()))
    patient = {key for key in searched if may_be_chance(case, key)}
    waiting = [rule for rule in pending if _SEARCHED_BY.get(rule.table) in patient]
    at_once = [rule for rule in pending if rule not in waiting]
    advice = _first_step(case, believed, proposals, at_once, weight)
    parts = [measured_part(proposal) for proposal in proposals.values()]
    for key in searched:
        if not asks and any(part.searched for part in parts):
            break  # one search step at a time
        free = advice is None or _SEARCHED_BY.get(advice.table or "") != key
        if free and key not in patient and key not in proposals:
            parts += searched_part(_search(case, believed, key, must=False))
    if advice is None:
        if parts:
            return (by_the_way(parts, weight),), ()
        chance = bool(waiting)
        return ((measurement(case, diagnosis, weight, chance=chance),) if asks else ()), ()
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
    if believed.cranking is None or (case.history and case.history[-1].asked_to_measure):
        return None
    here = [e for e in evidence if e.outcome is not None and e.trial is None]
    if not here:
        return None
    chance = chance_without(believed.cranking, case.setting.spec, here[-1])
    return chance if chance is not None and chance < _SURPRISE else None


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
            return by_the_way([measured_part(parts[air])], weight)
        if rule.table in _SEARCHED_BY:
            found = _searched_for(case, believed, rule)
            if found is not None:
                return searched_advice(case, *found, weight)
        proposal = rule.propose(case)
        part = parts.get(rule.table)
        if part is not None and _goes_along(case, rule.table, proposal.changes, part.changes):
            return ruled_advice(rule, proposal, part, weight)
        if _matters(proposal.changes):
            return ruled_advice(rule, proposal, None, weight)
    return None


def _searched_for(
    case: Case, believed: LadderEstimate, rule: Rule
) -> tuple[Rule, SearchStep] | None:
    """Return the searched step that a rule asks for.

    An engine that died on leaving cranking died of cranking fuel or of the fuel after it: that which is
    likelier to blame by all starts is moved.
    """
    step = _search(case, believed, _SEARCHED_BY[rule.table], must=True)
    if rule.table != "after_start_enrichment" or not failed_at_handover(case):
        return None if step is None else (rule, step)
    cranking = _search(case, believed, "cranking_fuel", must=True)
    if step is None or cranking is None:
        return None if step is None else (rule, step)
    # What follows cranking is the likelier cause: the other has to be so by some way.
    if _follows_cranking(case, believed, step, cranking):
        return rule, step
    return next(r for r in RULES if r.identifier == "cranking-fuel-died"), cranking


def _follows_cranking(
    case: Case, believed: LadderEstimate, step: SearchStep, cranking: SearchStep
) -> bool:
    """Say whether what follows cranking is moved: by what killed it, or what helps one that hung more."""
    if case.verdict in STARTED or believed.run_up is None or believed.cranking is None:
        return cranking.after * step.before <= _CLEARLY * cranking.before * step.after
    return believed.cranking.to_blame() <= _CLEARLY_TO_BLAME * believed.run_up.to_blame()


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
    steps = _SCHOOL_STEPS if case.acceptance.failed else _NEAR_STEPS
    return search_step(
        believed,
        case.calibration,
        limits_of(case.calibration),
        table=table,
        tried_c=case.figures.coolant_c,
        must=must,
        most=min(MOST_STEP, math.log1p(steps * case.setting.step)),
        way=shown_by_itself(case) if table == "after_start_enrichment" else 0,
        killed=must and table == "after_start_enrichment" and case.verdict not in STARTED,
    )


def _air_explains(case: Case, parts: Mapping[str, CurveProposal]) -> str | None:
    """Return the table of air whose measured change explains how it ran up, if there is one."""
    if case.evidence != "log" or not runs_up_wrong(case):
        return None
    for table in _AIR:
        if table not in parts:
            continue
        moved = _moved_at(case.calibration[table], parts[table].changes, case.figures.coolant_c)
        now = case.value("idle_valve") + max(case.value("cranking_air"), 0.0)
        if abs(moved) > _EXPLAINS * max(now, 5.0):
            return table
    return None


def _same_quantity(first: str, second: str) -> bool:
    """Say whether two tables put the same right: taken together they would do it twice."""
    return first == second or {first, second} == {"ve", "warm_up_enrichment"}


def _matters(changes: Sequence[CellChange]) -> bool:
    """Say whether a change can be noticed: cells at their bounds, or a step within noise, cannot."""
    return any(
        abs(change.after - change.before) > _NOTICED * max(abs(change.before), 1.0)
        for change in changes
    )


def _one_each(rules: Sequence[Rule]) -> list[Rule]:
    """Return the first rule of each table."""
    seen: dict[str, Rule] = {}
    for rule in rules:
        seen.setdefault(rule.table, rule)
    return list(seen.values())
