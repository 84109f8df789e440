"""Which samples of a drive count: a visible stack of layers, each with its reason and what it takes away."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter1d, minimum_filter1d

from ..charge import WARM_C
from ..logs import Trace
from ..quantities import FloatArray

BoolArray = NDArray[np.bool_]

_RUNS_RPM = 400.0
#: Start enrichment has gone so long after the engine ran. [s]
_AFTER_START_S = 60.0
#: Steady: how far a channel may move within so long. [1/min, –], [kPa, –], [%], [s]
_RPM, _RPM_SHARE, _KPA, _KPA_SHARE, _THROTTLE, _WITHIN_S = 60.0, 0.03, 2.5, 0.03, 1.5, 1.2
#: Pedal at rest above this speed is overrun; so long after it walls are still wet or dry. [%, 1/min, s]
_REST_PCT, _OVERRUN_RPM, _AFTER_S = 1.5, 1400.0, 1.2
_CUT_MS = 0.25
#: A pedal that moves quicker than this has enriched. [%/s]
_STEP_PCT_S = 15.0
#: A reading outside of these is none; one that moves so far within so long misfires. [–, –, s]
_LAMBDA, _JUMPS, _JUMPS_S = (0.66, 1.34), 0.07, 0.5
#: A wideband that stays within this over so long is dead. [–, s]
_STUCK, _STUCK_S = 0.0015, 20.0
#: Key of the layer that leaves misfires out.
MISFIRES = "even"
#: Layers that say the mixture is out of reach; what to do about others.
_OUT_OF_REACH = ("lambda",)
_REMEDIES = {
    "warm": "Drive it warm.",
    "start": "Drive on after the start.",
    "running": "The logs hold hardly any running.",
    MISFIRES: "It misfires: ignition and plugs first.",
}


@dataclass(frozen=True)
class Layer:
    """One layer of the stack.

    Attributes
    ----------
    key, title, reason : str
    seconds : float
        That it takes away of what the layers before it left. [s]
    is_on : bool
    """

    key: str
    title: str
    reason: str
    seconds: float
    is_on: bool


@dataclass(frozen=True)
class _Kind:
    key: str
    title: str
    reason: str
    counts: Callable[[Trace], BoolArray | None]


def stack(trace: Trace, off: Collection[str] = ()) -> tuple[BoolArray, tuple[Layer, ...]]:
    """Return which samples of a log count, and the layers with what each took away.

    Parameters
    ----------
    trace : Trace
        With speed and lambda at least.
    off : collection of str
        Keys of layers that are switched off.
    """
    steps = np.diff(trace.time_s, append=trace.time_s[-1])
    steps = np.where(steps > 1.0, 0.0, steps)  # a pause is no time
    left = np.ones(trace.time_s.shape, dtype=bool)
    layers = []
    for kind in _KINDS:
        counts = kind.counts(trace)
        is_on = kind.key not in off
        if counts is None:
            layers.append(Layer(kind.key, kind.title, "Not told by this log: nothing is left out.", 0.0, False))  # fmt: skip
            continue
        taken = left & ~counts if is_on else np.zeros_like(left)
        layers.append(
            Layer(kind.key, kind.title, kind.reason, round(float(steps[taken].sum()), 1), is_on)
        )
        left = left & ~taken
    return left, tuple(layers)


def few_left(logs: Sequence[Sequence[Layer]]) -> str:
    """Return why hardly anything of some logs counts, and what to do about it.

    Parameters
    ----------
    logs : sequence of sequence of Layer
        Layers of each log.
    """
    taken: dict[str, float] = {}
    for layer in (layer for layers in logs for layer in layers):
        taken[layer.key] = taken.get(layer.key, 0.0) + layer.seconds
    most = sorted(taken, key=lambda key: -taken[key])[:2]
    titles = layer_titles()
    words = " and ".join(f"'{titles[key]}' takes {taken[key]:.0f} s" for key in most if taken[key] > 0.0)  # fmt: skip
    if not words:
        return "The logs are too short."
    if most[0] in _OUT_OF_REACH:
        return (
            f"Hardly anything counts: {words}. The mixture is further off than the sensor reaches: look at injector flow, fuel "
            "pressure and wideband first, then scale the whole map by hand until lambda reads."
        )
    return f"Hardly anything counts: {words}. {_REMEDIES.get(most[0], 'Hold speeds and loads longer.')}"


def layer_titles() -> dict[str, str]:
    """Return the layers in their order: key to wording."""
    return {kind.key: kind.title for kind in _KINDS}


def _spread(values: FloatArray, time_s: FloatArray, within_s: float) -> FloatArray:
    """Return greatest minus least around each sample; NaN is passed over."""
    step = float(np.median(np.diff(time_s)))
    width = max(2, round(within_s / max(step, 1e-4))) | 1
    held = np.where(np.isfinite(values), values, np.nanmedian(values))
    return np.asarray(maximum_filter1d(held, width) - minimum_filter1d(held, width))


def _after(bad: BoolArray, time_s: FloatArray, after_s: float) -> BoolArray:
    """Return what is bad, and what follows it for a time. [s]"""
    last = np.where(bad, time_s, -np.inf)
    return np.asarray(time_s - np.maximum.accumulate(last) <= after_s)


def _running(trace: Trace) -> BoolArray:
    return np.asarray(np.nan_to_num(trace["rpm"]) > _RUNS_RPM)


def _warm(trace: Trace) -> BoolArray | None:
    coolant = trace.get("coolant_c")
    return None if coolant is None else np.asarray(np.nan_to_num(coolant, nan=-99.0) >= WARM_C)


def _started(trace: Trace) -> BoolArray:
    return ~_after(~_running(trace), trace.time_s, _AFTER_START_S)


def _speed(trace: Trace) -> BoolArray:
    rpm = trace["rpm"]
    return np.asarray(
        _spread(rpm, trace.time_s, _WITHIN_S) <= np.maximum(_RPM, _RPM_SHARE * np.nan_to_num(rpm))
    )


def _pressure(trace: Trace) -> BoolArray | None:
    pressure = trace.get("map_kpa")
    if pressure is None:
        return None
    most = np.maximum(_KPA, _KPA_SHARE * np.nan_to_num(pressure))
    return np.asarray(_spread(pressure, trace.time_s, _WITHIN_S) <= most)


def _pedal(trace: Trace) -> BoolArray | None:
    throttle = trace.get("throttle_pct")
    if throttle is None:
        return None
    return np.asarray(_spread(throttle, trace.time_s, _WITHIN_S) <= _THROTTLE)


def _overrun(trace: Trace) -> BoolArray | None:
    throttle, pulse = trace.get("throttle_pct"), trace.get("pulse_ms")
    if throttle is None and pulse is None:
        return None
    bad = np.zeros(trace.time_s.shape, dtype=bool)
    fast = np.nan_to_num(trace["rpm"]) > _OVERRUN_RPM
    if throttle is not None:
        bad |= fast & (np.nan_to_num(throttle, nan=99.0) < _REST_PCT)
    if pulse is not None:
        bad |= _running(trace) & (np.nan_to_num(pulse, nan=9.0) < _CUT_MS)
    return ~_after(bad, trace.time_s, _AFTER_S)


def _acceleration(trace: Trace) -> BoolArray | None:
    throttle = trace.get("throttle_pct")
    if throttle is None:
        return None
    rate = np.gradient(np.nan_to_num(throttle), trace.time_s)
    return ~_after(np.abs(rate) > _STEP_PCT_S, trace.time_s, _AFTER_S)


def _usable(trace: Trace) -> BoolArray:
    reading = trace["lambda"]
    low, high = _LAMBDA
    inside = np.isfinite(reading) & (reading > low) & (reading < high)
    stuck = _spread(reading, trace.time_s, _STUCK_S) < _STUCK
    return np.asarray(inside & ~stuck)


def _trim(trace: Trace) -> BoolArray | None:
    correction = trace.get("lambda_correction_pct")
    # A loop at its end is known as well: what it cannot give is what lambda still differs by.
    return None if correction is None else np.asarray(np.isfinite(correction))


def _even(trace: Trace) -> BoolArray:
    return np.asarray(_spread(trace["lambda"], trace.time_s, _JUMPS_S) < _JUMPS)


_KINDS: tuple[_Kind, ...] = (
    _Kind("running", "Running", "An engine that stands or cranks tells nothing of its map.", _running),
    _Kind("warm", "Warm", f"Below {WARM_C:.0f} °C warm-up enrichment is in the mixture.", _warm),
    _Kind("start", "After the start", f"For {_AFTER_START_S:.0f} s after it ran, start enrichment is in the mixture.", _started),
    _Kind("speed", "Speed steady", "Where speed moves the reading belongs to another cell.", _speed),
    _Kind("pressure", "Pressure steady", "Where load moves the reading belongs to another cell, and walls give or take fuel.", _pressure),
    _Kind("pedal", "Pedal steady", "A moving pedal wets or dries the walls.", _pedal),
    _Kind("overrun", "No overrun", f"Fuel is cut or hardly burns, and for {_AFTER_S:.1f} s after it the walls are dry.", _overrun),
    _Kind("acceleration", "No acceleration", "Acceleration enrichment is in the mixture.", _acceleration),
    _Kind("lambda", "Lambda usable", "The sensor is cold, dead, at its end, or sends one value.", _usable),
    _Kind("trim", "Loop known", "What the loop gave or took is not known here.", _trim),
    _Kind(MISFIRES, "No misfire", "A misfire reads lean whatever burns.", _even),
)  # fmt: skip
