"""The bench engine: a simulated engine and controller, a stand-in for practice and tests."""

from .conditions import BenchRun, StartConditions
from .cranking import EDGE_FAULTS, EdgeFaultKind, simulate_cranking, simulate_light
from .drive import DRIVE_FAULTS, Leg, drawn_legs, simulate_drive, stepped_legs
from .engines import NAMED, BenchEngine, stand_in
from .faults import FAULTS, Fault, FaultKind, apply_faults
from .held import IDLE_ONLY, USUAL_POINTS, HeldPoint, simulate_held
from .idling import IdleLoops, IdleTrouble, simulate_idle, sweep_duty
from .live import BenchSource, LiveSetup
from .live_faults import LIVE_FAULTS
from .pulls import PULL_FAULTS, PullTruth, drawn_truth, simulate_pull, with_pull_faults
from .sensors import SENSOR_FAULTS, SensorFaultKind, simulate_key_on
from .simulate import simulate_start
from .truth import EngineTruth
from .valves import STRAIGHT_VALVE, VALVE_KINDS, ValveHardware

__all__ = [
    "LIVE_FAULTS",
    "DRIVE_FAULTS",
    "Leg",
    "drawn_legs",
    "simulate_drive",
    "PULL_FAULTS",
    "PullTruth",
    "drawn_truth",
    "simulate_pull",
    "with_pull_faults",
    "STRAIGHT_VALVE",
    "VALVE_KINDS",
    "BenchSource",
    "LiveSetup",
    "sweep_duty",
    "simulate_idle",
    "ValveHardware",
    "IdleTrouble",
    "IdleLoops",
    "EDGE_FAULTS",
    "FAULTS",
    "IDLE_ONLY",
    "NAMED",
    "SENSOR_FAULTS",
    "USUAL_POINTS",
    "BenchEngine",
    "BenchRun",
    "EdgeFaultKind",
    "EngineTruth",
    "Fault",
    "FaultKind",
    "HeldPoint",
    "SensorFaultKind",
    "StartConditions",
    "apply_faults",
    "simulate_cranking",
    "simulate_held",
    "simulate_key_on",
    "simulate_light",
    "simulate_start",
    "stand_in",
    "stepped_legs",
]
