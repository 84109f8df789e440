"""Two gauges that should agree: logged lambda against the wideband's own display."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from ..errors import field_refused
from .entry import LinearEntry
from .transfers import Linear

#: A gauge is read to about this. [lambda]
READING_ERROR = 0.005
#: Pairs must span this much before a gain can be told from an offset. [lambda]
_LEAST_SPAN = 0.12
#: An end is an end within this, and something moves from here on. [lambda]
_AT_END, _MOVES = 0.004, 0.05
_FULL_V = 5.0
_OFFSET_MATTERS = 0.008
_GAIN_MATTERS = 0.02


@dataclass(frozen=True)
class Agreement:
    """How gauge and log agree: gauge = gain · logged + offset.

    Attributes
    ----------
    gain, gain_error : float
        And its standard error; None where the pairs do not span enough. [–]
    offset, offset_error : float
        At logged lambda 0; and the standard error of the shift at the middle of the pairs.
        [lambda]
    shift : float
        Gauge minus log in the middle of the pairs. [lambda]
    residuals : tuple of float
        Gauge minus fit, per pair. [lambda]
    ground_offset_v : float or None
        The offset as a voltage at the input, where it is one and the transfer is known. [V]
    verdict : {"agree", "ground_offset", "gain", "unclear"}
    sentence : str
    proposal : LinearEntry or None
        Transfer with which the log would show the gauge's reading; None if nothing is to change.
    """

    gain: float
    gain_error: float | None
    offset: float
    offset_error: float
    shift: float
    residuals: tuple[float, ...]
    ground_offset_v: float | None
    verdict: Literal["agree", "ground_offset", "gain", "unclear"]
    sentence: str
    proposal: LinearEntry | None


def fit_agreement(pairs: Sequence[Sequence[float]], transfer: Linear | None = None) -> Agreement:
    """Return how the logged lambda and the gauge agree.

    Parameters
    ----------
    pairs : sequence of (gauge, logged)
        Read at the same moment, at least 3. [lambda]
    transfer : Linear or None
        The wideband's transfer as entered, for the proposal.

    Returns
    -------
    Agreement
        A gain is only told where the pairs span enough; else the shift alone is.

    Raises
    ------
    InputRefused
        If there are too few pairs, or a value is no lambda.

    Notes
    -----
    Least squares of gauge on log; the standard errors use the larger of the scatter and a
    reading error of 0.005 lambda.
    """
    if len(pairs) < 3:
        raise field_refused(
            "pairs", "Three pairs of readings are needed, better five, rich to lean."
        )
    values = np.array(pairs, dtype=float)
    if values.ndim != 2 or values.shape[1] != 2:
        raise field_refused("pairs", "Every pair needs two numbers: gauge and log.")
    for number, (gauge, logged) in enumerate(values, start=1):
        if not (0.5 <= gauge <= 2.0 and 0.5 <= logged <= 2.0):
            raise field_refused(
                "pairs",
                f"Pair {number} is {gauge:g} and {logged:g}: lambda lies between 0.5 and 2. "
                "Is it AFR?",
            )
    whole = len(values)
    values = values[~_saturated(values, transfer)]
    if len(values) < 3:
        raise field_refused(
            "pairs",
            "Gauge or log stands at its end in most of these pairs, which tells nothing. Take three between.",
        )
    gauge, logged = values[:, 0], values[:, 1]
    centre = float(logged.mean())
    spread = float(((logged - centre) ** 2).sum())
    shift = float((gauge - logged).mean())
    if float(np.ptp(logged)) < _LEAST_SPAN:
        return _said_left_out(_shift_only(gauge, logged, shift, transfer), whole - len(values))
    gain = float(((logged - centre) * gauge).sum() / spread)
    offset = float(gauge.mean() - gain * centre)
    residuals = gauge - gain * logged - offset
    scatter = float(np.sqrt((residuals**2).sum() / max(1, len(gauge) - 2)))
    error = max(scatter, READING_ERROR)
    gain_error = error / spread**0.5
    shift_error = error / len(gauge) ** 0.5
    kinds = _verdict(gain, gain_error, shift, shift_error)
    if kinds != "gain":  # a gain of 1 fits: the shift alone is the better estimate
        gain, offset, residuals = 1.0, shift, gauge - logged - shift
    found = Agreement(
        gain, gain_error, offset, shift_error, shift, tuple(float(r) for r in residuals),
        _ground_v(kinds, shift, transfer), kinds,
        _sentence(kinds, gain, shift, transfer),
        _proposal(kinds, gain, offset, transfer),
    )  # fmt: skip
    return _said_left_out(found, whole - len(values))


def _saturated(values: np.ndarray, transfer: Linear | None) -> np.ndarray:
    """Return which pairs hold an end of gauge or log: there one moves and the other cannot."""
    gauge, logged = values[:, 0], values[:, 1]
    at_end = np.zeros(len(values), dtype=bool)
    if transfer is not None:
        for end in (transfer.value(0.0), transfer.value(_FULL_V)):
            at_end |= np.abs(logged - end) < _AT_END
    for one, other in ((gauge, logged), (logged, gauge)):
        for end in (one.min(), one.max()):
            here = np.abs(one - end) < _AT_END
            if here.sum() > 1 and float(np.ptp(other[here])) > _MOVES:
                at_end |= here
    return at_end


def _said_left_out(found: Agreement, left_out: int) -> Agreement:
    if not left_out:
        return found
    pairs = "One pair was" if left_out == 1 else f"{left_out} pairs were"
    return replace(
        found, sentence=f"{found.sentence} {pairs} left out: gauge or log stood at its end."
    )


def _verdict(
    gain: float, gain_error: float, shift: float, shift_error: float
) -> Literal["agree", "ground_offset", "gain"]:
    if abs(gain - 1.0) > max(2.0 * gain_error, _GAIN_MATTERS):
        return "gain"
    if abs(shift) > max(2.0 * shift_error, _OFFSET_MATTERS):
        return "ground_offset"
    return "agree"


def _shift_only(
    gauge: np.ndarray, logged: np.ndarray, shift: float, transfer: Linear | None
) -> Agreement:
    residuals = gauge - logged - shift
    error = max(float(residuals.std(ddof=1)), READING_ERROR) / len(gauge) ** 0.5
    agrees = abs(shift) <= max(2.0 * error, _OFFSET_MATTERS)
    verdict: Literal["agree", "unclear"] = "agree" if agrees else "unclear"
    sentence = (
        "They agree where they were compared. "
        if agrees
        else f"The gauge reads {shift:+.3f} lambda against the log. "
    ) + (
        f"All pairs lie within {float(np.ptp(logged)):.2f} lambda: add rich and lean ones "
        "before trusting it elsewhere."
    )
    return Agreement(
        1.0, None, shift, error, shift, tuple(float(r) for r in residuals),
        None, verdict, sentence, None if agrees else _proposal("ground_offset", 1.0, shift, transfer),
    )  # fmt: skip


def _ground_v(verdict: str, shift: float, transfer: Linear | None) -> float | None:
    if verdict != "ground_offset" or transfer is None:
        return None
    return -shift / transfer.slope


def _sentence(verdict: str, gain: float, shift: float, transfer: Linear | None) -> str:
    if verdict == "agree":
        return "Gauge and log agree within what a gauge can be read to."
    if verdict == "gain" and gain < 0.0:
        return (
            "The log falls where the gauge rises: the output is reversed. Swap the two ends of the transfer, "
            "or choose the other output of the wideband."
        )
    if verdict == "gain":
        return (
            f"The log must be multiplied by {gain:.3f} to follow the gauge: the two do not use the "
            "same transfer. Compare the voltage-to-lambda data of both before changing anything."
        )
    volts = "" if transfer is None else f" ({-shift / transfer.slope * 1000:+.0f} mV at the input)"
    return (
        f"The log is off by the same {-shift:+.3f} lambda everywhere{volts}: a ground offset. "
        "Ground the wideband where the controller's sensor ground is; if that cannot be, correct "
        "the offset."
    )


def _proposal(
    verdict: str, gain: float, offset: float, transfer: Linear | None
) -> LinearEntry | None:
    if verdict == "agree" or transfer is None:
        return None
    return LinearEntry("linear", None, gain * transfer.slope, gain * transfer.offset + offset)
