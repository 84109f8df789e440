"""What the intake valves let past at speed: the Mach index of an engine whose bore and stroke are known."""

from __future__ import annotations

from ..engine import EngineSpec

#: Diameter of one intake valve, as a share of the bore, and their number, by valves of a cylinder (common
#: practice, no source).
_INTAKE_VALVES = {2: (1, 0.45), 3: (2, 0.36), 4: (2, 0.37), 5: (3, 0.31)}
#: Mean flow coefficient at a usual lift over diameter; it rises with lift, the less the higher (Taylor, The
#: Internal Combustion Engine, vol. 1, ch. 6, from memory).
_COEFFICIENT, _USUAL_LIFT, _BY_LIFT = 0.36, 0.25, 0.8
#: Advertised duration of that coefficient: more holds the valve open longer and closes it later, within bounds.
#: [°, –, –, –]
_USUAL_DURATION_DEG, _BY_DURATION, _SHORT, _LONG = 260.0, 1.5, 0.85, 1.25
#: Speed of sound in the port. [m/s]
_SOUND_M_S = 350.0
#: Filling falls to 1/(1 + (Z/this)^power): three per cent at 0.5, a quarter at 1 (the same, from memory).
_HALVES_AT, _POWER = 1.33, 3.5
#: An engine makes its torque peak below this: one that is entered beyond has better ports than are assumed. [–]
_PEAK_AT_MOST = 0.55


def mach_index_per_rpm(spec: EngineSpec) -> float | None:
    """Return the Mach index of the intake for each revolution per minute; None where bore or stroke is not known.

    Mean piston speed times piston area, over valve area, mean flow coefficient and the speed of sound: how near
    the mean flow comes to choking in the valves. [1/(1/min)]

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    """
    if spec.bore_mm is None or spec.stroke_mm is None or spec.cycle == "rotary":
        return None
    number, share = _INTAKE_VALVES[spec.valves_per_chamber]
    lift = _USUAL_LIFT if spec.cam_lift_mm is None else spec.cam_lift_mm / (share * spec.bore_mm)
    coefficient = _COEFFICIENT * (lift / _USUAL_LIFT) ** _BY_LIFT
    if spec.cam_duration_deg is not None:
        longer = (spec.cam_duration_deg / _USUAL_DURATION_DEG) ** _BY_DURATION
        coefficient *= min(_LONG, max(_SHORT, longer))
    piston_m_s = 2.0 * spec.stroke_mm / 1000.0 / 60.0  # at one revolution per minute
    index = piston_m_s / (number * share**2 * coefficient * _SOUND_M_S)
    return min(float(index), _PEAK_AT_MOST / spec.torque_peak_rpm)


def passes(mach_index: float) -> float:
    """Return the share of the filling that the valves let past.

    Parameters
    ----------
    mach_index : float
        Of the intake, see :func:`mach_index_per_rpm`. [–]
    """
    return float(1.0 / (1.0 + (mach_index / _HALVES_AT) ** _POWER))
