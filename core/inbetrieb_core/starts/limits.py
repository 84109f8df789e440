"""What the search holds a good start to, from the one definition of acceptance."""

from __future__ import annotations

from ..estimate import Limits
from ..tables import Calibration
from .acceptance import DIP_GOOD_RPM, run_good_within_s
from .readable import readable


def limits_of(calibration: Calibration) -> Limits:
    """Return the limits of a good start with the idle targets in force.

    Parameters
    ----------
    calibration : Calibration
        In force.
    """
    target = readable(calibration)["idle_target"]
    return Limits(run_good_within_s, lambda coolant_c: DIP_GOOD_RPM / target.at(coolant_c))
