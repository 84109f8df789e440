"""The overrun cut as a log shows it: where it begins and ends, the shortest steady pulse, and a car that bucks."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.signal import butter, sosfiltfilt

from ..quantities import FloatArray
from .steps import Drive

#: Pedal at rest; a net pulse below this is cut; an overrun lasts so long at least. [%, ms, s]
_REST_PCT, _CUT_MS, _LEAST_S = 1.5, 0.1, 1.0
_FROM_RPM = 1000.0
#: A drive line bucks between these, and by more than this when it does. [Hz, 1/min]
_BUCKS_HZ, _BUCKS_RPM = (1.5, 8.0), 40.0
#: Injectors are not steady below this net pulse where nothing is known of them. [ms] (common practice, no source)
SHORTEST_MS = 0.6


@dataclass(frozen=True)
class Overrun:
    """What overruns show.

    Attributes
    ----------
    overruns, cuts : int
        Overruns found, and those whose fuel was cut.
    begins_rpm, delay_s, returns_rpm : float or None
        Lowest speed at which a cut began, the usual time until it, highest speed at which fuel came back. [1/min, s, 1/min]
    shortest_ms : float or None
        Shortest net pulse while it ran without a cut. [ms]
    bucks_rpm : float or None
        Largest swing of the speed just after a cut or a return; None where none is seen. [1/min]
    sentences : tuple of str
    """

    overruns: int
    cuts: int
    begins_rpm: float | None
    delay_s: float | None
    returns_rpm: float | None
    shortest_ms: float | None
    bucks_rpm: float | None
    sentences: tuple[str, ...]


def read_overrun(drive: Drive, shortest_ms: float = SHORTEST_MS) -> Overrun:
    """Return what the overruns of a drive show.

    Parameters
    ----------
    drive : Drive
    shortest_ms : float
        Shortest net pulse at which the injectors are steady. [ms]
    """
    shut = (drive.throttle_pct < _REST_PCT) & (drive.rpm > _FROM_RPM)
    cut = shut & (drive.fuel < _CUT_MS)
    swing = _swing(drive.rpm)
    begins: list[float] = []
    delays: list[float] = []
    returns: list[float] = []
    bucks: list[float] = []
    whole = 0
    for first, last in _stretches(shut):
        if drive.time_s[last - 1] - drive.time_s[first] < _LEAST_S:
            continue
        whole += 1
        inside = np.flatnonzero(cut[first:last])
        if not len(inside):
            continue
        begin, end = first + inside[0], first + inside[-1]
        begins.append(float(drive.rpm[begin]))
        delays.append(float(drive.time_s[begin] - drive.time_s[first]))
        if end < last - 1:
            returns.append(float(drive.rpm[end]))
        bucks.extend(
            float(np.abs(swing[at : at + 75]).max()) for at in (begin, min(end, len(swing) - 1))
        )
    burning = (drive.rpm > _FROM_RPM) & ~cut & (drive.fuel > _CUT_MS)
    shortest = float(np.quantile(drive.fuel[burning], 0.005)) if burning.sum() > 50 else None
    most = max(bucks, default=0.0)
    found = (
        whole, len(begins), _rounded(min(begins, default=None)), _rounded(float(np.median(delays)) if delays else None, 2),
        _rounded(max(returns, default=None)), _rounded(shortest, 2), round(most) if most > _BUCKS_RPM else None,
    )  # fmt: skip
    return Overrun(*found, _sentences(*found, shortest_ms))


def _rounded(value: float | None, digits: int = 0) -> float | None:
    return None if value is None else round(value, digits)


def _stretches(mask: np.ndarray) -> list[tuple[int, int]]:
    edges = np.flatnonzero(np.diff(np.concatenate([[0], mask.astype(int), [0]])))
    return [(int(a), int(b)) for a, b in zip(edges[::2], edges[1::2], strict=True)]


def _swing(rpm: FloatArray) -> FloatArray:
    """Return the part of the speed in which a drive line bucks. [1/min]"""
    if len(rpm) < 60:
        return np.zeros(rpm.shape)
    return np.asarray(sosfiltfilt(butter(2, _BUCKS_HZ, "bandpass", fs=50.0, output="sos"), rpm))


def _sentences(
    overruns: int, cuts: int, begins: float | None, delay: float | None, returns: float | None,
    shortest: float | None, bucks: float | None, least_ms: float,
) -> tuple[str, ...]:  # fmt: skip
    told = []
    if not overruns:
        return (
            "No overrun in these logs: let the pedal go above 2000 rpm in gear, and hold it shut.",
        )
    if not cuts:
        told.append(f"{overruns} overruns, and fuel is never cut.")
    else:
        back = "" if returns is None else f", and returns at {returns:.0f} rpm"
        told.append(f"{cuts} of {overruns} overruns are cut, from {begins:.0f} rpm on, {delay:.1f} s after the pedal is shut{back}.")  # fmt: skip
    if shortest is not None and shortest < least_ms:
        told.append(f"The shortest pulse is {shortest:.2f} ms beyond dead time, below the {least_ms:.2f} ms at which injectors are steady: cut earlier, or from a lower speed.")  # fmt: skip
    if bucks is not None:
        told.append(f"Speed swings by ±{bucks:.0f} rpm as fuel is cut or returns: the car bucks. Wait longer before the cut, and let the air fade with the follower.")  # fmt: skip
    return tuple(told)
