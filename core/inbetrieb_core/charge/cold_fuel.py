"""Start tables from physics: what a cold wall keeps, and what the engine needs all the same."""

from __future__ import annotations

import math

from ..air import REFERENCE_CHARGE_K
from ..engine import EngineSpec
from ..fuel import vaporised_share
from ..quantities import kelvin

CRANKING_VE = 0.80  # slow, throttled by the idle valve only (assumed)
CRANKING_LAMBDA = 0.90  # vapour mixture at which a cold charge lights readily
WARM_C = 77.0  # 170 °F: warm-up ends (common practice, no source)


def _share(spec: EngineSpec, coolant_c: float) -> float:
    return vaporised_share(spec.fuel, coolant_c, spec.wet_manifold)


def cranking_fuel_pct(spec: EngineSpec, coolant_c: float) -> float:
    """Return cranking fuel: cold dense air, divided by lambda and by the vaporised share.

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    coolant_c : float
        Coolant temperature. [°C]

    Returns
    -------
    float
        Percent of the reference pulse. [%]
    """
    charge = CRANKING_VE * spec.barometric_kpa / 100.0 * REFERENCE_CHARGE_K / kelvin(coolant_c)
    return min(1500.0, 100.0 * charge / CRANKING_LAMBDA / _share(spec, coolant_c))


def prime_pulse_ms(spec: EngineSpec, coolant_c: float) -> float:
    """Return the prime pulse: about one cranking injection in advance, to wet the walls.

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    coolant_c : float
        Coolant temperature. [°C]

    Returns
    -------
    float
        Open time of one injection at key-on. [ms]

    Notes
    -----
    Seven tenths of a cranking injection, somewhat more for a wet manifold, a tenth in the
    school that leaves it to cranking fuel; fading out in a hot engine (common practice).
    """
    shots = 0.1 if spec.schools.prime == "cranking_only" else (1.1 if spec.wet_manifold else 0.7)
    cold = 1.0 / (1.0 + math.exp((coolant_c - 55.0) / 12.0))
    pulse = shots * cold * spec.reference_pulse_ms * cranking_fuel_pct(spec, coolant_c) / 100.0
    return min(120.0, pulse * spec.injections_per_cycle)


def after_start_pct(spec: EngineSpec, coolant_c: float) -> float:
    """Return after-start enrichment: walls that still fill up after the first firing.

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    coolant_c : float
        Coolant temperature. [°C]

    Returns
    -------
    float
        Enrichment, 0 is none. [%]
    """
    wet = 1.25 if spec.wet_manifold else 1.0
    return wet * (6.0 + 70.0 * math.pow(1.0 - _share(spec, coolant_c), 1.5))


def after_start_fade_s(spec: EngineSpec, coolant_c: float) -> float:
    """Return the time in which after-start enrichment fades: about 5 s warm, 20 s cold.

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    coolant_c : float
        Coolant temperature. [°C]

    Returns
    -------
    float
        Time to zero. [s]
    """
    return (1.3 if spec.wet_manifold else 1.0) * (4.0 + 16.0 * (1.0 - _share(spec, coolant_c)))


def warm_up_pct(spec: EngineSpec, coolant_c: float) -> float:
    """Return warm-up enrichment: fuel a running cold engine never burns; 100 from 77 °C.

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    coolant_c : float
        Coolant temperature. [°C]

    Returns
    -------
    float
        Multiplier. [%]

    Notes
    -----
    Manifold vacuum helps vaporisation once the engine runs: the share is taken 12 K warmer.
    """

    def lost(temperature_c: float) -> float:
        return 52.0 * math.pow(1.0 - _share(spec, temperature_c + 12.0), 1.2)

    return 100.0 + max(0.0, lost(min(coolant_c, WARM_C)) - lost(WARM_C))


def cranking_air_pct(spec: EngineSpec, coolant_c: float) -> float:
    """Return the idle-valve opening added while cranking.

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    coolant_c : float
        Coolant temperature. [°C]

    Returns
    -------
    float
        Opening. [%]
    """
    bigger = spec.by_cam(0.0, 1.5, 3.0)
    return bigger + 5.0 + 0.16 * max(0.0, 90.0 - coolant_c)
