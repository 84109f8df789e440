"""What a start taught of a start table: the only thing that the estimate is fed with."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import Literal

Kind = Literal["measured", "bounded", "outcome", "like"]


@dataclass(frozen=True)
class FuelMapPlace:
    """Where the fuel map acted when a mixture was read, and what it held there.

    Attributes
    ----------
    rpm, map_kpa : float
        [1/min, kPa]
    filling_pct : float
        Fuel map in force there. [%]
    """

    rpm: float
    map_kpa: float
    filling_pct: float


@dataclass(frozen=True)
class CrankingOutcome:
    """How cranking went, with the fuel that was given.

    Attributes
    ----------
    fuel_pct : float
        Cranking fuel in force. [% of the reference pulse]
    prime_ms : float
        Prime pulse in force. [ms]
    ran : bool
        Whether the engine ran by itself.
    run_after_s : float or None
        Cranking until it ran. [s]
    prompt : bool
        Whether it ran so soon that how soon says no more; then `run_after_s` is that limit.
    cranked_s : float or None
        Cranking until it was given up. [s]
    lean_log_odds : float
        What its other signs say: ln(too lean ÷ too rich). [–]
    opening_pct : float or None
        Whole opening of the idle valve while cranking. [%]
    counted : bool
        Whether the seconds were counted by a person instead of read from a log.
    handover : bool
        Whether it fired and died on leaving cranking: by this fuel, or by what comes after it.
    attempt : int
        Which attempt of the same morning it was: earlier ones left fuel on the walls.
    shared : bool
        Whether the fuel that follows cranking had its part in how late it ran.
    thinner : float
        By how much its charge weighed less than in ordinary air; the fuel was so much richer. [ln]
    """

    fuel_pct: float
    prime_ms: float
    ran: bool
    run_after_s: float | None = None
    cranked_s: float | None = None
    lean_log_odds: float = 0.0
    opening_pct: float | None = None
    counted: bool = False
    prompt: bool = False
    handover: bool = False
    attempt: int = 1
    shared: bool = False
    thinner: float = 0.0


@dataclass(frozen=True)
class RunUpOutcome:
    """How the engine lived through the first seconds after it ran, with the fuel that was given.

    Attributes
    ----------
    after_start_pct, warm_up_pct : float
        In force at the coolant of the start. [%]
    died : bool
        Whether it died before the after-start enrichment had faded.
    dip_share : float or None
        How far speed fell below its target, as a share of it; 0 where it did not. [–]
    hung_s : float or None
        How long it hung at a low speed after leaving cranking. [s]
    lean_log_odds : float
        What its other signs say: ln(too lean ÷ too rich). [–]
    counted : bool
        Whether a person saw it instead of a log.
    handover : bool
        Whether it died on leaving cranking: by this fuel, or by that of cranking.
    flare_share : float
        How far it ran up above its target, as a share of it: from high it falls deeper. [–]
    """

    after_start_pct: float
    warm_up_pct: float
    died: bool
    dip_share: float | None = None
    hung_s: float | None = None
    lean_log_odds: float = 0.0
    counted: bool = False
    handover: bool = False
    flare_share: float = 0.0


@dataclass(frozen=True)
class Evidence:
    """One thing that one start taught of one table, net of what the tables in force gave.

    Attributes
    ----------
    quantity : str
        Key of the start table.
    kind : {"measured", "bounded", "outcome", "like"}
        Read from the log; only a side of a limit; only whether it worked; told by like engines, which
        narrows the prior and is no reading of this one.
    coolant_c : float
        Where. [°C]
    value : float
        The need, in the table's own meaning. For an outcome what was given. [unit of the table]
    spread : float
        Standard error in the coordinate in which the table is estimated; see
        :mod:`.coordinates`. [–]
    basis : str
        Mark of the injectors, fuel and cam on which it stands; it is void with others.
    trial : int or None
        Number of the trial.
    fuel_map : FuelMapPlace or None
        For a mixture, where the fuel map acted.
    outcome : CrankingOutcome or None
        Of cranking.
    run_up : RunUpOutcome or None
        Of the first seconds after it ran.
    common : float
        The part of `spread` that all readings of its log may be off together, two of them by the smaller
        of theirs. [–]
    """

    quantity: str
    kind: Kind
    coolant_c: float
    value: float
    spread: float
    basis: str = ""
    trial: int | None = None
    fuel_map: FuelMapPlace | None = field(default=None)
    outcome: CrankingOutcome | None = field(default=None)
    run_up: RunUpOutcome | None = field(default=None)
    common: float = 0.0

    def of_trial(self, number: int) -> Evidence:
        """Return the same evidence marked with the trial that it comes from."""
        return replace(self, trial=number)
