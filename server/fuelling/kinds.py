"""Passes over the fuel map as they were computed, and what was taken of them."""

from __future__ import annotations

from dataclasses import dataclass, field

from inbetrieb_core.fuelling import (
    CorrectionTold,
    CylinderTold,
    DrivePoint,
    FoundCause,
    Layer,
    Mended,
    Rests,
)
from inbetrieb_core.transients import Transients

from server.entries.kinds import Kind
from server.jobs.begun import keeps_records


@dataclass(frozen=True)
class LogUsed:
    """A log of a pass: which, on which revision, how late its wideband is, and what its layers took."""

    log_id: int
    name: str
    revision: int
    readings: int
    delay: str
    layers: tuple[Layer, ...]


@dataclass(frozen=True)
class FuelPass:
    """One pass.

    Attributes
    ----------
    revision : int
        Whose map is corrected.
    table, load_unit : str
        Its key, and the unit of its second axis.
    axes : tuple of tuple of float
        Breakpoints; a curve has one row, at 0. [units of the axes]
    factor, error, low, high, hits, change, values : tuple of tuple of float
        Needed factor [–], its standard error in ln [–], its 90 % band [–], seconds on each cell [s], factor that is
        applied [–], and the table after it.
    state : tuple of tuple of str
        What becomes of each cell.
    done_share, scatter, roughness, table_probability, authority : float
    sentence : str
    logs : tuple of LogUsed
    causes : tuple of FoundCause
    blocks : bool
    cause_sentence, deciding_test : str
    not_told : tuple of str
    plan : tuple of DrivePoint
    corrections : tuple of CorrectionTold
        Over intake air and air pressure, and what cold driving says of warm-up.
    mended : tuple of Mended
        Causes that were taken off the logs, as put right since.
    cylinders : tuple of CylinderTold
        Trims per cylinder, where each one's lambda is logged.
    rests : Rests
        Readings, evenly chosen, with what the solved map does not explain.
    locked : tuple of (row, column)
        Cells that were not to move.
    engine : str
        Digest of the engine data that were in force.
    earlier : tuple of int
        Passes whose drives told what the map is off by itself.
    """

    revision: int
    table: str
    load_unit: str
    axes: tuple[tuple[float, ...], ...]
    factor: tuple[tuple[float, ...], ...]
    error: tuple[tuple[float, ...], ...]
    low: tuple[tuple[float, ...], ...]
    high: tuple[tuple[float, ...], ...]
    hits: tuple[tuple[float, ...], ...]
    change: tuple[tuple[float, ...], ...]
    values: tuple[tuple[float, ...], ...]
    state: tuple[tuple[str, ...], ...]
    done_share: float
    scatter: float
    roughness: float
    table_probability: float
    authority: float
    sentence: str
    logs: tuple[LogUsed, ...]
    causes: tuple[FoundCause, ...]
    blocks: bool
    cause_sentence: str
    deciding_test: str
    not_told: tuple[str, ...]
    plan: tuple[DrivePoint, ...]
    corrections: tuple[CorrectionTold, ...] = ()
    mended: tuple[Mended, ...] = ()
    cylinders: tuple[CylinderTold, ...] = ()
    rests: Rests = field(default_factory=Rests)
    locked: tuple[tuple[int, int], ...] = ()
    engine: str = ""
    earlier: tuple[int, ...] = ()

    def __post_init__(self) -> None:
        """Refuse grids that do not fit the axes.

        Raises
        ------
        ValueError
            If one has another shape.
        """
        shape = [len(points) for points in self.axes]
        grids = (self.factor, self.error, self.low, self.high, self.hits, self.change, self.values, self.state)  # fmt: skip
        if len(shape) != 2 or any(
            len(grid) != shape[0] or any(len(row) != shape[1] for row in grid) for grid in grids
        ):
            raise ValueError("a grid does not fit the axes")


@dataclass(frozen=True)
class PassTaken:
    """What was taken of a pass: its number, the cells, the revision, and why where a cause spoke against it."""

    number: int
    cells: tuple[tuple[int, int], ...]
    revision: int
    reason: str = ""


@dataclass(frozen=True)
class TransientRead:
    """What some logs told of transients: the logs, the revision in the controller, and what was found."""

    log_ids: tuple[int, ...]
    revision: int
    found: Transients


TRANSIENTS: Kind[TransientRead] = Kind("fuel-transients", TransientRead)
PASS: Kind[FuelPass] = Kind("fuel-pass", FuelPass)
keeps_records("fuel-map", PASS.rows_of_all)
TAKEN: Kind[PassTaken] = Kind("fuel-taken", PassTaken)
