"""What is left of readings after the solve, to be looked at against any signature."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..quantities import FloatArray, listed
from .samples import Readings
from .solve import MapFit

#: Where a cause shows, by the quantity that readings are drawn against (common practice).
REST_TELLS: dict[str, str] = {
    "net_ms": "A dead time that is off rises to the left, where pulses are short; a flow that is off lies level.",
    "map_kpa": "The offset of a manifold sensor and unmetered air rise to the left, where pressure is low.",
    "flow_pct": "A weak pump or a clogged filter rises to the right, where most fuel flows.",
    "rpm": "The map itself bends over speed; a cause under the bonnet seldom follows speed alone.",
    "intake_c": "A charge that is not as warm as the map believes leans over temperature.",
    "fuel_kpa": "Pressure that falls unseen asks for more at the left, by its square root.",
}
#: So many are kept of a pass, evenly over it.
MOST_RESTS = 300


@dataclass(frozen=True)
class Rests:
    """Readings of a pass, evenly chosen; None where not logged.

    Attributes
    ----------
    need_pct, rest_pct : tuple of float
        Fuel asked for, and what of it the solved map does not explain. [%]
    rpm, map_kpa, net_ms, flow_pct, intake_c, fuel_kpa : tuple of float or None
        [1/min], [kPa], net pulse [ms], fuel flow of the most in these readings [%], [°C], [kPa]
    """

    need_pct: tuple[float, ...] = ()
    rest_pct: tuple[float, ...] = ()
    rpm: tuple[float | None, ...] = ()
    map_kpa: tuple[float | None, ...] = ()
    net_ms: tuple[float | None, ...] = ()
    flow_pct: tuple[float | None, ...] = ()
    intake_c: tuple[float | None, ...] = ()
    fuel_kpa: tuple[float | None, ...] = ()


def rests_of(readings: Readings, fit: MapFit) -> Rests:
    """Return what is left of readings after a solve.

    Parameters
    ----------
    readings : Readings
    fit : MapFit
        Solved from them.
    """
    if not len(readings) or fit.rest.size != len(readings):
        return Rests()
    places = np.unique(
        np.linspace(0, len(readings) - 1, min(MOST_RESTS, len(readings))).astype(int)
    )
    r = readings.chosen(places)
    flow = r.net_ms * r.rpm
    most = float(np.nanmax(flow)) if np.isfinite(flow).any() else 1.0
    return Rests(
        _known(100.0 * np.expm1(r.need)), _known(100.0 * np.expm1(fit.rest[places])), listed(r.rpm, 0), listed(r.map_kpa, 1),
        listed(r.net_ms, 2), listed(100.0 * flow / most, 0), listed(r.intake_c, 1), listed(r.fuel_kpa, 0),
    )  # fmt: skip


def _known(values: FloatArray) -> tuple[float, ...]:
    return tuple(round(float(v), 2) for v in values)
