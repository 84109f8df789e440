"""Run sheets: steps that follow from the job, readings with their stops, clocks."""

from .first_start import OUTCOMES, Outcome, Setup, contradiction, outcome_of, steps_of
from .gates import GATE_RISKS
from .live_readings import readings_now
from .readings import Judged, judge_reading
from .run_in import RunIn, RunInClock, run_in_of
from .steps import PARTS, Clock, Reading, Step
from .told import told_of
from .watch import Watched, watch

__all__ = [
    "GATE_RISKS",
    "OUTCOMES",
    "PARTS",
    "Clock",
    "Judged",
    "Outcome",
    "Reading",
    "RunIn",
    "RunInClock",
    "Setup",
    "Step",
    "Watched",
    "contradiction",
    "judge_reading",
    "outcome_of",
    "readings_now",
    "run_in_of",
    "steps_of",
    "told_of",
    "watch",
]
