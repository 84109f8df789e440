"""A closed boost loop as a pull shows it: wound up, swinging, or out of reach of its target."""

from __future__ import annotations

import numpy as np

from ..sentences import kilopascal
from ..trade import BOOST_VALVE_MOST_PCT
from .pull import PullRecord

#: Below its target by this the loop is still building; above it, it overshoots. [kPa, kPa]
_BUILDS_KPA, _OVER_KPA = 10.0, 8.0
#: Least bins that the duty stood at its end while pressure was still building.
_WOUND_BINS = 3
#: Crossings of the target with swings of this that are no noise any more. [–, kPa]
_CROSSINGS, _SWINGS_KPA = 4, 6.0


def boost_loop_told(pull: PullRecord) -> tuple[str, ...]:
    """Return what a pull says of its closed boost loop; nothing where the loop is open or its target is not logged.

    Parameters
    ----------
    pull : PullRecord
        With manifold pressure, boost target and valve duty.
    """
    pressure, target, duty = (
        pull.channel(n) for n in ("map_kpa", "boost_target_kpa", "boost_duty_pct")
    )
    known = np.isfinite(pressure) & np.isfinite(target) & np.isfinite(duty)
    if known.sum() < 6:
        return ()
    off, duty = (pressure - target)[known], duty[known]
    at_end = duty >= BOOST_VALVE_MOST_PCT
    building = off < -_BUILDS_KPA
    reached = np.flatnonzero(off > -_BUILDS_KPA / 2.0)
    if not reached.size:
        return (f"The target was never reached: {kilopascal(float(-off.max()))} are missing at best. A loop that tries to stays wound up: lower the target where the turbocharger cannot make it.",)  # fmt: skip
    over = float(off[reached[0] :].max())
    wound = int((building & at_end)[: reached[0]].sum())
    said = []
    if over > _OVER_KPA and wound >= _WOUND_BINS:
        said.append(
            f"Integral wind-up: the valve stood at its end while pressure was still building, then pressure went {kilopascal(over)} "
            "over its target. Let the integral begin only within some 10 kPa of the target, with the duty of the staircase as its start."
        )  # fmt: skip
    elif over > _OVER_KPA:
        said.append(f"Pressure goes {kilopascal(over)} over its target: the duty it starts from is too high, or the gain.")  # fmt: skip
    later = off[reached[0] :]
    swings = later[np.abs(later) > _SWINGS_KPA / 2.0]
    if np.count_nonzero(np.diff(np.sign(swings))) >= _CROSSINGS and np.ptp(later) > _SWINGS_KPA:
        said.append(f"The loop swings about its target by {kilopascal(float(np.ptp(later)))}: halve its gain.")  # fmt: skip
    return tuple(said)
