"""Injectors and supply in one engine: can they feed it, and how is it known."""

from .entry import (
    REGULATORS,
    DeadTimeEntry,
    InjectorEntry,
    RegulatorKind,
    ReportEntry,
    SupplyEntry,
)
from .full_load import FullLoad, full_load
from .judgement import InjectorJudgement, judge_injectors
from .margin import Supply, SupplyMargin, supply_margin
from .modes import InjectionMode, Signals, injection_modes
from .operating_points import steady_points
from .prime import (
    DecayResult,
    PrimeResult,
    judge_decay,
    judge_prime,
    prime_readings,
)
from .pump import PUMPS, LibraryPump, Line, PumpCurve, PumpFlow
from .sheet import InjectorSheet, SupplySheet, injector_sheet, supply_sheet

__all__ = [
    "PUMPS",
    "REGULATORS",
    "DeadTimeEntry",
    "DecayResult",
    "FullLoad",
    "InjectionMode",
    "InjectorEntry",
    "InjectorJudgement",
    "InjectorSheet",
    "LibraryPump",
    "Line",
    "PrimeResult",
    "PumpCurve",
    "PumpFlow",
    "RegulatorKind",
    "ReportEntry",
    "Signals",
    "Supply",
    "SupplyEntry",
    "SupplyMargin",
    "SupplySheet",
    "full_load",
    "injection_modes",
    "injector_sheet",
    "judge_decay",
    "judge_injectors",
    "judge_prime",
    "prime_readings",
    "steady_points",
    "supply_margin",
    "supply_sheet",
]
