"""The timing light: what was commanded against what was seen."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..bounds import out_of_bounds
from ..errors import InputRefused, field_refused

#: A mark is read to about this. [°]
READING_ERROR_DEG = 1.0
#: Seen this far from commanded is a stop, not a note (common practice, no source). [°]
STOP_DEG = 5.0
_RESIDUAL_DEG = 1.0
#: Nobody fits a wheel so far off unnoticed: then it is another cylinder's lead or another mark. [°]
_ANOTHER_CYLINDER_DEG = 30.0
#: A delay smaller than this is nothing. [µs]
_LEAST_DELAY_US = 15.0
_WANTED_DELAY_US = 20.0


@dataclass(frozen=True)
class LightReading:
    """One reading: speed [1/min], commanded and seen advance [° before top dead centre]."""

    rpm: float
    commanded_deg: float
    seen_deg: float


@dataclass(frozen=True)
class TimingFit:
    """What the readings say.

    Attributes
    ----------
    offset_deg, offset_error_deg : float
        Seen minus commanded at standstill, and its standard error. [°]
    delay_us, delay_error_us : float or None
        Time by which the spark is late, and its standard error; None where the speeds do not
        span enough to tell. [µs]
    residuals_deg : tuple of float
        Seen minus fitted, per reading. [°]
    new_offset_deg : float
        What the controller's trigger offset becomes. [°]
    table : tuple of (rpm, correction [°])
        Advance to add over speed where the delay matters; empty where it does not.
    level : {"good", "attention", "stop"}
    sentences : tuple of str
    """

    offset_deg: float
    offset_error_deg: float
    delay_us: float | None
    delay_error_us: float | None
    residuals_deg: tuple[float, ...]
    new_offset_deg: float
    table: tuple[tuple[float, float], ...]
    level: Literal["good", "attention", "stop"]
    sentences: tuple[str, ...]


def fit_timing(
    readings: Sequence[LightReading],
    offset_in_force_deg: float,
    *,
    raising_advances: bool = True,
    table_rpm: Sequence[float] = (1000.0, 2000.0, 3000.0, 4000.0, 5000.0, 6000.0, 7000.0),
) -> TimingFit:
    """Return the constant offset and the delay behind timing-light readings.

    Parameters
    ----------
    readings : sequence of LightReading
        At least one; idle and two higher speeds tell the delay as well.
    offset_in_force_deg : float
        Trigger offset in the controller. [°]
    raising_advances : bool
        Whether a larger trigger offset makes the spark earlier.
    table_rpm : sequence of float
        Speeds of the offset-against-speed table. [1/min]

    Raises
    ------
    InputRefused
        If a reading cannot be.

    Notes
    -----
    seen − commanded = offset − 6·delay·rpm (delay in seconds, 6° in a second at 1 rpm): least
    squares. 0.0006 °/rpm are 100 µs. The errors use the larger of the scatter and 1°.
    """
    check_readings(readings, offset_in_force_deg)
    rpm = np.array([r.rpm for r in readings])
    error = np.array([r.seen_deg - r.commanded_deg for r in readings])
    can_tell = len(readings) >= 3 and float(rpm.max()) >= 1.8 * float(rpm.min())
    if can_tell:
        design = np.column_stack([np.ones_like(rpm), -6e-6 * rpm])
        normal = np.linalg.inv(design.T @ design)
        offset, delay = (float(x) for x in normal @ design.T @ error)
        residuals = error - design @ np.array([offset, delay])
        scatter = math.sqrt(float((residuals**2).sum()) / (len(rpm) - 2))
        spread = max(scatter, READING_ERROR_DEG) ** 2 * normal
        offset_error, delay_error = (float(x) for x in np.sqrt(np.diag(spread)))
    else:
        offset, delay, delay_error = float(error.mean()), None, None
        residuals = error - offset
        offset_error = READING_ERROR_DEG / math.sqrt(len(readings))
    told: float | None = delay if can_tell else None
    new = offset_in_force_deg - offset if raising_advances else offset_in_force_deg + offset
    matters = (
        told is not None
        and delay_error is not None
        and abs(told) > max(2.0 * delay_error, _LEAST_DELAY_US)
    )
    table = tuple((float(n), 6e-6 * told * n) for n in table_rpm) if matters and told else ()
    level, sentences = _judged(offset, offset_error, told, residuals, error, bool(matters), new)
    if told is not None and delay_error is not None and delay_error > _WANTED_DELAY_US:
        needed = math.ceil(len(readings) * (delay_error / _WANTED_DELAY_US) ** 2)
        sentences.append(
            f"The delay is known to ±{delay_error:.0f} µs; about {needed} readings in all, spread like "
            f"these, would tell it to ±{_WANTED_DELAY_US:.0f} µs."
        )
    return TimingFit(
        offset,
        offset_error,
        told,
        delay_error if can_tell else None,
        tuple(float(r) for r in residuals),
        new,
        table,
        level,
        tuple(sentences),
    )


def _signed(value: float, digits: int) -> str:
    return f"{value:+.{digits}f}".replace("-", "−")


def _judged(
    offset: float,
    offset_error: float,
    delay: float | None,
    residuals: np.ndarray,
    error: np.ndarray,
    delay_matters: bool,
    new: float,
) -> tuple[Literal["good", "attention", "stop"], list[str]]:
    worst = float(np.abs(residuals).max())
    sentences: list[str] = []
    level: Literal["good", "attention", "stop"] = "good"
    if float(np.abs(error).max()) >= STOP_DEG:
        level = "stop"
        seen = float(error[int(np.abs(error).argmax())])
        if abs(seen) > _ANOTHER_CYLINDER_DEG:
            sentences.append(
                f"Stop: the spark is seen {_signed(seen, 0)}° from where it is commanded, further than any "
                "wheel is fitted wrong. Look at the cylinder first: is the clamp on the lead of cylinder 1, "
                "is the coil on its own output, and is this the mark of cylinder 1? Then repeat the readings. "
                f"Only if all of it is right, the trigger offset becomes {new:.1f}°."
            )
            return level, sentences
        sentences.append(
            f"Stop: the spark is seen {_signed(seen, 0)}° from where it is commanded. Do not run the engine "
            f"under load. Set the trigger offset to {new:.1f}°, then repeat the readings."
        )
    elif abs(offset) > max(0.5, offset_error):
        level = "attention"
        sentences.append(
            f"The marks are {_signed(offset, 1)} ± {offset_error:.1f}° off: set the trigger offset to "
            f"{new:.1f}°."
        )
    elif abs(offset) > 0.5:
        sentences.append(
            f"Commanded and seen agree within the error: {_signed(offset, 1)} ± {offset_error:.1f}°."
        )
    else:
        sentences.append("Commanded and seen agree.")
    if worst > _RESIDUAL_DEG:
        level = "stop" if level == "stop" else "attention"
        sentences.append(
            f"A reading lies {worst:.1f}° from a straight line: the marks, the wheel's pattern or a "
            "reading is wrong. Repeat before trusting the offset."
        )
    if delay is None:
        sentences.append("A delay cannot be told: read at idle and at two higher speeds.")
    elif delay_matters:
        sentences.append(
            f"The spark comes {abs(delay):.0f} µs {'late' if delay > 0 else 'early'}: enter the delay, "
            "or the offset table against speed."
        )
    return level, sentences


def check_readings(readings: Sequence[LightReading], offset_deg: float) -> None:
    """Refuse readings that cannot be.

    Parameters
    ----------
    readings : sequence of LightReading
        At least one.
    offset_deg : float
        Trigger offset in the controller. [°]

    Raises
    ------
    InputRefused
        With one sentence for each figure that cannot be.
    """
    if not readings:
        raise field_refused("readings", "At least one reading is needed.")
    checked = [out_of_bounds("offset_deg", offset_deg, -720.0, 720.0, "°", "The trigger offset")]
    for i, r in enumerate(readings):
        checked += [
            out_of_bounds(f"readings.{i}.rpm", r.rpm, 100.0, 20_000.0, "rpm", f"Reading {i + 1}: speed"),
            out_of_bounds(
                f"readings.{i}.commanded_deg", r.commanded_deg, -40.0, 70.0, "°",
                f"Reading {i + 1}: the commanded advance",
            ),
            out_of_bounds(
                f"readings.{i}.seen_deg", r.seen_deg, -90.0, 90.0, "°",
                f"Reading {i + 1}: the advance seen",
            ),
        ]  # fmt: skip
    problems = [problem for problem in checked if problem is not None]
    if problems:
        raise InputRefused(problems)
