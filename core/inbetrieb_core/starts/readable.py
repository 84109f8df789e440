"""An inherited calibration as a start can be judged by it."""

from __future__ import annotations

import numpy as np

from ..tables import Calibration, Table

#: A judgement divides by them: what was found outside the bounds counts as the bound.
_DIVIDED_BY = ("idle_target", "lambda_target")


def readable(calibration: Calibration) -> Calibration:
    """Return a calibration whose targets can be: a file that was brought in may hold zeros.

    Parameters
    ----------
    calibration : Calibration
        In force.
    """
    for key in _DIVIDED_BY:
        table = calibration[key]
        low, high = table.definition.lower, table.definition.upper
        if table.values.min() < low or table.values.max() > high:
            values = np.clip(table.values, low, high)
            calibration = calibration.with_table(Table(key, table.axes, values, table.provenance))
    return calibration
