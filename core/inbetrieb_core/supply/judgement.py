"""Whether the injectors can feed the engine at the limit, and be steady at idle."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from ..engine import EngineSpec
from ..injectors import DUTY_LIMIT_PCT
from ..sentences import injector_flow, quantity
from .full_load import hardest

#: Idle pulses shorter than this are below the steady range of usual injectors (common
#: practice, no source).
SHORTEST_STEADY_PULSE_MS = 0.7
#: Duty at the rev limit from which the entry, not the injector, is more likely wrong.
ABSURD_DUTY_PCT = 250.0
#: Smallest idle pulse that any usable injector of the engine could have.
ABSURD_IDLE_PULSE_MS = 0.25


#: Below this everywhere nobody has entered a dead time. [ms]
_NO_DEAD_TIME_MS = 0.05


@dataclass(frozen=True)
class InjectorJudgement:
    """What the injectors mean for this engine, shown while the installer types.

    Attributes
    ----------
    flow_cm3_min : float
        Flow of one at the real pressure. [cm³/min]
    reference_pulse_ms : float
        Pulse for 100 % volumetric efficiency at lambda 1. [ms]
    idle_pulse_ms : float
        Expected warm idle pulse without dead time. [ms]
    duty_at_limit_pct : float
        Highest duty expected at full load, mostly at the rev limit. [%]
    level : {"fits", "attention", "implausible"}
        ``implausible`` stops the job until it is overridden in writing.
    sentences : tuple of str
        Why.
    """

    flow_cm3_min: float
    reference_pulse_ms: float
    idle_pulse_ms: float
    duty_at_limit_pct: float
    level: Literal["fits", "attention", "implausible"]
    sentences: tuple[str, ...]


#: Typical load of a warm idling engine (common practice, no source).
_IDLE_LOAD = 0.60 * 0.36  # volumetric efficiency · manifold pressure / 100 kPa


def idle_open_ms(spec: EngineSpec) -> float:
    """Return the expected warm idle pulse without dead time. [ms]"""
    return spec.reference_pulse_ms * _IDLE_LOAD


def judge_injectors(spec: EngineSpec) -> InjectorJudgement:
    """Judge whether the injectors can feed the engine at the limit and at idle.

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.

    Returns
    -------
    InjectorJudgement
        Figures, level and sentences.

    Notes
    -----
    Full load as in :func:`.full_load.full_load`; idle at 60 % volumetric efficiency and 36 kPa,
    lambda 1 (common practice, no source).
    """
    reference = spec.reference_pulse_ms
    duty = hardest(spec).duty_pct
    idle = idle_open_ms(spec)
    if not math.isfinite(duty):
        return InjectorJudgement(
            spec.injector_flow_cm3_min,
            reference,
            idle,
            999.0,
            "implausible",
            (
                f"A rail at {quantity(spec.rail_pressure_kpa, 'kPa')} that does not follow the manifold "
                f"cannot push fuel against {quantity(spec.boost_kpa, 'kPa')} of boost.",
            ),
        )
    level: Literal["fits", "attention", "implausible"] = "fits"
    sentences: list[str] = []
    if duty > ABSURD_DUTY_PCT:
        level = "implausible"
        sentences.append(
            f"At the rev limit these injectors would have to be open {duty:.0f} % of the time: "
            f"the flow of {quantity(spec.injectors.flow_cm3_min, 'cm³/min')} is far too small for "
            f"{spec.displacement_l:g} l. Was a digit lost, or was it given in other units?"
        )
    elif duty > DUTY_LIMIT_PCT:
        level = "attention"
        needed = spec.injectors.flow_cm3_min * duty / DUTY_LIMIT_PCT
        sentences.append(
            f"Duty at the rev limit would be {duty:.0f} %, above the limit of "
            f"{DUTY_LIMIT_PCT:.0f} %: about {injector_flow(needed)} each would be needed."
        )
    if idle < ABSURD_IDLE_PULSE_MS:
        level = "implausible"
        sentences.append(
            f"The idle pulse would be {idle:.2f} ms: the flow of "
            f"{quantity(spec.injectors.flow_cm3_min, 'cm³/min')} is far too large for this engine. "
            "Is there a digit too many, or was it given in other units?"
        )
    elif idle < SHORTEST_STEADY_PULSE_MS:
        level = "attention" if level == "fits" else level
        more = (
            " Use one injection per cycle."
            if spec.injections_per_cycle > 1
            else " Expect an unsteady idle."
        )
        sentences.append(
            f"Idle pulse {idle:.2f} ms: below the steady range of usual injectors.{more}"
        )
    if max(spec.injectors.dead_time.dead_time_ms) < _NO_DEAD_TIME_MS:
        level = "attention" if level == "fits" else level
        sentences.append(
            "Dead time is entered as none at every voltage. Every injector has some, usually about a "
            "millisecond at 12 V: idle and weak batteries will be lean until it is entered."
        )
    if not sentences:
        sentences.append(
            f"Duty at the rev limit about {duty:.0f} %, idle pulse about {idle:.2f} ms: "
            "the injectors fit the engine."
        )
    return InjectorJudgement(
        spec.injector_flow_cm3_min, reference, idle, duty, level, tuple(sentences)
    )
