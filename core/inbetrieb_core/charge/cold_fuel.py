"""Start tables from physics: what a cold wall keeps, and what the engine needs all the same."""

from __future__ import annotations

import math

from ..air import REFERENCE_CHARGE_K
from ..engine import EngineSpec
from ..fuel import vaporised_share
from ..quantities import kelvin
from .idle_air import VALVE_SIZE, valve_size
from .wall_temperature import cranking_wall_c, running_wall_c

CRANKING_VE = 0.80  # slow, throttled by the idle valve only (assumed)
#: Vapour mixture at which a charge of 15 °C lights readily, and how much leaner a warmer one does: it
#: burns faster and loses less to the walls (common practice, no source). [–, 1/K]
CRANKING_LAMBDA, _LAMBDA_PER_K = 0.90, 0.005
#: Throttle bodies spray into slow, dense air and a manifold that keeps what it was given: a cold one takes
#: half of what its walls would ask of ports, a hot one all; middle and width of the change, and shares of
#: an injection that make a prime shot (common practice, no source). [–, °C, K, –]
_COLD_BODY, _BODY_MIDDLE_C, _BODY_WIDTH_K = 0.5, 20.0, 25.0
_PORT_SHOTS, _THROTTLE_BODY_SHOTS, _HARDLY_ANY_SHOT = 0.7, 0.5, 0.1
#: Longest prime pulse, and most cranking fuel, that are generated. [ms, %]
LONGEST_PRIME_MS, MOST_CRANKING_PCT = 120.0, 1500.0
WARM_C = 77.0  # 170 °F: warm-up ends but for its last few per cent (common practice, no source)


def _cranking_share(spec: EngineSpec, coolant_c: float) -> float:
    return vaporised_share(spec.fuel, cranking_wall_c(spec, coolant_c), spec.wet_manifold)


def _running_share(spec: EngineSpec, coolant_c: float) -> float:
    return vaporised_share(spec.fuel, running_wall_c(spec, coolant_c), spec.wet_manifold)


def cranking_lambda(coolant_c: float) -> float:
    """Return the vapour mixture at which a charge lights readily while cranking.

    Parameters
    ----------
    coolant_c : float
        Coolant temperature. [°C]

    Returns
    -------
    float
        Lambda. [–]
    """
    return CRANKING_LAMBDA * math.exp(_LAMBDA_PER_K * (min(coolant_c, 100.0) - 15.0))


def throttle_body_share(coolant_c: float) -> float:
    """Return what a throttle body takes of the cranking fuel that its walls would ask of ports.

    Parameters
    ----------
    coolant_c : float
        Coolant temperature. [°C]

    Returns
    -------
    float
        [–]
    """
    warm = 1.0 / (1.0 + math.exp((_BODY_MIDDLE_C - coolant_c) / _BODY_WIDTH_K))
    return _COLD_BODY + (1.0 - _COLD_BODY) * warm


def cranking_need_pct(spec: EngineSpec, coolant_c: float) -> float:
    """Return cranking fuel as :func:`cranking_fuel_pct`, however much it is. [%]

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    coolant_c : float
        Coolant temperature. [°C]
    """
    charge = CRANKING_VE * spec.barometric_kpa / 100.0 * REFERENCE_CHARGE_K / kelvin(coolant_c)
    body = throttle_body_share(coolant_c) if spec.wet_manifold else 1.0
    vapour = _cranking_share(spec, coolant_c)
    return 100.0 * body * charge / cranking_lambda(coolant_c) / vapour


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
    return min(MOST_CRANKING_PCT, cranking_need_pct(spec, coolant_c))


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
    Seven tenths of a cranking injection, half of one for a throttle body, a tenth in the
    school that leaves it to cranking fuel; fading out in a hot engine (common practice).
    """
    return min(LONGEST_PRIME_MS, prime_need_ms(spec, coolant_c))


def prime_need_ms(spec: EngineSpec, coolant_c: float) -> float:
    """Return the prime pulse as :func:`prime_pulse_ms`, however long it is. [ms]

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    coolant_c : float
        Coolant temperature. [°C]
    """
    shots = _THROTTLE_BODY_SHOTS if spec.wet_manifold else _PORT_SHOTS
    if spec.schools.prime == "cranking_only":
        shots = _HARDLY_ANY_SHOT
    cold = 1.0 / (1.0 + math.exp((coolant_c - 55.0) / 12.0))
    pulse = shots * cold * spec.reference_pulse_ms * cranking_fuel_pct(spec, coolant_c) / 100.0
    return pulse * spec.injections_per_cycle


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
    return wet * (6.0 + 70.0 * math.pow(1.0 - _running_share(spec, coolant_c), 1.5))


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
    return (1.3 if spec.wet_manifold else 1.0) * (
        4.0 + 16.0 * (1.0 - _running_share(spec, coolant_c))
    )


def warm_up_pct(spec: EngineSpec, coolant_c: float) -> float:
    """Return warm-up enrichment: fuel a running cold engine never burns; 100 from 95 °C.

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
        share = _running_share(spec, temperature_c + _VACUUM_HELPS_K)
        return _LOST_PCT * math.pow(1.0 - share, _LOST_POWER)

    settling = min(max((SETTLED_C - coolant_c) / (SETTLED_C - WARM_C), 0.0), 1.0)
    cold = max(0.0, lost(min(coolant_c, WARM_C)) - lost(WARM_C))
    return 100.0 + cold + STILL_SETTLING_PCT * settling


#: Opening added while cranking: that of a warm engine, and what each kelvin below 90 °C adds. A cold
#: engine's idle table stands wide open as it is, and much more makes it flare (common practice, no source). [%, %/K]
ADDED_WARM, ADDED_PER_K = 3.0, 0.02
#: When the coolant is warm, ports, oil and intake are not yet: what that still takes, and where it ends,
#: well above the thermostat, where fuel maps are made (common practice, no source). [%, °C]
STILL_SETTLING_PCT, SETTLED_C = 4.0, 95.0
#: What no vapour at all would lose, and how fast that falls with the share that vaporises; manifold
#: vacuum as warmth. Half more at −20 °C, a fifth at 20 °C (common practice, no source). [%, –, K]
_LOST_PCT, _LOST_POWER, _VACUUM_HELPS_K = 95.0, 1.75, 12.0


def added_pct(coolant_c: float) -> float:
    """Return the opening added while cranking for a mild cam and a usual valve. [°C → %]"""
    return ADDED_WARM + ADDED_PER_K * max(0.0, 90.0 - coolant_c)


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
    usual = bigger + added_pct(coolant_c)
    # The same air is less opening of a bigger valve, and more of a smaller one.
    return usual * min(max(VALVE_SIZE / valve_size(spec), 0.4), 2.0)
