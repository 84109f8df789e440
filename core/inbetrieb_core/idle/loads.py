"""Loads at idle: how deep speed falls when one comes, how soon it is back, and which table answers."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..errors import LogRefused, field_refused
from ..quantities import FloatArray

LoadKind = Literal[
    "gear", "lamps_and_fan", "air_conditioning", "power_steering", "coming_to_a_stop"
]

#: By key: wording, and which table answers. Common practice, no source.
LOADS: dict[LoadKind, tuple[str, str]] = {
    "gear": ("Gear engaged", "the idle air added in gear, before the loop has to find it"),
    "lamps_and_fan": ("Lamps and fan", "the idle air added for electrical load, and the fan thresholds"),
    "air_conditioning": ("Air conditioning", "the idle air added with the compressor, and a short delay before it engages"),
    "power_steering": ("Power steering", "the idle air added with the steering's pressure switch"),
    "coming_to_a_stop": ("Coming to a stop", "the throttle follower: air that fades over a second or two after the pedal is let go"),
}  # fmt: skip
#: A dip that is well answered, and one that nearly stalls, as shares of the idle speed; back within this
#: of it, in this time. [–, –, 1/min, s]
_GOOD, _NEARLY = 0.12, 0.35
_BACK_RPM, _BACK_S = 50.0, 3.0
_STALLED_RPM = 250.0
_BEFORE_S = 3.0
#: A load shows by a fall of so much; coming to a stop begins above so many times the idle. [1/min, –]
_SHOWS_RPM, _COMES_FROM = 30.0, 1.3


@dataclass(frozen=True)
class LoadResult:
    """What a load did to the idle.

    Attributes
    ----------
    load : str
        A :data:`LoadKind`.
    dip_rpm, recovers_s : float or None
        Deepest fall below the speed before; until it stays near it. None where it never did, or was not
        read. [1/min, s]
    stalled : bool
    verdict : {"good", "attention", "stop"}
    sentence : str
    """

    load: LoadKind
    dip_rpm: float | None
    recovers_s: float | None
    stalled: bool
    verdict: Literal["good", "attention", "stop"]
    sentence: str


def judge_load(
    load: LoadKind, idle_rpm: float, lowest_rpm: float, recovers_s: float | None
) -> LoadResult:
    """Return what a load did, from readings.

    Parameters
    ----------
    load : str
        A :data:`LoadKind`.
    idle_rpm, lowest_rpm : float
        Before, and at the least. [1/min]
    recovers_s : float or None
        Until it was back; None where it was not. [s]

    Raises
    ------
    InputRefused
        If speeds cannot be.
    """
    if not 300.0 <= idle_rpm <= 3000.0 or not 0.0 <= lowest_rpm <= 4000.0:
        raise field_refused(
            "idle_rpm", "Idle lies between 300 and 3000 rpm, the lowest between 0 and 4000."
        )
    title, answers = LOADS[load]
    dip = max(0.0, idle_rpm - lowest_rpm)
    if lowest_rpm < _STALLED_RPM:
        said = f"{title}: it stalls. What answers is {answers}."
        return LoadResult(load, dip, None, True, "stop", said)
    share = dip / idle_rpm
    slow = recovers_s is None or recovers_s > _BACK_S
    back = "and does not come back" if recovers_s is None else f"back after {recovers_s:.1f} s"
    words = f"{title}: speed falls by {dip:.0f} rpm, {back}"
    if share <= _GOOD and not slow:
        return LoadResult(load, dip, recovers_s, False, "good", f"{words}: well answered.")
    verdict: Literal["attention", "stop"] = "stop" if share > _NEARLY else "attention"
    return LoadResult(load, dip, recovers_s, False, verdict, f"{words}. What answers is {answers}.")


def load_onset(load: LoadKind, channels: Mapping[str, FloatArray]) -> float:
    """Return when a load came, from what speed did. [s]

    Parameters
    ----------
    load : str
        A :data:`LoadKind`. Coming to a stop begins where speed first falls through the idle it ends at.
    channels : mapping of str to ndarray
        time_s and rpm; one load, the longest part of it idling.

    Raises
    ------
    LogRefused
        If speed shows none.
    """
    time, rpm = channels["time_s"], channels["rpm"]
    heard = np.isfinite(rpm)
    time, rpm = time[heard], rpm[heard]
    if len(time) < 10 or time[-1] - time[0] < 2.0 * _BEFORE_S:
        raise LogRefused("The log needs three seconds before the load and some after it.")
    if load == "coming_to_a_stop":
        idle = _settles_at(time, rpm)
        below = np.flatnonzero((rpm[:-1] >= idle) & (rpm[1:] < idle))
        above = np.flatnonzero(rpm > _COMES_FROM * idle)
        after = below[below > above[0]] if len(above) else below[:0]
        if not len(after):
            raise LogRefused("Speed never comes down to idle in this log.")
        return float(time[after[0]])
    began = int(np.searchsorted(time, time[0] + _BEFORE_S))
    lowest = began + int(np.argmin(rpm[began:]))
    idle = float(np.median(rpm[:began]))
    shallow = np.flatnonzero(rpm[:lowest] >= idle - _SHOWS_RPM / 2.0)
    if idle - rpm[lowest] < _SHOWS_RPM or not len(shallow):
        raise LogRefused(
            f"Speed never falls by more than {_SHOWS_RPM:.0f} rpm in this log. Say when the load came."
        )
    return float(time[shallow[-1]])


def _settles_at(time: FloatArray, rpm: FloatArray) -> float:
    """Return the speed of the last seconds. [1/min]"""
    return float(np.nanmedian(rpm[time >= time[-1] - _BEFORE_S]))


def load_in_log(
    load: LoadKind, channels: Mapping[str, FloatArray], at_s: float | None = None
) -> LoadResult:
    """Return what a load did that came at a time of a log.

    Parameters
    ----------
    load : str
        A :data:`LoadKind`.
    channels : mapping of str to ndarray
        time_s and rpm.
    at_s : float, optional
        When it came; :func:`load_onset` if not given. [s]

    Raises
    ------
    LogRefused
        If the log does not hold the seconds before and after it.
    """
    time, rpm = channels["time_s"], channels["rpm"]
    at_s = load_onset(load, channels) if at_s is None else at_s
    before = (time >= at_s - _BEFORE_S) & (time < at_s)
    after = (time >= at_s) & (time <= at_s + 8.0)
    if before.sum() < 5 or after.sum() < 10:
        raise LogRefused("The log needs three seconds before the load and some after it.")
    # Whoever comes to a stop was not idling before.
    stops = load == "coming_to_a_stop"
    idle = _settles_at(time, rpm) if stops else float(np.nanmedian(rpm[before]))
    near = np.abs(rpm[after] - idle) <= _BACK_RPM
    away = np.flatnonzero(~near)
    recovers: float | None = 0.0 if not away.size else None
    if away.size and away[-1] + 1 < near.size:
        recovers = float(time[after][away[-1] + 1] - at_s)
    return judge_load(load, idle, float(np.nanmin(rpm[after])), recovers)
