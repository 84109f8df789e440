"""A start trial: from a log or an observation to phases, figures, verdict and advice."""

from .acceptance import CHECKS_C, POINTS, Acceptance
from .case import SAME_TEMPERATURE_K
from .chances import (
    NEAR_PROOF_K,
    PROOF_STARTS,
    Chance,
    Coverage,
    chances,
    good_of_draws,
    twice_good,
)
from .findings import stood_long_enough
from .judge import judge_log, judge_observation, judge_start, past_try
from .model import (
    Advice,
    Finding,
    MeasuredPart,
    Observation,
    PastTry,
    Phase,
    StartAnalysis,
    StartFigures,
    StartSetting,
    Wait,
)
from .outcomes import VERDICTS, Verdict
from .parts import AdvicePart, PartKind, parts_of, parts_taken
from .rulebook import RULES, Rule
from .seen import StartSeen, starts_seen
from .window import NoStartError, StartWindow, find_starts

__all__ = [
    "CHECKS_C",
    "NEAR_PROOF_K",
    "POINTS",
    "PROOF_STARTS",
    "RULES",
    "SAME_TEMPERATURE_K",
    "VERDICTS",
    "Acceptance",
    "Advice",
    "AdvicePart",
    "Chance",
    "Coverage",
    "Finding",
    "MeasuredPart",
    "NoStartError",
    "Observation",
    "PartKind",
    "PastTry",
    "Phase",
    "Rule",
    "StartAnalysis",
    "StartFigures",
    "StartSeen",
    "StartSetting",
    "StartWindow",
    "Verdict",
    "Wait",
    "chances",
    "good_of_draws",
    "find_starts",
    "judge_log",
    "judge_observation",
    "judge_start",
    "parts_of",
    "parts_taken",
    "past_try",
    "starts_seen",
    "stood_long_enough",
    "twice_good",
]
