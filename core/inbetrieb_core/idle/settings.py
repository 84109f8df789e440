"""Target, spark and loop of the idle: what to begin with, and what each costs."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..charge.idle_air import idle_target_rpm
from ..engine import EngineSpec
from ..errors import field_refused
from ..quantities import FloatArray

Outcome = Literal["wants_to_die", "hangs_high", "surges", "good"]

#: Idle spark by cam, mild to wild; the correction for speed, clean to lopey, at this error. Common
#: practice, no source. [°, °, 1/min]
_SPARK_DEG = (18.0, 20.0, 24.0)
CLEAN_DEG, LOPEY_DEG, _FULL_AT_RPM = 5.0, 35.0, 250.0
#: A bigger cam begins with this much more idle air; each try moves it by this. [–]
_BIGGER_CAM, _STEP = 1.20, 0.05
#: A first step beside the warm cell counts less from neighbour to neighbour. [–]
_BLEND = (1.0, 0.6, 0.3)
#: The loop's closed response is made so many times slower than the engine's lag. [–]
_SLOWER = 2.0
_ERRORS_RPM = (-400.0, -250.0, -120.0, -50.0, 0.0, 50.0, 120.0, 250.0, 400.0)


@dataclass(frozen=True)
class IdleSpark:
    """Spark at idle and its correction over the error of speed.

    Attributes
    ----------
    base_deg : float
        [°]
    errors_rpm, correction_deg : tuple of float
        Target minus speed, and spark added. [1/min, °]
    sentence : str
        What that choice costs.
    """

    base_deg: float
    errors_rpm: tuple[float, ...]
    correction_deg: tuple[float, ...]
    sentence: str


def idle_spark(spec: EngineSpec, lopey: float) -> IdleSpark:
    """Return spark and correction for an idle between clean and lopey.

    Parameters
    ----------
    spec : EngineSpec
        The engine; a bigger cam wants more spark.
    lopey : float
        0 for a clean idle, 1 for one that is meant to lope. [–]

    Raises
    ------
    InputRefused
        If it is neither.
    """
    if not 0.0 <= lopey <= 1.0:
        raise field_refused("lopey", "Between 0, clean, and 1, lopey.")
    most = CLEAN_DEG + lopey * (LOPEY_DEG - CLEAN_DEG)
    errors = np.array(_ERRORS_RPM)
    correction = most * np.clip(errors / _FULL_AT_RPM, -1.0, 1.0)
    base = spec.by_cam(*_SPARK_DEG)
    cost = (
        "Small: speed is held by air, the idle sounds clean and needs little."
        if lopey < 0.25
        else f"Up to ±{most:.0f}°: spark catches each fall at once and air may wait; it sounds uneven, runs "
        "hotter and burns more. It must not be steeper than the engine's own lag allows, or it hunts."
    )
    return IdleSpark(base, _ERRORS_RPM, tuple(float(v) for v in correction.round(1)), cost)


def target_curve(spec: EngineSpec, coolant_c: FloatArray) -> FloatArray:
    """Return the idle target over coolant temperature [°C]: the warm speed from 60 °C on. [1/min]"""
    return np.array([idle_target_rpm(spec, float(c)) for c in coolant_c])


#: Raised by these for loads. Common practice, no source. [1/min]
TARGET_OFFSETS_RPM: dict[str, float] = {
    "in_gear": -50.0,
    "air_conditioning": 80.0,
    "low_battery": 120.0,
}


@dataclass(frozen=True)
class AirStep:
    """Idle air over coolant temperature after one step.

    Attributes
    ----------
    factors : tuple of float
        For each cell. [–]
    sentence : str
    """

    factors: tuple[float, ...]
    sentence: str


def air_step(
    coolant_c: FloatArray, at_c: float, outcome: Outcome | Literal["bigger_cam"]
) -> AirStep:
    """Return by what idle air is multiplied after a bigger cam, or after what the last try did.

    Parameters
    ----------
    coolant_c : ndarray
        Breakpoints. [°C]
    at_c : float
        Where it was tried. [°C]
    outcome : str
        "bigger_cam" for the first step, else what it did.
    """
    step = {
        "bigger_cam": math.log(_BIGGER_CAM), "wants_to_die": math.log(1.0 + _STEP),
        "hangs_high": math.log(1.0 - _STEP), "surges": math.log(1.0 + _STEP), "good": 0.0,
    }[outcome]  # fmt: skip
    nearest = int(np.argmin(np.abs(coolant_c - at_c)))
    shares = [
        _BLEND[abs(i - nearest)] if abs(i - nearest) < len(_BLEND) else 0.0
        for i in range(coolant_c.size)
    ]
    words = {
        "bigger_cam": "A bigger cam breathes worse at idle: 20 % more air to begin with, blended into the neighbours.",
        "wants_to_die": "It wants to die: 5 % more air.",
        "hangs_high": "It hangs high: 5 % less air.",
        "surges": "It surges: 5 % more air first, before any loop is touched.",
        "good": "It idles: nothing is changed.",
    }[outcome]
    return AirStep(tuple(float(np.exp(step * share)) for share in shares), words)


@dataclass(frozen=True)
class LoopGains:
    """How quick the idle loop may be.

    Attributes
    ----------
    direct_pct_per_rpm, integral_pct_per_rpm_s : float
        [% per 1/min], [% per 1/min and s]
    sentence : str
    """

    direct_pct_per_rpm: float
    integral_pct_per_rpm_s: float
    sentence: str


def loop_gains(gain_rpm_per_pct: float, lag_s: float, delay_s: float = 0.3) -> LoopGains:
    """Return gains of the idle loop from what a step of the valve shows.

    Parameters
    ----------
    gain_rpm_per_pct, lag_s, delay_s : float
        Speed for each per cent of valve, time in which it follows, and until it begins to. [1/min, s, s]

    Raises
    ------
    InputRefused
        If a figure cannot be.

    Notes
    -----
    A first-order lag with delay: Kp = T/(K(λ+θ)), Ki = Kp/T with λ twice the lag (Rivera, Morari and
    Skogestad, 1986; from memory).
    """
    if not (
        0.5 <= abs(gain_rpm_per_pct) <= 300.0 and 0.05 <= lag_s <= 20.0 and 0.0 <= delay_s <= 5.0
    ):
        raise field_refused(
            "gain_rpm_per_pct", "Gain 0.5 to 300 rpm per %, lag 0.05 to 20 s, delay up to 5 s."
        )
    direct = lag_s / (abs(gain_rpm_per_pct) * (_SLOWER * lag_s + delay_s))
    sign = 1.0 if gain_rpm_per_pct > 0.0 else -1.0
    return LoopGains(
        sign * direct, sign * direct / lag_s,
        f"Direct {1000 * direct:.1f} % and integral {1000 * direct / lag_s:.1f} % a second for 1000 rpm of "
        "error: twice as slow as the engine itself, so that they do not fight each other.",
    )  # fmt: skip


@dataclass(frozen=True)
class StepResponse:
    """How speed follows a step of the valve: gain [1/min per %], lag and delay [s]."""

    gain_rpm_per_pct: float
    lag_s: float
    delay_s: float


def step_response(time_s: FloatArray, duty_pct: FloatArray, rpm: FloatArray) -> StepResponse | None:
    """Return how speed follows the largest lone step of the valve; None where none can be read.

    Parameters
    ----------
    time_s, duty_pct, rpm : ndarray
        Of a sweep or of steps. [s, %, 1/min]
    """
    jumps = np.abs(np.diff(duty_pct))
    found: list[StepResponse] = []
    for place in np.flatnonzero(jumps > 2.0):
        at = time_s[place + 1]
        before = (time_s > at - 2.0) & (time_s <= time_s[place])
        after = (time_s >= at) & (time_s < at + 4.5)
        if before.sum() < 4 or after.sum() < 8 or np.ptp(duty_pct[after]) > 0.5:
            continue
        old, new = float(np.median(rpm[before])), float(np.median(rpm[after][-5:]))
        step = float(duty_pct[place + 1] - duty_pct[place])
        if abs(new - old) < 25.0:
            continue
        share = (rpm[after] - old) / (new - old)
        at63, at15 = (
            float(time_s[after][np.argmax(share >= level)] - at) for level in (0.632, 0.15)
        )
        found.append(StepResponse((new - old) / step, max(0.05, at63 - at15), max(0.0, at15)))
    if len(found) < 2:
        return None
    return StepResponse(
        *(
            float(np.median([getattr(r, k) for r in found]))
            for k in ("gain_rpm_per_pct", "lag_s", "delay_s")
        )
    )
