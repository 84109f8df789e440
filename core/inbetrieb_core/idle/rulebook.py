"""The rules of the hot idle as they stand: what is looked at, what follows, why, and what disproves it."""

from __future__ import annotations

from dataclasses import dataclass

from .air import SEEN_SHARE
from .closing import GOOD_PCT, GOOD_RPM
from .hunting import STEADY_RPM
from .settings import AIR_STEP, BIGGER_CAM
from .stop import SITS_HIGH, SITS_LOW
from .sweep import STICKS_PCT


@dataclass(frozen=True)
class IdleRule:
    """One rule. Common practice, no source.

    Attributes
    ----------
    identifier : str
    when, then, because : str
        Condition, what follows, and why.
    school : str
        Whose practice it is; "all" where nobody differs.
    disproof : str
        What would show that it was wrong here.
    """

    identifier: str
    when: str
    then: str
    because: str
    school: str
    disproof: str


IDLE_RULES: tuple[IdleRule, ...] = (
    IdleRule(
        "stop-first",
        f"the warm valve sits outside {100 * SITS_LOW:.0f} to {100 * SITS_HIGH:.0f} % of its working range",
        "turn the throttle stop, not the table",
        "a valve at its end can neither add air for the cold nor take it away after a flare",
        "all",
        "speed does not follow the valve at all: then it is no question of the stop",
    ),
    IdleRule(
        "return",
        f"throttle or speed come back to different places by more than {GOOD_PCT:g} % or {GOOD_RPM:.0f} rpm",
        "mend cable, spring, shaft or dirt first",
        "every table of the idle is read at one place of the throttle",
        "all",
        "the throttle comes back to the same place and only speed differs: then look at valve and loads",
    ),
    IdleRule(
        "real-limits",
        "a sweep tells where speed begins and ceases to follow",
        "take these openings as the valve's limits into the idle tables",
        "outside of them the loop winds up without an effect",
        "all",
        "a second sweep tells other limits by more than their width",
    ),
    IdleRule(
        "inverted",
        "speed falls while the opening rises",
        "turn the output's direction round in the controller",
        "the loop runs away from its target",
        "all",
        "after it speed still falls: then another output is connected",
    ),
    IdleRule(
        "sticking",
        f"up and down need openings more than {STICKS_PCT:.0f} % apart",
        "clean the valve, look at its spring, try another drive frequency",
        "a loop that fights friction hunts",
        "all",
        "hysteresis stays with a new valve: then it is the driver",
    ),
    IdleRule(
        "unmetered-air",
        f"more air is breathed than meter, or stop and valve, pass, by {100 * SEEN_SHARE:.0f} % of the idle air and more",
        "find the leak before fuel is touched",
        "fuel that is tuned to a leak is wrong at every other load",
        "all",
        "closing every hose changes nothing: then filling or meter is wrong",
    ),
    IdleRule(
        "hunting",
        f"speed swings by more than ±{STEADY_RPM:.0f} rpm with a period, and one loop explains nearly half of it",
        "halve that loop, and nothing else",
        "of all that swings the cause is what is large enough to make the swing",
        "all",
        "it swings as before with that loop switched off",
    ),
    IdleRule(
        "target-low",
        "the low school is chosen",
        "700 to 800 rpm warm, even with a big cam",
        "less heat, less creeping, less noise; the cold target falls to it well before full temperature",
        "low",
        "it sags from a stop: raise it until it does not",
    ),
    IdleRule(
        "target-high",
        "the high school is chosen",
        "950 to 1000 rpm warm",
        "a big cam fires more evenly, and loads pull it down less far",
        "high",
        "it creeps in gear or overheats standing",
    ),
    IdleRule(
        "bigger-cam",
        "a bigger cam was fitted",
        f"{100 * (BIGGER_CAM - 1.0):.0f} % more idle air to begin with, less beside it; then {100 * AIR_STEP:.0f} % by what it does",
        "residual gas takes the place of fresh charge",
        "all",
        "it hangs high at once: go back",
    ),
)
