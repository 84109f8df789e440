"""What is read of the warm idle, version by version."""

from __future__ import annotations

from dataclasses import dataclass

from inbetrieb_core.idle import (
    Closing,
    Hunting,
    IdleAir,
    LoadResult,
    ReturnTest,
    StepResponse,
    StopReading,
    Sweep,
)

from server.entries.kinds import Kind


@dataclass(frozen=True)
class StandsOn:
    """What a reading stands on; it falls when that changes.

    Attributes
    ----------
    basis : str
        Injectors, fuel, cam and size of the engine.
    turned : float
        Turns of the throttle stop so far. [–]
    log_id : int or None
        Log that it was read from; None where it was typed.
    """

    basis: str
    turned: float
    log_id: int | None = None


@dataclass(frozen=True)
class StopSaved:
    """Readings at the throttle stop, oldest first."""

    readings: tuple[StopReading, ...]
    stands: StandsOn


@dataclass(frozen=True)
class ReturnSaved:
    """Closings of the throttle, and what they say."""

    closings: tuple[Closing, ...]
    result: ReturnTest
    stands: StandsOn


@dataclass(frozen=True)
class SweepSaved:
    """A valve sweep, from where to where of its log it was read [s], and how speed followed its steps."""

    result: Sweep
    start_s: float | None
    end_s: float | None
    stands: StandsOn
    followed: StepResponse | None = None


@dataclass(frozen=True)
class HuntingSaved:
    """Whether it hunts."""

    result: Hunting
    stands: StandsOn


@dataclass(frozen=True)
class AirSaved:
    """Where the idle air comes from."""

    result: IdleAir
    stands: StandsOn


@dataclass(frozen=True)
class LoadSaved:
    """What a load did to the idle."""

    result: LoadResult
    stands: StandsOn


STOP: Kind[StopSaved] = Kind("idle-stop", StopSaved)
RETURN: Kind[ReturnSaved] = Kind("idle-return", ReturnSaved)
SWEEP: Kind[SweepSaved] = Kind("idle-sweep", SweepSaved)
HUNTING: Kind[HuntingSaved] = Kind("idle-hunting", HuntingSaved)
AIR: Kind[AirSaved] = Kind("idle-air", AirSaved)
LOAD: Kind[LoadSaved] = Kind("idle-load", LoadSaved)
