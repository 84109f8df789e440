"""What one log measured by the way: whole curves of warm-up enrichment and idle air.

Each is observed by itself – mixture in steady running once the after-start has faded, and the valve
at which the loop or the table held a speed – so that these may be changed together with the one step
that is searched.
"""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np

from ..charge.cold_fuel import WARM_C
from ..tables import CellChange, rounded
from .case import MEASURED_LIMIT, Case
from .measured_curve import curve_changes
from .model import STARTED, MeasuredPart

#: After this the after-start enrichment counts as faded, however short its table. [s]
FADED_S = 15.0
#: Idle is steady from here on. [s]
_SETTLED_S = 10.0
#: Readings of fewer stretches are an accident, and a change below this share is none. [–, –]
_LEAST_STRETCHES, _WORTH = 3, 0.015
#: Speed follows air by about this power at idle (as `_idle_gain`, where nothing else is known). [–]
_SPEED_BY_AIR = 0.6
#: A valve near its ends, or a speed this far off, says only which way. [%, –]
_VALVE_ENDS, _FAR_OFF = (1.0, 99.0), 0.35


def measured_parts(case: Case) -> Iterator[MeasuredPart]:
    """Yield what a start measured of each table.

    Parameters
    ----------
    case : Case
        A start that ran.
    """
    if case.verdict not in STARTED or case.evidence != "log":
        return
    cold = case.figures.coolant_c < WARM_C  # warm, the mixture is a matter of the fuel map
    for table, changes, what in (
        ("warm_up_enrichment", measured_warm_up(case) if cold else (), "mixture"),
        ("idle_valve", measured_idle_air(case), "valve and speed"),
    ):
        noticed = tuple(
            c for c in changes if abs(c.after - c.before) > _WORTH * max(abs(c.before), 1.0)
        )
        if noticed:
            yield MeasuredPart(
                table,
                noticed,
                f"Measured by {what} while the log passed {_cells(len(noticed))}.",
            )


def _cells(count: int) -> str:
    return "the temperature of one cell" if count == 1 else f"the temperatures of {count} cells"


def measured_warm_up(case: Case) -> tuple[CellChange, ...]:
    """Return the cells that follow the need at every temperature passed once after-start has faded."""
    fade = case.value("after_start_fade")
    read = [
        (stretch.coolant_c, stretch.total)
        for stretch in case.observed.stretches
        if stretch.total is not None
        and stretch.after_s > max(fade, FADED_S)
        and (stretch.coolant_c < WARM_C or case.figures.coolant_c >= WARM_C)
    ]
    if len(read) < _LEAST_STRETCHES:
        return ()
    table = case.calibration["warm_up_enrichment"]
    at_c = np.array([coolant_c for coolant_c, _ in read])
    now = np.array([table.at(float(place)) for place in at_c])
    ratio = np.exp(np.array([total for _, total in read])) * 100.0 / now
    wanted = now * np.clip(ratio, 1.0 / (1.0 + MEASURED_LIMIT), 1.0 + MEASURED_LIMIT)
    return rounded(table, curve_changes(table, at_c, np.maximum(wanted, 95.0)))


def measured_idle_air(case: Case) -> tuple[CellChange, ...]:
    """Return the cells that follow the valve that idle took at every temperature passed."""
    targets = case.calibration["idle_target"]
    table = case.calibration["idle_valve"]
    places, wanted = [], []
    for stretch in case.observed.stretches:
        valve = stretch.valve_pct
        if valve is None or stretch.after_s < _SETTLED_S:
            continue
        off = math.log(max(stretch.rpm, 200.0) / targets.at(stretch.coolant_c))
        if not _VALVE_ENDS[0] < valve < _VALVE_ENDS[1] or abs(off) > _FAR_OFF:
            continue
        places.append(stretch.coolant_c)
        wanted.append(valve * math.exp(-off / _SPEED_BY_AIR))
    if len(places) < _LEAST_STRETCHES:
        return ()
    at_c = np.array(places)
    now = np.array([table.at(float(place)) for place in at_c])
    ratio = np.array(wanted) / np.maximum(now, 1.0)
    held = now * np.clip(ratio, 1.0 / (1.0 + MEASURED_LIMIT), 1.0 + MEASURED_LIMIT)
    return rounded(table, curve_changes(table, at_c, held))
