"""The hot idle: stop, return, sweep, air, hunting, loads, and the one verdict over them."""

from .air import (
    CarriedAir,
    IdleAir,
    ValveFlow,
    carried_air,
    judge_idle_air,
)
from .breathing import IdleReading, idle_air_of, idle_reading
from .closing import Closing, ReturnTest, closings_of, judge_return
from .habits import Habit, habits, mixture_cost
from .hunting import Hunting, LoopShare, judge_hunting
from .into_tables import after_air_step, spark_table, within_limits
from .loads import LOADS, LoadKind, LoadResult, judge_load, load_in_log, load_onset
from .plateaus import Plateau
from .rulebook import IDLE_RULES, IdleRule
from .settings import (
    AIR_STEPS,
    TARGET_OFFSETS_RPM,
    AirStep,
    AirStepKey,
    IdleSpark,
    LoopGains,
    StepResponse,
    air_step,
    idle_spark,
    loop_gains,
    step_response,
    target_curve,
)
from .stop import StopAdvice, StopReading, judge_stop
from .sweep import Sweep, fit_sweep
from .sweep_plan import SweepPlan
from .verdict import IdleFacts, Point, WarmIdle, warm_idle

__all__ = [
    "within_limits",
    "spark_table",
    "idle_reading",
    "idle_air_of",
    "after_air_step",
    "StepResponse",
    "IdleReading",
    "AirStepKey",
    "AIR_STEPS",
    "IDLE_RULES",
    "LOADS",
    "TARGET_OFFSETS_RPM",
    "AirStep",
    "CarriedAir",
    "Closing",
    "Hunting",
    "IdleAir",
    "IdleFacts",
    "IdleRule",
    "IdleSpark",
    "LoadKind",
    "LoadResult",
    "LoopGains",
    "LoopShare",
    "Plateau",
    "Point",
    "ReturnTest",
    "StopAdvice",
    "StopReading",
    "Sweep",
    "ValveFlow",
    "WarmIdle",
    "air_step",
    "carried_air",
    "closings_of",
    "Habit",
    "SweepPlan",
    "habits",
    "mixture_cost",
    "fit_sweep",
    "idle_spark",
    "judge_hunting",
    "judge_idle_air",
    "judge_load",
    "judge_return",
    "judge_stop",
    "load_in_log",
    "load_onset",
    "loop_gains",
    "step_response",
    "target_curve",
    "warm_idle",
]
