"""Where a searched step of fuel goes: into cranking fuel, or into the prime pulse beside it.

Both wet the same walls and share one need. How it is split is the job's school. A step goes into the
prime where that is what stands far from the school's part of the need, or where cranking fuel has no
room left. Common practice, no source.
"""

from __future__ import annotations

import math

import numpy as np

from ..charge import expected_start_value
from ..engine import EngineSpec
from ..quantities import FloatArray
from ..tables import Calibration
from .cells import changes_to
from .cranking import effective_fuel, prime_share
from .ladder import LadderEstimate
from .proposed import BAND, CurveProposal

#: A prime that stands this far from the school's part of the need takes the step, if cranking fuel
#: stands nearer to its own by so much; and how far beyond that part it may be moved. [ln, ln, –]
_FAR, _NEARER, _BEYOND = 0.35, 0.15, 1.2
#: A step that the prime can give less of than this is cranking fuel's. [–]
_ENOUGH = 0.6
#: Cells of prime that move by less than this stay; so well is the school's part known. [ms, ln]
_HEARD_MS, _PART_SPREAD = 0.3, 0.3
#: Less prime than this counts as this. [ms]
_LEAST_MS = 0.2


def in_prime(
    believed: LadderEstimate,
    calibration: Calibration,
    at_c: FloatArray,
    now: FloatArray,
    wanted: FloatArray,
    tried_c: float,
) -> CurveProposal | None:
    """Return a searched step as cells of the prime pulse, None where it belongs into cranking fuel.

    Parameters
    ----------
    believed : LadderEstimate
        Whose engine data say how the school splits a need.
    calibration : Calibration
        In force.
    at_c : ndarray, shape (n,)
        Grid. [°C]
    now, wanted : ndarray, shape (n,)
        Fuel given and wanted, prime included. [% of the reference pulse]
    tried_c : float
        Where the last start was: there it is decided. [°C]
    """
    spec, table = believed.spec, calibration["prime_pulse"]
    if spec.schools.prime != "shot":
        return None
    asked = float(np.interp(tried_c, at_c, wanted - now))
    wanted_here = float(np.interp(tried_c, at_c, wanted))
    prime, part = table.at(tried_c), school_part_ms(spec, tried_c, wanted_here)
    cranking = calibration["cranking_fuel"]
    given = cranking.at(tried_c)
    off = math.log(max(part, _LEAST_MS) / max(prime, _LEAST_MS))
    rest = max(wanted_here - prime_share(spec) * part, 1.0)
    towards = off * asked > 0.0
    room = cranking.definition.upper - given if asked > 0.0 else given - cranking.definition.lower
    full = room < _ENOUGH * abs(asked)
    its_turn = abs(off) > max(_FAR, abs(math.log(rest / max(given, 1.0))) + _NEARER)
    if part <= 0.0 or not towards or not (its_turn or full):
        return None
    points = np.array(table.axes[0].points)
    parts = np.array(
        [school_part_ms(spec, float(c), float(np.interp(c, at_c, wanted))) for c in points]
    )
    step = np.interp(points, at_c, wanted - now) / prime_share(spec)
    most, least = _BEYOND * parts, parts / _BEYOND
    values = np.where(
        step > 0.0,
        np.minimum(table.values + step, np.maximum(most, table.values)),
        np.maximum(table.values + step, np.minimum(least, table.values)),
    )
    values = np.clip(values, table.definition.lower, table.definition.upper)
    gives = float(np.interp(tried_c, points, values)) - prime
    if gives * prime_share(spec) / asked < _ENOUGH:
        return None
    changes = changes_to(table, values, np.abs(values - table.values) > _HEARD_MS)
    if not changes:
        return None
    cells = [change.index[0] for change in changes]
    wide = math.exp(BAND * _PART_SPREAD)
    return CurveProposal(
        table.key,
        changes,
        tuple((round(float(parts[i] / wide), 1), round(float(parts[i] * wide), 1)) for i in cells),
        (False,) * len(cells),
        believed.trials_of("cranking_fuel"),
    )


def school_part_ms(spec: EngineSpec, coolant_c: float, fuel_pct: float) -> float:
    """Return which prime the job's school gives beside cranking fuel for a need. [ms]

    Parameters
    ----------
    spec : EngineSpec
        The engine.
    coolant_c : float
        [°C]
    fuel_pct : float
        The whole need, prime included. [% of the reference pulse]
    """
    prime = expected_start_value(spec, "prime_pulse", coolant_c)
    expected = effective_fuel(spec, expected_start_value(spec, "cranking_fuel", coolant_c), prime)
    return prime * fuel_pct / expected
