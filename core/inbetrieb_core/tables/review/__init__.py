"""Looking a calibration over: located findings, ranked, each with its rule."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Literal

from ..calibration import Calibration
from ..definitions import DEFINITIONS, START_TABLES
from . import curves, limits, maps, mistakes, trims
from .findings import RANK, ReviewContext, ReviewFinding, Severity

Rule = Callable[[Calibration, ReviewContext], Iterator[ReviewFinding]]

#: The tables each rule looks at need not all be there; a rule that lacks its table is silent.
_RULES: tuple[Rule, ...] = (
    mistakes.out_of_bounds, mistakes.swapped_axes, mistakes.doubled_lines, mistakes.plateaus,
    maps.outliers, maps.steps, maps.flats_at_limits, maps.targets, maps.leaner_than_burns,
    maps.spark_at_load, maps.more_spark_than_expected, maps.falling_filling,
    maps.filling_far_from_expected,
    curves.rising_curves, curves.curve_outliers, curves.cold_idle, curves.untouched_start_tables, curves.cranking_air,
    curves.dead_time, curves.flat_battery_tables, curves.valve_limits, curves.far_from_expected,
    limits.authority, limits.rev_limits, limits.overrun, limits.boost_cut, limits.boost_valve,
    limits.early_boost, limits.unwired_inputs,
    trims.trims,
)  # fmt: skip

#: What each rule is called on the screen.
RULE_TITLES: dict[str, str] = {
    "out_of_bounds": "No such value", "axes_swapped": "Axes swapped", "doubled": "Line copied twice",
    "plateau": "Block of one number", "bump": "Bump", "dip": "Dip",
    "spike": "Spike", "hole": "Hole", "step": "Step", "flat_at_limit": "Flat at a limit",
    "lean_at_load": "Lean at full load", "too_rich": "Too rich", "too_lean": "Too lean",
    "lean_under_boost": "Lean under boost", "spark_at_load": "No knock margin",
    "spark_caution": "Knock caution", "filling_falls": "Filling falls with load",
    "filling_off": "Filling off everywhere", "rising": "Not monotone",
    "cold_idle": "Cold idle not above warm", "untouched": "Never set",
    "cranking_air": "Too little cranking air", "dead_time": "Dead time rises",
    "battery_flat": "Same at every voltage", "valve_limit": "Valve at its limit",
    "far_from_expected": "Far from the engine data", "authority": "Closed loop too strong",
    "rev_limit": "Rev limit too high", "overrun": "Overrun cut", "boost_cut": "Boost cut",
    "boost_valve": "Boost valve", "early_boost": "Boost too early",
    "unwired_input": "Input not wired", "trim_at_stop": "Trim at its stop",
    "trim_everywhere": "Trims everywhere", "trim_local": "Trims in one place",
}  # fmt: skip


@dataclass(frozen=True)
class Review:
    """What a calibration looks like.

    Attributes
    ----------
    findings : tuple of ReviewFinding
        The gravest first.
    affected_share : float
        Cells named by a finding, of all cells. [–]
    verdict : {"sound", "repair", "start_afresh"}
    sentence : str
    """

    findings: tuple[ReviewFinding, ...]
    affected_share: float
    verdict: Literal["sound", "repair", "start_afresh"]
    sentence: str


def review(calibration: Calibration, context: ReviewContext | None = None) -> Review:
    """Return the findings of a calibration, ranked, and whether to repair it or start afresh.

    Parameters
    ----------
    calibration : Calibration
        As inherited; it is not changed.
    context : ReviewContext, optional
        What is known of the engine besides; without it only the tables themselves are judged.

    Returns
    -------
    Review
        Start afresh where more than a quarter of the cells are affected, or where four start
        tables cannot be worked with. Learned trims are no cells to repair: they count nothing.
    """
    known = context or ReviewContext()
    found = [f for rule in _RULES for f in rule(calibration, known) if _wanted(f, known)]
    found.sort(key=lambda f: (RANK[f.severity], -f.size / _scale(f.table), f.table))
    looked_at = [
        table
        for key, table in calibration.tables.items()
        if key != "learned_trim" and (known.only is None or key in known.only)
    ]
    named = {
        (f.table, cell)
        for f in found
        for cell in f.cells
        if f.table != "learned_trim" and f.severity != "note"
    }
    share = len(named) / max(1, sum(table.values.size for table in looked_at))
    verdict, sentence = _judged(found, share)
    return Review(tuple(found), share, verdict, sentence)


def _wanted(found: ReviewFinding, context: ReviewContext) -> bool:
    return context.only is None or not found.table or found.table in context.only


def _judged(
    found: list[ReviewFinding], share: float
) -> tuple[Literal["sound", "repair", "start_afresh"], str]:
    start_tables = {f.table for f in found if f.table in START_TABLES and f.severity == "stop"}
    grave = [f for f in found if f.severity != "note"]
    beyond = ""
    if any(f.rule == "trim_everywhere" for f in found):
        beyond = " Mend fuel pressure and injector data first: the trims are not a table fault."
    if share > _AFRESH_SHARE or len(start_tables) >= _AFRESH_START_TABLES:
        also = f", {len(start_tables)} start tables among them" if start_tables else ""
        return "start_afresh", (
            f"Start afresh from generated tables: {100 * share:.0f} % of the cells are affected{also}."
            + beyond
        )
    if grave:
        count = "one finding" if len(grave) == 1 else f"{len(grave)} findings"
        return "repair", f"Repair: {count} in {100 * share:.1f} % of the cells.{beyond}"
    return (
        "sound",
        "Nothing stands out." if not found else "Sound; there is only something to note.",
    )


#: More than this share of the cells, or so many unusable start tables, is more work to repair
#: than to generate (our own choice).
_AFRESH_SHARE, _AFRESH_START_TABLES = 0.25, 4


def _scale(key: str) -> float:
    if not key:
        return 1.0
    definition = DEFINITIONS[key]
    return definition.upper - definition.lower


__all__ = ["RULE_TITLES", "Review", "ReviewContext", "ReviewFinding", "Severity", "review"]
