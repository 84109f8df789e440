"""When the next true cold start can be had, and what each morning of a season is good for."""

from .entry import MorningsEntry, checked_mornings
from .experiments import Experiment, experiments
from .plan import PlannedMorning, SeasonPlan, season_plan
from .soak import Cooling, ParkedReading, Ready, fit_cooling, ready
from .told import (
    cooling_sentence,
    experiment_sentence,
    ready_between,
    ready_sentence,
    season_sentence,
    tomorrow_sentence,
)
from .weather import Morning, days_ahead, read_minima, typed_minima

__all__ = [
    "Cooling",
    "Experiment",
    "Morning",
    "MorningsEntry",
    "ParkedReading",
    "PlannedMorning",
    "Ready",
    "SeasonPlan",
    "checked_mornings",
    "days_ahead",
    "experiments",
    "fit_cooling",
    "read_minima",
    "ready",
    "season_plan",
    "tomorrow_sentence",
    "typed_minima",
    "season_sentence",
    "ready_sentence",
    "ready_between",
    "experiment_sentence",
    "cooling_sentence",
]
