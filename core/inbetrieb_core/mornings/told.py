"""What the plan says, in plain sentences."""

from __future__ import annotations

from datetime import datetime, timedelta

from ..sentences import celsius, quantity
from .experiments import Experiment
from .plan import PlannedMorning, SeasonPlan
from .soak import COLD_WITHIN_K, Cooling, Ready


def tomorrow_sentence(morning: PlannedMorning) -> str:
    """Return what the next morning is good for.

    Parameters
    ----------
    morning : PlannedMorning
        The next one.
    """
    source = "forecast" if morning.forecast else "climate of the month"
    text = f"Next morning {celsius(morning.minimum_c)} ({source})"
    if not morning.worth:
        return f"{text}: a cold start there would teach next to nothing; let the battery rest."
    if morning.serves_c:
        text += f": a true cold start helps to prove {_temperatures(morning.serves_c)}"
    else:
        text += ": a true cold start tells of other temperatures, too"
    chance = quantity(100.0 * morning.good, "%", 0)
    return f"{text}. Chance of a good one with the tables in force: {chance}."


def season_sentence(plan: SeasonPlan) -> str:
    """Return how many cold starts the season needs.

    Parameters
    ----------
    plan : SeasonPlan
        Of the mornings that are known.
    """
    if not plan.open_c:
        return "Starts are proven at every check temperature."
    if not plan.mornings:
        return "Type the minima of the next days, or the climate, to plan the mornings."
    offered = tuple(c for c in plan.open_c if c not in plan.unoffered_c)
    parts = []
    if offered and plan.starts is not None:
        most = "more than these mornings give" if plan.high is None else f"{plan.high}"
        parts.append(
            f"About {plan.starts} cold starts until {_temperatures(offered)} "
            f"{'are' if len(offered) > 1 else 'is'} proven ({plan.low} to {most})."
        )
    elif offered:
        parts.append(
            f"These {len(plan.mornings)} mornings are hardly enough to prove {_temperatures(offered)}."
        )
    if plan.unoffered_c:
        parts.append(f"{_temperatures(plan.unoffered_c)} will hardly be had in these weeks.")
    return " ".join(parts)


def experiment_sentence(best: Experiment) -> str:
    """Return what to try before the next true cold start.

    Parameters
    ----------
    best : Experiment
        The restart that teaches most.
    """
    if best.kind == "hot":
        return "Until then a dry hot restart teaches most: rev up, switch off at the peak, start again."
    after = (
        "" if best.after_h is None else f", {quantity(best.after_h, 'h', 1)} after switching off"
    )
    return f"Until then a restart at {celsius(best.coolant_c)} teaches most{after}."


def cooling_sentence(cooling: Cooling) -> str:
    """Return how the engine cools.

    Parameters
    ----------
    cooling : Cooling
        Of this engine.
    """
    tau = quantity(cooling.tau_h, "h", 1)
    if not cooling.readings:
        return f"It cools with a time constant of about {tau}, as engines in a garage do: not read yet."
    count = "one parked reading" if cooling.readings == 1 else f"{cooling.readings} parked readings"
    return f"It cools with a time constant of {tau}, read from {count}."


def ready_between(stopped_at: str, ready: Ready) -> tuple[datetime, datetime, datetime]:
    """Return when it is cold right through, and the ends of its 90 % band.

    Parameters
    ----------
    stopped_at : str
        ISO moment with its offset.
    ready : Ready
        Hours from then.
    """
    begin = datetime.fromisoformat(stopped_at)
    at, low, high = (
        begin + timedelta(hours=hours) for hours in (ready.after_h, ready.low_h, ready.high_h)
    )
    return at, low, high


def ready_sentence(ready: Ready, ambient_c: float) -> str:
    """Return when a stopped engine is cold right through.

    Parameters
    ----------
    ready : Ready
        Hours from being switched off.
    ambient_c : float
        Air around it. [°C]
    """
    within = quantity(COLD_WITHIN_K, "K", 0)
    return (
        f"Within {within} of {celsius(ambient_c)} it is {quantity(ready.after_h, 'h', 1)} after being "
        f"switched off ({quantity(ready.low_h, 'h', 1)} to {quantity(ready.high_h, 'h', 1)})."
    )


def _temperatures(values: tuple[float, ...]) -> str:
    texts = [celsius(value) for value in values]
    return texts[0] if len(texts) == 1 else f"{', '.join(texts[:-1])} and {texts[-1]}"
