"""The bench engine: a simulated engine and controller, a stand-in for practice and tests."""

from .conditions import BenchRun, StartConditions
from .engines import NAMED, BenchEngine, stand_in
from .faults import FAULTS, Fault, FaultKind, apply_faults
from .simulate import simulate_start
from .truth import EngineTruth

__all__ = [
    "FAULTS",
    "NAMED",
    "BenchEngine",
    "BenchRun",
    "EngineTruth",
    "Fault",
    "FaultKind",
    "StartConditions",
    "apply_faults",
    "simulate_start",
    "stand_in",
]
