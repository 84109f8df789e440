"""Advice in words: what happened, what to change or look at, and why."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from ..causes import CAUSES, Diagnosis
from ..estimate import CurveProposal, SearchStep
from ..sentences import celsius, quantity
from ..tables import DEFINITIONS, CellChange
from .case import Case
from .cranking_remedies import how_cranking_went
from .model import MEASURE, MEASURED, SEARCHED, Advice, MeasuredPart
from .outcomes import DIED
from .proposal import Proposal
from .rich_or_lean import leaning_of, shown_by_itself
from .rulebook import Rule
from .running_remedies import how_it_ran_up

#: How sure what was measured is, and a step that outcomes make likelier. [–]
_MEASURED_SURE, _SEARCHED_SURE = 0.85, 0.5
#: Below this share of what a prompt start gets, a controller's falling cranking fuel is told. [–]
_FELL_SHARE = 0.8
#: Tables that wet the walls while cranking.
CRANKED_WITH = ("cranking_fuel", "prime_pulse")


def ruled_advice(
    rule: Rule, proposal: Proposal, part: CurveProposal | None, weight: float
) -> Advice:
    """Return what a rule asks for, with the values that the estimate gives where it goes along.

    Parameters
    ----------
    rule : Rule
    proposal : Proposal
        Of the rule itself.
    part : CurveProposal or None
        The estimate's cells of the same table.
    weight : float
        What this kind of evidence counts. [–]
    """
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


def searched_advice(case: Case, rule: Rule, step: SearchStep, weight: float) -> Advice:
    """Return the one searched step as an advice.

    Parameters
    ----------
    case : Case
        The start.
    rule : Rule
        That asks for it.
    step : SearchStep
    weight : float
        What this kind of evidence counts. [–]
    """
    table = step.proposal.table
    way = "more" if _rises(step.proposal.changes) else "less"
    if table in CRANKED_WITH:
        happened, why_so, shown = how_cranking_went(case), _why_so(case, way), 0
    else:
        happened, why_so, shown = how_it_ran_up(case), "", shown_by_itself(case)
    title = DEFINITIONS[table].title.lower()
    return Advice(
        rule.identifier,
        table,
        step.proposal.changes,
        f"{happened}: try {way} {title}. {_chances(step, shown)}{why_so} {rule.why}"
        f"{_looks_the_same(case, table)}{_why_prime(case, table)}{_fell(case, table)}",
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


def _why_prime(case: Case, table: str) -> str:
    """Return why a step of fuel goes into the prime pulse."""
    if table != "prime_pulse":
        return ""
    return (
        f" Prime and cranking fuel share one need: the step goes into the prime of "
        f"{quantity(case.value(table), 'ms', 1)}, which stands farther from its part or has the room left."
    )


def _fell(case: Case, table: str) -> str:
    """Return how far the controller had run cranking fuel down by then, where it does so."""
    half, share = case.setting.fading.cranking_half_turns, case.cranked_share
    if half is None or table not in CRANKED_WITH or share > _FELL_SHARE:
        return ""
    return (
        f" The controller halves cranking fuel every {quantity(half, 'turns', 0)}: over this cranking it "
        f"gave {quantity(100.0 * share, '%', 0)} of what a prompt start gets, and the step counts from "
        "there. Wait until walls and plugs are dry before the next attempt."
    )


def _looks_the_same(case: Case, table: str) -> str:
    """Return which other tables would let an engine die alike, before anything tells of its mixture."""
    if table != "after_start_enrichment" or case.verdict not in DIED or case.gross_need is not None:
        return ""
    return (
        " Warm-up enrichment or a fuel map that is off would look the same, until a start lives long "
        "enough for the wideband to wake."
    )


def _rises(changes: Sequence[CellChange]) -> bool:
    return sum(change.after - change.before for change in changes) > 0.0


def _chances(step: SearchStep, shown: int = 0, *, asked: bool = True) -> str:
    before, after = (quantity(100.0 * share, "%", 0) for share in (step.before, step.after))
    good = "a prompt run" if step.proposal.table in CRANKED_WITH else "living through it"
    if not asked:
        return f"All starts so far make {good} at {celsius(step.coolant_c)} {after} likely with it, and {before} as it is."
    if round(100.0 * step.after) <= round(100.0 * step.before):
        if shown:
            missing = "too little" if shown > 0 else "too much"
            return (
                f"This start shows by itself that it had {missing}, and the step goes no other way, though all "
                f"starts so far make {good} {before} likely as it is and {after} with it."
            )
        return f"All starts so far make {good} {before} likely either way: this try finds the side."
    return f"All starts so far make {good} {after} likely with it, and {before} as it is."


def measured_part(part: CurveProposal) -> MeasuredPart:
    """Return what was measured of one table by the way."""
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


def searched_part(step: SearchStep | None) -> list[MeasuredPart]:
    """Return a searched step that is offered beside an advice; none where there is none."""
    if step is None:
        return []
    part = measured_part(step.proposal)
    return [
        replace(
            part, because=f"Searched, not measured. {_chances(step, asked=False)}", searched=True
        )
    ]


def by_the_way(parts: Sequence[MeasuredPart], weight: float) -> Advice:
    """Return what starts taught as an advice of its own; what was measured stands first.

    Parameters
    ----------
    parts : sequence of MeasuredPart
        At least one.
    weight : float
        What this kind of evidence counts. [–]
    """
    first, *others = parts
    title = DEFINITIONS[first.table].title
    asked = " This start does not ask for it, others may." if first.searched else ""
    return Advice(
        SEARCHED if first.searched else MEASURED,
        first.table,
        first.changes,
        f"{title}:{asked} {first.because}",
        round((_SEARCHED_SURE if first.searched else _MEASURED_SURE) * weight, 2),
        "A start at that temperature which is no better with it."
        if first.searched
        else "The next start through these temperatures measures something else.",
        tuple(others),
        bands=first.bands,
        seen=() if first.searched else first.seen,
    )


def measurement(case: Case, diagnosis: Diagnosis, weight: float, *, chance: bool = False) -> Advice:
    """Return what to measure next where no table and no cause explains a start.

    Parameters
    ----------
    case : Case
        The start.
    diagnosis : Diagnosis
        Its test is told.
    weight : float
        What this kind of evidence counts. [–]
    chance : bool
        Whether the last start here passed with the same tables.
    """
    test = f" {diagnosis.test}" if diagnosis.test else ""
    why = (
        "The last start at this temperature passed with the same tables, so this one may be chance"
        if chance
        else "No table explains it"
    )
    return Advice(
        MEASURE,
        None,
        (),
        f"{case.acceptance.sentence} {why}: repeat this start unchanged after a full soak and log it "
        f"to the end.{test}",
        round(0.4 * weight, 2),
        "The same start comes out otherwise: then it was chance.",
    )


def checks_first(chance: float, weight: float) -> Advice:
    """Return what to look at when hardly anybody expected this outcome.

    Parameters
    ----------
    chance : float
        Of the outcome, by all other starts. [–]
    weight : float
        What this kind of evidence counts. [–]
    """
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


def cause_first(diagnosis: Diagnosis, weight: float) -> Advice:
    """Return what to do about the leading cause, as advice without a table.

    Parameters
    ----------
    diagnosis : Diagnosis
        What may be wrong under the bonnet.
    weight : float
        What this kind of evidence counts. [–]
    """
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
