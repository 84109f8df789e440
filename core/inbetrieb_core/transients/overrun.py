"""The overrun cut as a log shows it: where it begins and ends, the shortest steady pulse, and a car that bucks."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy

from ..quantities import FloatArray
from .steps import Drive

#: Pedal at rest; a net pulse below this is cut; an overrun lasts so long at least. [%, ms, s]
_REST_PCT, _CUT_MS, _LEAST_S = 1.5, 0.1, 1.0
_FROM_RPM = 1000.0
#: A drive line bucks between these, and by more than this when it does. [Hz, 1/min]
_BUCKS_HZ, _BUCKS_RPM = (1.5, 8.0), 40.0
#: A cut that lasted so long has dried the walls; the mixture after the return is read from when the air of the
#: cut has left the exhaust until the walls are wet again, against what holds later (common practice, no source). [s, s, s]
_DRIES_S, _READ_S, _HOLDS_S = 0.6, (0.5, 1.3), (2.5, 4.0)
#: It is told from so many returns on, where it is larger than this and than two of its errors. [–, ln]
_LEAST_RETURNS, _NOTICED = 3, 0.03
#: The pedal rests while it is read. [%]
_MOVES_PCT = 2.0
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
    returns_read : int
        Returns of fuel after which the mixture could be read. [–]
    return_pct, return_error_pct : float or None
        Mixture in the second after a return against what holds later, positive is lean, and its standard error. [%]
    """

    overruns: int
    cuts: int
    begins_rpm: float | None
    delay_s: float | None
    returns_rpm: float | None
    shortest_ms: float | None
    bucks_rpm: float | None
    sentences: tuple[str, ...]
    returns_read: int = 0
    return_pct: float | None = None
    return_error_pct: float | None = None


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
    back = _after_returns(drive, cut)
    after = (len(back), *_middle_of(back))
    told = (*_sentences(*found, shortest_ms), *_of_returns(*after))
    return Overrun(*found, told, *after)


def _after_returns(drive: Drive, cut: np.ndarray) -> list[float]:
    """Return the mixture in the second after each return of fuel, against what holds later. [ln]"""
    found = []
    for first, last in _stretches(cut):
        at = float(drive.time_s[min(last, len(cut) - 1)])
        if at - drive.time_s[first] < _DRIES_S or drive.time_s[-1] < at + _HOLDS_S[1]:
            continue
        soon, later = (drive.between(at + a, at + b) for a, b in (_READ_S, _HOLDS_S))
        whole = drive.between(at, at + _HOLDS_S[1])
        # A pedal that moves on makes a spike of its own, and a second cut ends what could be read.
        moves = float(np.ptp(drive.throttle_pct[drive.between(at + _READ_S[0], at + _HOLDS_S[1])]))
        if cut[whole][5:].any() or moves > _MOVES_PCT:
            continue
        found.append(float(drive.error[soon].mean() - drive.error[later].mean()))
    return found


def _middle_of(back: list[float]) -> tuple[float | None, float | None]:
    """Return mean and standard error in per cent; None where too few were read."""
    if len(back) < _LEAST_RETURNS:
        return None, None
    percent = 100.0 * np.expm1(np.array(back))
    return round(float(percent.mean()), 1), round(
        float(percent.std(ddof=1) / np.sqrt(len(back))), 1
    )


def _of_returns(count: int, percent: float | None, error: float | None) -> tuple[str, ...]:
    if percent is None or error is None:
        return ()
    if abs(percent) < max(100.0 * _NOTICED, 2.0 * error):
        return (f"As fuel returns the mixture stays where it belongs ({count} returns).",)
    side = "lean" if percent > 0.0 else "rich"
    cure = (
        "the walls dried while it was cut. Let the first pulses after a return be so much longer, or bring fuel back earlier."
        if percent > 0.0
        else "what is added after a return is too much, or a valve does not shut: take it back by so much."
    )
    return (
        f"As fuel returns the mixture is {abs(percent):.0f} ± {2.0 * error:.0f} % too {side} for a second ({count} returns): {cure}",
    )


def _rounded(value: float | None, digits: int = 0) -> float | None:
    return None if value is None else round(value, digits)


def _stretches(mask: np.ndarray) -> list[tuple[int, int]]:
    edges = np.flatnonzero(np.diff(np.concatenate([[0], mask.astype(int), [0]])))
    return [(int(a), int(b)) for a, b in zip(edges[::2], edges[1::2], strict=True)]


def _swing(rpm: FloatArray) -> FloatArray:
    """Return the part of the speed in which a drive line bucks. [1/min]"""
    if len(rpm) < 60:
        return np.zeros(rpm.shape)
    return np.asarray(
        scipy.signal.sosfiltfilt(
            scipy.signal.butter(2, _BUCKS_HZ, "bandpass", fs=50.0, output="sos"), rpm
        )
    )


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
