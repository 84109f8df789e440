"""Run sheets: steps that follow from the job, readings with their stops, clocks."""

from .first_start import OUTCOMES, Outcome, Setup, outcome_of, steps_of
from .gates import GATE_RISKS
from .readings import Judged, judge_reading
from .run_in import RunIn, run_in_of
from .steps import PARTS, Clock, Reading, Step

__all__ = [
    "GATE_RISKS",
    "OUTCOMES",
    "PARTS",
    "Clock",
    "Judged",
    "Outcome",
    "Reading",
    "RunIn",
    "Setup",
    "Step",
    "judge_reading",
    "outcome_of",
    "run_in_of",
    "steps_of",
]
