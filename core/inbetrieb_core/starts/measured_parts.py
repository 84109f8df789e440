"""What one log measured by the way: whole curves of warm-up enrichment and idle air.

Each is observed by itself – mixture in steady running once the after-start has faded, and the valve
at which the loop or the table held a speed – so that these may be changed together with the one step
that is searched.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence

import numpy as np

from ..charge.cold_fuel import WARM_C
from ..charge.idle_air import idle_gain
from ..tables import CellChange, rounded
from .case import MEASURED_LIMIT, Case
from .measured_curve import curve_changes
from .model import MeasuredPart
from .outcomes import STARTED

#: After this the after-start enrichment counts as faded, however short its table. [s]
FADED_S = 15.0
#: No reading makes a cold engine need less than this; the rest is noise, or the fuel map. [%]
_LEAST_WARM_UP_PCT = 95.0
#: Idle is steady from here on. [s]
_SETTLED_S = 10.0
#: Readings of fewer stretches are an accident, and a change below this share is none. [–, –]
_LEAST_STRETCHES, _WORTH = 3, 0.015
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
        (stretch.coolant_c, max(100.0 * math.exp(stretch.total), _LEAST_WARM_UP_PCT))
        for stretch in case.observed.stretches
        if stretch.total is not None
        and stretch.after_s > max(fade, FADED_S)
        and (stretch.coolant_c < WARM_C or case.figures.coolant_c >= WARM_C)
    ]
    return _as_measured(case, "warm_up_enrichment", read)


def measured_idle_air(case: Case) -> tuple[CellChange, ...]:
    """Return the cells that follow the valve that idle took at every temperature passed."""
    targets = case.calibration["idle_target"]
    read = []
    for stretch in case.observed.stretches:
        valve = stretch.valve_pct
        if valve is None or stretch.after_s < _SETTLED_S:
            continue
        off = math.log(max(stretch.rpm, 200.0) / targets.at(stretch.coolant_c))
        if not _VALVE_ENDS[0] < valve < _VALVE_ENDS[1] or abs(off) > _FAR_OFF:
            continue
        wanted = valve * math.exp(-off / idle_gain(case.setting.spec, valve))
        read.append((stretch.coolant_c, wanted))
    return _as_measured(case, "idle_valve", read)


def _as_measured(
    case: Case, key: str, read: Sequence[tuple[float, float]]
) -> tuple[CellChange, ...]:
    """Return the cells that follow (coolant, value) readings, no further at once than is allowed."""
    if len(read) < _LEAST_STRETCHES:
        return ()
    table = case.calibration[key]
    at_c = np.array([coolant_c for coolant_c, _ in read])
    now = np.array([max(table.at(coolant_c), 1.0) for coolant_c, _ in read])
    wanted = np.array([value for _, value in read])
    most = 1.0 + MEASURED_LIMIT
    return rounded(table, curve_changes(table, at_c, np.clip(wanted, now / most, now * most)))
