"""Target, spark and loop of the idle: what to begin with, and what each costs."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..charge.idle_air import idle_target_rpm
from ..engine import EngineSpec
from ..errors import field_refused
from ..quantities import FloatArray

AirStepKey = Literal["bigger_cam", "wants_to_die", "hangs_high", "surges"]

#: Idle spark by cam, mild to wild; the correction for speed, clean to lopey, at this error. Common
#: practice, no source. [°, °, 1/min]
_SPARK_DEG = (18.0, 20.0, 24.0)
CLEAN_DEG, LOPEY_DEG, _FULL_AT_RPM = 5.0, 35.0, 250.0
#: A bigger cam begins with this much more idle air; each try moves it by this. [–]
BIGGER_CAM, AIR_STEP = 1.20, 0.05
#: What the last try did -> what the idle air is multiplied by, and the sentence.
AIR_STEPS: dict[AirStepKey, tuple[float, str]] = {
    "bigger_cam": (
        BIGGER_CAM,
        f"A bigger cam was fitted: {100 * (BIGGER_CAM - 1.0):.0f} % more air to begin with, less beside it.",
    ),
    "wants_to_die": (1.0 + AIR_STEP, f"It wants to die: {100 * AIR_STEP:.0f} % more air."),
    "hangs_high": (1.0 - AIR_STEP, f"It hangs high: {100 * AIR_STEP:.0f} % less air."),
    "surges": (
        1.0 + AIR_STEP,
        f"It surges: {100 * AIR_STEP:.0f} % more air first, before any loop is touched.",
    ),
}
#: A first step beside the warm cell counts less from neighbour to neighbour. [–]
_BLEND = (1.0, 0.6, 0.3)
#: The loop's closed response is made so many times slower than the engine's lag. [–]
_SLOWER = 2.0
#: A step of the valve that speed is read after, and how many are looked at. [%, –]
_STEP_PCT, _MOST_STEPS = 2.0, 400
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


def air_step(coolant_c: FloatArray, at_c: float, step: AirStepKey) -> AirStep:
    """Return by what idle air is multiplied after a bigger cam, or after what the last try did.

    Parameters
    ----------
    coolant_c : ndarray
        Breakpoints. [°C]
    at_c : float
        Where it was tried. [°C]
    step : str
        Of :data:`AIR_STEPS`.

    Raises
    ------
    InputRefused
        If there is no such step.
    """
    if step not in AIR_STEPS:
        raise field_refused(
            "outcome", "It wants to die, hangs high or surges, or a bigger cam was fitted."
        )
    factor, sentence = AIR_STEPS[step]
    away = np.abs(np.arange(coolant_c.size) - int(np.argmin(np.abs(coolant_c - at_c))))
    share = np.array([*_BLEND, *[0.0] * coolant_c.size])[away]
    return AirStep(tuple(float(f) for f in factor**share), sentence)


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

    def gains(self) -> LoopGains:
        """Return the gains of an idle loop that is made by it."""
        return loop_gains(self.gain_rpm_per_pct, self.lag_s, self.delay_s)


def step_response(channels: Mapping[str, FloatArray]) -> StepResponse | None:
    """Return how speed follows the valve, the middle of all lone steps; None where none can be read.

    Parameters
    ----------
    channels : mapping of str to ndarray
        time_s, idle_valve_pct and rpm, of a sweep or of steps. [s, %, 1/min]
    """
    time_s, duty_pct, rpm = (channels[key] for key in ("time_s", "idle_valve_pct", "rpm"))
    found: list[StepResponse] = []
    for place in np.flatnonzero(np.abs(np.diff(duty_pct)) > _STEP_PCT)[:_MOST_STEPS]:
        at = time_s[place + 1]
        begin, end = np.searchsorted(time_s, (at - 2.0, at + 4.5))
        before, after = slice(begin, place + 1), slice(place + 1, end)
        few = place + 1 - begin < 4 or end - place - 1 < 8
        if few or np.ptp(duty_pct[after]) > 0.5:
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
