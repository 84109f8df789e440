"""The dwell of a middling coil: what stands in the table until the fitted coil is entered."""

from __future__ import annotations

import numpy as np

from ..provenance import Provenance
from ..triggers.dwell import MIDDLING_COIL, dwell_ms
from .axis import Axis
from .definitions import DEFINITIONS
from .table import Table, filled


def assumed_dwell(axis: Axis) -> Table:
    """Return the dwell of a middling coil on the controller's voltage axis, marked assumed."""
    definition = DEFINITIONS["dwell"]
    coil = MIDDLING_COIL
    longest = definition.upper
    values = [min(longest, round(dwell_ms(coil, volts) or longest, 2)) for volts in axis.points]
    reason = (
        f"A middling coil of {coil.resistance_ohm:g} Ω, {coil.inductance_mh:g} mH and "
        f"{coil.current_a:g} A; enter the fitted one at station 5."
    )
    return Table(
        "dwell", (axis,), np.array(values), filled((len(values),), Provenance("assumed", reason))
    )
