"""Whether what went wrong in a start may be chance: the same tables have just started well here."""

from __future__ import annotations

from ..estimate import SAME_PLACE_K
from .acceptance import Point, acceptance_of
from .case import Case

#: Fuel within so much was the same. [ln]
_SAME_FUEL = 0.03
#: By searched table: what its fuel decides, and the tables that give it with what is added before
#: their logarithm.
_DECIDES: dict[str, tuple[Point, ...]] = {
    "cranking_fuel": ("run",),
    "after_start_enrichment": ("run", "stall", "dip"),
}
_GIVEN_BY = {
    "cranking_fuel": {"cranking_fuel": 0.0, "prime_pulse": 0.1},
    "after_start_enrichment": {"after_start_enrichment": 100.0, "warm_up_enrichment": 0.0},
}


def may_be_chance(case: Case, table: str) -> bool:
    """Return whether a start that ran, but not well, is best repeated before its fuel is changed.

    Engines differ from start to start by more than a small step does. Where the last start at this
    temperature had the same fuel and passed with margin what the fuel decides, one that ran late or
    dipped says little, and a step for it would move tables that were right. A second one in a row, if
    only at the edge, is no chance.

    Parameters
    ----------
    case : Case
        The start.
    table : {"cranking_fuel", "after_start_enrichment"}
        That is searched by outcomes.
    """
    if case.verdict != "started":
        return False
    for key, offset in _GIVEN_BY[table].items():
        here = [
            (departure, past)
            for departure, past in case.departures(key, offset)
            if abs(past.figures.coolant_c - case.figures.coolant_c) <= SAME_PLACE_K
        ]
        if not here or abs(here[-1][0]) > _SAME_FUEL:
            return False
        _, last = here[-1]
        if set(_DECIDES[table]) & set(acceptance_of(last.verdict, last.figures).asks_for_change):
            return False
    return True
