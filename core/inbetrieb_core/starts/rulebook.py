"""The rulebook of cold starting: what to change when, why, and which school says so.

Rules stand in the order in which a start uses its tables. The first that applies is the
advice; later ones wait. Blocking causes (:mod:`.findings`) come before every table. All of
it is common practice of the trade with no published source.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from ..sentences import celsius
from . import cranking_remedies, running_remedies
from .case import Case
from .proposal import Proposal


@dataclass(frozen=True)
class Rule:
    """One rule of the book.

    Attributes
    ----------
    identifier : str
        Stable name.
    table : str
        The one table it changes.
    condition : str
        When it applies, in words.
    why : str
        What happens in the engine.
    school : str
        Who works this way.
    disproof : str
        What at the next start would prove it wrong.
    applies : callable
        The condition.
    propose : callable
        The change.
    """

    identifier: str
    table: str
    condition: str
    why: str
    school: str
    disproof: str
    applies: Callable[[Case], bool]
    propose: Callable[[Case], Proposal]


_SHOT = "The school of a real prime shot; the other leaves it to cranking fuel."
_ALL = "All schools."

RULES: tuple[Rule, ...] = (
    Rule(
        "prime-no-fire",
        "prime_pulse",
        "no fire at all, prime shot in use and no nearer to the engine data than cranking fuel, fewer than two tries",
        "Dry walls swallow the first injections; a shot at key-on wets them before cranking.",
        _SHOT,
        "It still does not fire: then it is cranking fuel, spark or pressure.",
        cranking_remedies.prime_applies,
        cranking_remedies.raise_prime,
    ),
    Rule(
        "warm-up-neutral",
        "warm_up_enrichment",
        "warm-up enrichment below none",
        "The table contradicts its own meaning, and every later judgement stands on it.",
        _ALL,
        "The next start is clearly worse than this one.",
        running_remedies.contradicts_itself,
        running_remedies.neutral_warm_up,
    ),
    Rule(
        "cranking-fuel-no-fire",
        "cranking_fuel",
        "no fire at all, prime tried or not in use",
        "Too little or too much vapour to light; the direction is not always known.",
        _ALL,
        "It takes longer still, or there is less sign of firing.",
        cranking_remedies.never_fired,
        cranking_remedies.search_cranking_fuel,
    ),
    Rule(
        "cranking-fuel-died",
        "cranking_fuel",
        "fired and died at once while cranking",
        "The first charge burned but the next had too little vapour.",
        _ALL,
        "It fires later or not at all: then go the other way.",
        cranking_remedies.died_in_cranking,
        cranking_remedies.search_cranking_fuel,
    ),
    Rule(
        "cranking-fuel-late",
        "cranking_fuel",
        f"ran later than 1.5 s of cranking (2.5 s below {celsius(-5)})",
        "Both too lean and too rich delay the first fire.",
        _ALL,
        "It takes longer to fire: then go the other way by half a step.",
        cranking_remedies.ran_late,
        cranking_remedies.search_cranking_fuel,
    ),
    Rule(
        "cranking-air-pedal",
        "cranking_air",
        "started only with the pedal",
        "The driver's foot supplied the air that cranking air should.",
        _ALL,
        "It still needs the pedal.",
        cranking_remedies.needed_the_pedal,
        cranking_remedies.more_cranking_air,
    ),
    Rule(
        "cranking-air-weak",
        "cranking_air",
        "ran up to less than 150 rpm below the target",
        "Too little air to climb away from cranking speed.",
        _ALL,
        "It runs up no higher: then it is fuel, not air.",
        cranking_remedies.weak_run_up,
        cranking_remedies.more_cranking_air,
    ),
    Rule(
        "cranking-air-flare",
        "cranking_air",
        "flared more than 450 rpm above the target",
        "Too much air right after the start.",
        _ALL,
        "It flares as high but cranks longer: then take air from the idle valve.",
        cranking_remedies.flared_high,
        cranking_remedies.less_cranking_air,
    ),
    Rule(
        "cranking-air-loop",
        "cranking_air",
        "dipped more than 250 rpm after a flare during which the loop had closed the valve",
        "The loop answers a flare by closing the valve, and opens it too late for the fall.",
        _ALL,
        "It flares less and dips as deep: then it is fuel.",
        cranking_remedies.dipped_by_loop,
        cranking_remedies.lower_flare,
    ),
    Rule(
        "idle-air-flare",
        "idle_valve",
        "flared more than 450 rpm above the target without any cranking air",
        "The running air alone is too much for the first seconds.",
        _ALL,
        "It flares as high and idles too slowly: then it is fuel.",
        cranking_remedies.flared_without_air,
        cranking_remedies.less_idle_air,
    ),
    Rule(
        "idle-air-held",
        "idle_valve",
        "the loop held the valve more than 6 % and 2 points away from its table",
        "The table has to hold the speed before the loop acts, and where it cannot.",
        _ALL,
        "The valve stands as far from its table as before.",
        running_remedies.loop_holds_idle,
        running_remedies.take_valve_as_held,
    ),
    Rule(
        "warm-up-outlived",
        "warm_up_enrichment",
        "died when the after-start enrichment had nearly faded, lambda unknown",
        "What is left then is the warm-up's fuel alone.",
        _ALL,
        "It dies sooner: then go the other way.",
        running_remedies.outlived_after_start,
        running_remedies.search_warm_up,
    ),
    Rule(
        "after-start",
        "after_start_enrichment",
        "petered out or dipped after the start, or usable lambda says rich or lean early",
        "The walls still fill, or are already full: fuel after the first seconds does not match.",
        _ALL,
        "It dips deeper or dies sooner: then go the other way.",
        running_remedies.after_start_applies,
        running_remedies.change_after_start,
    ),
    Rule(
        "warm-up",
        "warm_up_enrichment",
        "usable lambda off by more than 5 % once settled, cold",
        "A cold engine burns only part of its fuel, and that part is now measured.",
        _ALL,
        "Lambda does not move by what was changed: then it is supply or sensor.",
        running_remedies.warm_up_applies,
        running_remedies.change_warm_up,
    ),
    Rule(
        "warm-fuel-idle",
        "ve",
        "usable lambda off by more than 5 % at warm idle, or rich without any warm-up enrichment",
        "No start table acts here; the fuel table itself is off where the engine idles.",
        _ALL,
        "Lambda does not move by what was changed: then it is supply or sensor.",
        running_remedies.warm_fuel_applies,
        running_remedies.correct_warm_fuel,
    ),
    Rule(
        "idle-air",
        "idle_valve",
        "steady speed more than 80 rpm off its target, or starved",
        "Speed settles where air and friction balance.",
        _ALL,
        "Speed does not follow the valve: then look at the stop and for unmetered air.",
        running_remedies.idle_off,
        running_remedies.change_idle_valve,
    ),
)
