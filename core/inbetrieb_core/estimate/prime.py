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
from .bands import band_of
from .cells import changes_to
from .cranking import LEAST_FUEL_PCT, effective_fuel, prime_share
from .ladder import LadderEstimate
from .proposed import CurveProposal

#: A prime that stands this far from the school's part of the need takes the step, if cranking fuel
#: stands nearer to its own by so much; and how far beyond that part it may be moved. [ln, ln, –]
_FAR, _NEARER, _BEYOND = 0.35, 0.15, 1.2
#: A step that the prime can give less of than this is cranking fuel's. [–]
_ENOUGH = 0.6
#: Cells of prime that move by less than this stay. [ms]
_HEARD_MS = 0.3
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
    asked, whole = (float(np.interp(tried_c, at_c, curve)) for curve in (wanted - now, wanted))
    if spec.schools.prime != "shot" or not _takes_it(spec, calibration, tried_c, asked, whole):
        return None
    points = np.array(table.axes[0].points)
    parts = np.array(
        [school_part_ms(spec, float(c), float(np.interp(c, at_c, wanted))) for c in points]
    )
    step = np.interp(points, at_c, wanted - now) / prime_share(spec)
    # As far as the school's part and a little, and never back from where it stands.
    ends = np.where(
        step > 0.0,
        np.maximum(_BEYOND * parts, table.values),
        np.minimum(parts / _BEYOND, table.values),
    )
    values = np.where(
        step > 0.0, np.minimum(table.values + step, ends), np.maximum(table.values + step, ends)
    )
    values = np.clip(values, table.definition.lower, table.definition.upper)
    gives = float(np.interp(tried_c, points, values)) - table.at(tried_c)
    if gives * prime_share(spec) / asked < _ENOUGH:
        return None
    changes = changes_to(table, values, np.abs(values - table.values) > _HEARD_MS)
    if not changes:
        return None
    cells = [change.index[0] for change in changes]
    return CurveProposal(
        table.key,
        changes,
        tuple(_band(spec, float(parts[i]), float(points[i])) for i in cells),
        (False,) * len(cells),
        believed.trials_of("cranking_fuel"),
    )


def _takes_it(
    spec: EngineSpec, calibration: Calibration, coolant_c: float, asked_pct: float, whole_pct: float
) -> bool:
    """Say whether a step of fuel at a coolant temperature is the prime's. [°C, %, %]"""
    prime, cranking = calibration["prime_pulse"].at(coolant_c), calibration["cranking_fuel"]
    part, given = school_part_ms(spec, coolant_c, whole_pct), cranking.at(coolant_c)
    off = math.log(max(part, _LEAST_MS) / max(prime, _LEAST_MS))
    if part <= 0.0 or off * asked_pct <= 0.0:
        return False  # it stands right, or on the other side
    rest = max(whole_pct - prime_share(spec) * part, LEAST_FUEL_PCT)
    other_off = abs(math.log(rest / max(given, LEAST_FUEL_PCT)))
    end = cranking.definition.upper if asked_pct > 0.0 else cranking.definition.lower
    has_no_room = abs(end - given) < _ENOUGH * abs(asked_pct)
    return has_no_room or abs(off) > max(_FAR, other_off + _NEARER)


def _band(spec: EngineSpec, prime_ms: float, coolant_c: float) -> tuple[float, float]:
    """Return within which the school's part lies with 90 %. [ms]"""
    band = band_of(spec, "prime_pulse", prime_ms, coolant_c)
    assert band is not None  # of a prime there always is one
    return round(band[0], 1), round(band[1], 1)


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
