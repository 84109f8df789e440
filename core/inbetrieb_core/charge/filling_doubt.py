"""How far the filling of an engine nobody has measured may be off: by what residual gas takes of it."""

from __future__ import annotations

from typing import NamedTuple

from .filling import Filling

#: Of what residual gas takes, by its clearance and by what flows back: known to (common practice, no source). [–]
_LEFT, _FLOWS_BACK = 0.2, 0.6
#: Below this nothing more is told of it. [kPa]
_LEAST_KPA = 15.0


class LossDoubt(NamedTuple):
    """Standard deviations of a filling by two causes that know nothing of each other. [ln]

    Attributes
    ----------
    left : float
        By what the exhaust leaves in the clearance, at any speed.
    flows_back : float
        By what flows back through the overlap: most at low speed.
    """

    left: float
    flows_back: float


def loss_doubt(filling: Filling, rpm: float, map_kpa: float) -> LossDoubt:
    """Return what the loss y of VE·p = s·p − y leaves open of a generated filling.

    Full load is what the formula is anchored at: the loss counts by what it takes beyond it.

    Parameters
    ----------
    filling : Filling
        Of the engine.
    rpm, map_kpa : float
        Where. [1/min, kPa]
    """
    beyond = max(0.0, 100.0 / max(map_kpa, _LEAST_KPA) - 100.0 / filling.barometric_kpa)
    share = beyond / filling.ve_pct(rpm, map_kpa)
    return LossDoubt(
        _LEFT * filling.left_kpa * share, _FLOWS_BACK * filling.flows_back_at_kpa(rpm) * share
    )
