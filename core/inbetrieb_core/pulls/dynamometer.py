"""The file of a dynamometer: torque or power over speed, in any units, and a correction that may be in it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..errors import LogRefused, field_refused
from ..logs import read_columns
from ..quantities import FloatArray
from .pull import LEAST_SPAN_RPM, PullRecord, binned
from .standards import Ambient, Standard, correction_factor

#: Torque and power of one file agree within this. [–]
_AGREE = 0.03
_LEAST_ROWS = 8


@dataclass(frozen=True)
class DynamometerFile:
    """What a file held.

    Attributes
    ----------
    pull : PullRecord
        As measured: a correction that was in it is undone where its air is known.
    said : tuple of str
        How it was understood.
    """

    pull: PullRecord
    said: tuple[str, ...]


def read_dynamometer(
    data: bytes, *, corrected_by: Standard = "none", ambient: Ambient | None = None
) -> DynamometerFile:  # fmt: skip
    """Return the pull of a dynamometer's file.

    Parameters
    ----------
    data : bytes
        CSV text with speed, and torque or power.
    corrected_by : str
        Correction that is in its figures.
    ambient : Ambient or None
        Air of the test, to undo it.

    Raises
    ------
    LogRefused
        If it cannot be read, or torque and power contradict each other.
    InputRefused
        If a correction is to be undone without the air of the test.
    """
    channels, uses, problems = read_columns(data)
    rpm = channels.get("rpm")
    torque, power = channels.get("torque_nm"), channels.get("power_kw")
    if rpm is None or (torque is None and power is None):
        raise LogRefused("A dynamometer's file needs engine speed, and torque or power.")
    said = [f"'{use.column.header}' is read as {use.channel.replace('_', ' ')}{f' in {use.unit}' if use.unit else ''}." for use in uses if use.channel in ("rpm", "torque_nm", "power_kw")]  # fmt: skip
    by_power = None if power is None else power * 30_000.0 / np.pi / np.maximum(rpm, 1.0)
    if torque is None:
        torque = by_power
        said.append("Torque was computed from power and speed.")
    elif by_power is not None:
        _refuse_contradiction(torque, by_power, rpm)
    assert torque is not None
    usable = np.isfinite(rpm) & np.isfinite(torque) & (rpm > 200.0)
    if usable.sum() < _LEAST_ROWS or np.ptp(rpm[usable]) < LEAST_SPAN_RPM:
        raise LogRefused(
            f"A pull goes through {LEAST_SPAN_RPM:.0f} rpm at least, in {_LEAST_ROWS} rows or more."
        )
    if corrected_by != "none":
        if ambient is None:
            raise field_refused("ambient", "To undo a correction the air of the test must be known; else keep its figures as measured.")  # fmt: skip
        factor = correction_factor(corrected_by, ambient.check())
        torque = torque / factor
        said.append(f"Its correction (× {factor:.3f}) is undone.")
    time = channels.get("time_s")
    seconds = (
        float(np.nanmax(time) - np.nanmin(time))
        if time is not None and np.isfinite(time).any()
        else 0.0
    )
    columns = {
        name: values[usable]
        for name, values in channels.items()
        if name not in ("rpm", "power_kw", "time_s")
    }
    columns["torque_nm"] = torque[usable]
    pull = _even(rpm[usable], columns, seconds)
    return DynamometerFile(pull, (*said, *problems))


def _even(rpm: FloatArray, columns: dict[str, FloatArray], seconds: float) -> PullRecord:
    """Return points over speed as a pull: where they stand further apart than a bin they are joined."""
    order = np.argsort(rpm, kind="stable")
    rpm = rpm[order]
    fine = np.arange(np.ceil(rpm[0] / 50.0) * 50.0, rpm[-1] + 1.0, 50.0)
    joined = {}
    for name, values in columns.items():
        held = values[order]
        known = np.isfinite(held)
        if known.sum() > 1:
            joined[name] = np.interp(fine, rpm[known], held[known])
    return binned(fine, joined, torque="measured", seconds=seconds, origin="dynamometer")


def _refuse_contradiction(torque: FloatArray, by_power: FloatArray, rpm: FloatArray) -> None:
    known = np.isfinite(torque) & np.isfinite(by_power) & (torque > 1.0) & (rpm > 500.0)
    if known.sum() < 3:
        return
    ratio = float(np.median(by_power[known] / torque[known]))
    if abs(ratio - 1.0) > _AGREE:
        raise LogRefused(
            f"Torque and power contradict each other: power over speed gives {ratio:.3f} of the torque. One of them is in another "
            "unit, or at the wheels."
        )


def typed_pull(points: list[tuple[float, float]]) -> PullRecord:
    """Return a pull of typed points.

    Parameters
    ----------
    points : list of (1/min, N·m)

    Raises
    ------
    InputRefused
        If they are too few, too close, or cannot be.
    """
    if len(points) < 3:
        raise field_refused("points", "Three points at least make a curve.")
    rpm, torque = (np.array(values, dtype=float) for values in zip(*points, strict=True))
    if (
        not (np.isfinite(rpm).all() and np.isfinite(torque).all())
        or rpm.min() < 200
        or rpm.max() > 25_000
        or np.abs(torque).max() > 20_000
    ):
        raise field_refused(
            "points", "Speeds lie between 200 and 25000 rpm, torque within ±20000 N·m."
        )
    if len(set(rpm.tolist())) < len(rpm):
        raise field_refused("points", "Two points stand at the same speed.")
    if np.ptp(rpm) < LEAST_SPAN_RPM:
        raise field_refused("points", f"A pull goes through {LEAST_SPAN_RPM:.0f} rpm at least.")
    pull = _even(rpm, {"torque_nm": torque}, 0.0)
    return PullRecord(pull.rpm, pull.values, "measured", 0.0, "typed")
