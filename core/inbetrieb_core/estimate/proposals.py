"""From the estimate to cells: what was measured, or follows from it."""

from __future__ import annotations

import numpy as np

from ..quantities import FloatArray
from ..tables import Calibration, Table, values_after
from .cells import changes_to, fitted, grid_c
from .coordinates import COORDINATES
from .ladder import CLOSED_FORM, LadderEstimate, idle_air_below
from .proposed import BAND, SEEN_K, CurveProposal, proposed
from .search import MOST_STEP, Limits, likeliest_curve

#: A cell follows the estimate where evidence took away this share of what was unknown; where it is
#: off by more than so many of its spreads. [–, –]
_TOLD, _OF_BAND = 0.25, 0.35
#: Or where a little evidence and the engine data together put it this many spreads away. [–, –]
_HARDLY_TOLD, _PLAINLY = 0.04, 1.8
#: A cell that an earlier start read, and this one did not, was followed then as far as that start was sure: it moves
#: again where it stands off by so many spreads, and so does what nobody took then. [–]
_OF_BAND_AGAIN = 1.2
#: A cell that is nearly right stays: a step smaller than what a log tells is as often a step away from
#: what is right. Of any table; of idle air and warm-up, which are read as speed and mixture. [–, –]
_WORTH, _WORTH_READ = 0.012, {"idle_valve": 0.04, "warm_up_enrichment": 0.032}
#: A step of a cell that is read is halved where its square is so many times its variance. [–]
_HALF_SURE = 0.5
#: Farther than this from any reading a cell only follows. [K]
_FAR_K = 12.0
#: A fade that is too short lets the engine die, one that is too long makes it a little rich for a
#: while: its cells stand so many spreads above the middle, up to where mixture is looked at. [–, s]
_LONGER, _LOOKED_AT_S = 0.7, 24.0
#: A cell that gives less than this share of what is believed steps as if it gave that. [–]
_NOTHING_COUNTS = 0.5
#: Warm-up enrichment below none is a rich fuel map's: it is mended there. [%]
NONE_PCT = 100.0


def measured_proposals(
    believed: LadderEstimate, calibration: Calibration, limits: Limits, tried_c: float
) -> dict[str, CurveProposal]:
    """Return the tables that evidence wants changed, but for cranking fuel, which is only searched.

    Parameters
    ----------
    believed : LadderEstimate
        After all starts.
    calibration : Calibration
        In force.
    limits : Limits
        What a good start is held to.
    tried_c : float
        Where the last start was. [°C]
    """
    found = {}
    likeliest = likeliest_curve(
        believed, calibration, limits, table="after_start_enrichment", tried_c=tried_c
    )
    for table in ("idle_valve", *(key for key in CLOSED_FORM if key != "idle_valve")):
        chosen = None
        if table == "after_start_enrichment" and believed.run_up is not None:
            if not believed.was_read(table):
                continue  # outcomes alone tell of it: a step of it is searched, not followed
            chosen = likeliest
        proposal = _followed(believed, calibration, table, chosen)
        if proposal is None:
            continue
        found[table] = proposal
        if table == "idle_valve":
            # Cranking air is added to it: what it becomes decides what is added.
            now = calibration[table]
            values = values_after(now, proposal.changes)
            calibration = calibration.with_table(Table(table, now.axes, values, now.provenance))
    return found


def _followed(
    believed: LadderEstimate, calibration: Calibration, key: str, likeliest: FloatArray | None
) -> CurveProposal | None:
    """Return the cells that follow what is believed: the middle, or the likeliest of two windows."""
    coordinate, table = COORDINATES[key], calibration[key]
    at_c, points = grid_c(table), np.array(table.axes[0].points)
    middle, spread = believed.need_at(key, at_c)
    middle = middle if likeliest is None else likeliest
    below = idle_air_below(calibration, key, at_c)
    wanted = coordinate.from_scale(_on_the_safe_side(key, middle, spread)) - below
    values = fitted(table, at_c, wanted, 1.0 / np.maximum(spread, 0.01) ** 2)
    below = np.interp(points, at_c, below)
    # From a valve that is shut, or a fade of nothing, no share leads anywhere: it counts as a part of the need.
    least = coordinate.to_scale(
        _NOTHING_COUNTS * coordinate.from_scale(believed.need_at(key, points)[0])
    )
    now = np.maximum(coordinate.to_scale(table.values + below), least)
    moved = coordinate.to_scale(values + below) - now
    middle, spread = believed.need_at(key, points)
    told = believed.curves[key].told_at(points)
    near = _near(believed.places_of(key), points)
    steps = _as_far_as_sure(key, moved, spread, near)
    values = coordinate.from_scale(now + np.clip(steps, -MOST_STEP, MOST_STEP)) - below
    # Lifted to none without its map a cell would be richer still.
    lower = (
        np.minimum(table.values, NONE_PCT)
        if key == "warm_up_enrichment"
        else table.definition.lower
    )
    values = np.clip(values, lower, table.definition.upper)
    plainly_off = (told > _HARDLY_TOLD) & (np.abs(moved) > _PLAINLY * spread)
    of_band = np.full(points.size, _OF_BAND)
    if key in _WORTH_READ:
        of_band[(near > 0.0) & (_near(believed.just_read(key), points) == 0.0)] = _OF_BAND_AGAIN
    off = (told > _TOLD) & (np.abs(moved) > of_band * spread)
    worth = _WORTH_READ.get(key, _WORTH)
    noticed = np.abs(values - table.values) > worth * np.maximum(np.abs(table.values), 5.0)
    low, high = (
        coordinate.from_scale(middle + side * BAND * spread) - below for side in (-1.0, 1.0)
    )
    changes = changes_to(table, values, (off | plainly_off) & noticed)
    return proposed(believed, key, changes, low, high)


def _as_far_as_sure(
    key: str, moved: FloatArray, spread: FloatArray, near: FloatArray
) -> FloatArray:
    """Return steps of cells that a log reads, the shorter the less sure it is which way they should go.

    A whole step to the middle of a band overshoots as often as not where it is as short as the band is
    wide; the next log is closer to what is right and tells more. Cells that nothing was read near go
    with the curve: no next log comes to them soon. `near` is 1 where readings are, 0 far from them.
    """
    if key not in _WORTH_READ:
        return moved
    sure = (moved / spread) ** 2
    return np.asarray(moved * (1.0 - near * _HALF_SURE / (sure + _HALF_SURE)))


def _near(places_c: FloatArray, points: FloatArray) -> FloatArray:
    """Return how near cells are to where something was read, 1 to 0. [°C → –]"""
    if not places_c.size:
        return np.zeros(points.size)
    apart = np.abs(points[:, None] - places_c[None, :]).min(axis=1)
    return np.asarray(np.clip((_FAR_K - apart) / (_FAR_K - SEEN_K), 0.0, 1.0))


def _on_the_safe_side(key: str, mean: FloatArray, spread: FloatArray) -> FloatArray:
    if key != "after_start_fade":
        return mean
    return np.minimum(mean + _LONGER * spread, np.maximum(mean, np.log(_LOOKED_AT_S)))
