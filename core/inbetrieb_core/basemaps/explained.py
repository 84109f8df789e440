"""The words for what a generated value is the sum of; the numbers are made without them."""

from __future__ import annotations

from ..charge.filling import peak_parts, residual_pressure_kpa, ve_parts
from ..charge.idle_region import idle_share
from ..charge.mixture import LOAD_FROM, LOAD_TO, full_load_lambda, idle_lambda, lambda_parts
from ..charge.valve_flow import mach_index_per_rpm
from ..engine import EngineSpec
from ..sentences import kilopascal, quantity
from .spark import PER_BOOST_KPA, SparkParts, idle_spark_deg, idle_spark_share, spark_parts
from .terms import Term


def peak_terms(spec: EngineSpec) -> tuple[Term, ...]:
    """Return what makes up the filling at the torque peak; only what this engine has. [%]"""
    parts = peak_parts(spec)
    rotary = spec.cycle == "rotary"
    terms = [Term("two valves, dry intake", parts.plain, "usual for production engines")]
    if parts.ports:
        what = "ports" if rotary else f"{spec.valves_per_chamber} valves"
        terms.append(Term(what, parts.ports, "more area than two valves"))
    if not rotary:
        because = f"0.8 for each point above 9.5, here {spec.compression_ratio:g}"
        terms.append(Term("compression", parts.compression, because))
    terms.append(Term("cam", parts.cam, f"wildness {spec.cam_wildness:.1f} of 0 to 2"))
    if parts.lift and spec.cam_lift_mm is not None:
        because = f"0.5 for each mm off 10, here {spec.cam_lift_mm:g}"
        terms.append(Term("valve lift", parts.lift, because))
    if spec.wet_manifold:
        terms.append(Term("wet manifold", parts.manifold, "heated, shared runners"))
    return tuple(terms)


def ve_terms(spec: EngineSpec, rpm: float, map_kpa: float) -> tuple[Term, ...]:
    """Return the words for volumetric efficiency, s − y/p. [%]

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    rpm : float
        Shaft speed, above 0. [1/min]
    map_kpa : float
        Manifold pressure, absolute, above 0. [kPa]
    """
    parts, y = ve_parts(spec, rpm, map_kpa), residual_pressure_kpa(spec, rpm)
    peak = f"bell over ln(rpm / torque peak {spec.torque_peak_rpm:g} rpm)"
    mach = mach_index_per_rpm(spec)
    if mach is not None and rpm > spec.torque_peak_rpm:
        peak += f", valves of bore and stroke at a Mach index of {mach * rpm:.2f}"
    beyond = f"y / barometric: {kilopascal(y, 2)} of residual gas over {kilopascal(spec.barometric_kpa, 1)}"
    residual = f"−y / p: {kilopascal(y, 2)} at this speed, compression and cam over {quantity(map_kpa, 'kPa')}"
    return (
        Term("full load", parts.full_load, peak),
        Term("slope beyond full load", parts.beyond, beyond),
        Term("residual gas", parts.residual, residual),
    )


def lambda_terms(spec: EngineSpec, rpm: float, map_kpa: float) -> tuple[Term, ...]:
    """Return the words for the mixture target. [–]

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    rpm : float
        Shaft speed. [1/min]
    map_kpa : float
        Manifold pressure, absolute. [kPa]
    """
    parts, barometric = lambda_parts(spec, rpm, map_kpa), spec.barometric_kpa
    load = (
        f"towards {full_load_lambda(spec, rpm):.2f} between {LOAD_FROM * barometric:.0f} and "
        f"{kilopascal(LOAD_TO * barometric)}"
    )
    idle = (
        f"{spec.schools.idle_mixture} school, {quantity(idle_lambda(spec), 'lambda')}; "
        f"{_belongs(idle_share(spec, rpm, map_kpa))} to idle"
    )
    return (
        Term("cruise", parts.cruise, "stoichiometric at light load"),
        Term("load", parts.load, load),
        Term("boost", parts.boost, f"0.09 richer for each {kilopascal(100)} above barometric"),
        Term("idle", parts.idle, idle),
    )


def spark_terms(spec: EngineSpec, rpm: float, map_kpa: float) -> tuple[Term, ...]:
    """Return the words for ignition advance; only what this engine has. [°]

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    rpm : float
        Shaft speed. [1/min]
    map_kpa : float
        Manifold pressure, absolute. [kPa]
    """
    parts = spark_parts(spec, rpm, map_kpa)
    idle = (
        f"{idle_spark_deg(spec):g}° in the idle region; "
        f"{_belongs(idle_spark_share(spec, rpm, map_kpa))} to it"
    )
    return (*_away_terms(spec, parts), Term("idle", parts.idle, idle))


def _away_terms(spec: EngineSpec, parts: SparkParts) -> list[Term]:
    """Return the words for advance away from idle. [°]"""
    peak, ratio = spec.torque_peak_rpm, spec.compression_ratio
    per_kpa, ethanol = PER_BOOST_KPA[spec.charge_cooling], 100.0 * spec.ethanol_volume_share
    light = (
        f"0.16 for each kPa below barometric, at most {kilopascal(55)}: thin charge burns slowly"
    )
    terms = [
        Term("start", parts.start, "at cranking speed and full load"),
        Term("speed", parts.speed, f"up to 16 at the torque peak, {peak:g} rpm"),
        Term("light load", parts.light_load, light),
        Term("compression", parts.compression, f"−1.2 for each point above 9.5, here {ratio:g}"),
        Term("boost", parts.boost, f"−{per_kpa:g} for each kPa above barometric"),
        Term("fuel", parts.fuel, f"3 for pure ethanol, here {ethanol:.0f} %"),
    ]
    if spec.use in ("towing", "stationary"):
        terms.append(Term("use", parts.use, f"held under load: {spec.use}"))
    if spec.bore_mm is not None:
        terms.append(Term("bore", parts.bore, f"0.06 for each mm off 86, here {spec.bore_mm:g}"))
    if spec.cycle == "rotary":
        terms.append(Term("rotor", parts.rotor, "two plugs, long chamber"))
    return terms


def _belongs(share: float) -> str:
    return f"this cell belongs {100.0 * share:.0f} %"
