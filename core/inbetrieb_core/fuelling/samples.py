"""From logs to readings of the map: one a second, each at its place, with what the causes under the bonnet need."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..errors import LogRefused
from ..logs import Trace
from ..quantities import FloatArray
from ..tables import Calibration, Table
from ..tables.weights import weight_matrix
from .delay import Delay, delay_of
from .layers import Layer, stack

#: Readings closer than this are one: sensor and walls remember. [s]
_ALIKE_S = 1.0
_RUNNING_V = 13.8


@dataclass(frozen=True)
class Readings:
    """Readings of the map, one array each.

    Attributes
    ----------
    rpm, load : ndarray
        Place on the map. [1/min], [kPa] or [%]
    need : ndarray
        ln of fuel needed over fuel given. [–]
    spread : ndarray
        Standard error of it. [–]
    map_kpa, pulse_ms, net_ms, intake_c, fuel_kpa, battery_v, target, log : ndarray
        Manifold pressure, whole and net pulse, intake air, fuel pressure, voltage, lambda target, and which log;
        NaN where not logged. [kPa, ms, ms, °C, kPa, V, –, –]
    """

    rpm: FloatArray
    load: FloatArray
    need: FloatArray
    spread: FloatArray
    map_kpa: FloatArray
    pulse_ms: FloatArray
    net_ms: FloatArray
    intake_c: FloatArray
    fuel_kpa: FloatArray
    battery_v: FloatArray
    target: FloatArray
    log: FloatArray

    def __len__(self) -> int:
        return int(self.rpm.size)

    def chosen(self, mask: np.ndarray) -> Readings:
        """Return those of a mask."""
        return Readings(*(getattr(self, name)[mask] for name in self.__dataclass_fields__))


@dataclass(frozen=True)
class Sifted:
    """What one log gave.

    Attributes
    ----------
    readings : Readings
    layers : tuple of Layer
    delay : Delay
    """

    readings: Readings
    layers: tuple[Layer, ...]
    delay: Delay


def sift(
    trace: Trace,
    calibration: Calibration,
    *,
    now: Calibration | None = None,
    number: int = 0,
    off: Collection[str] = (),
) -> Sifted:
    """Return the readings of one drive.

    Parameters
    ----------
    trace : Trace
        With speed, the load of the map, and lambda.
    calibration : Calibration
        That was in the controller.
    now : Calibration, optional
        The tables that are to be corrected, where they are others: what the map gained since is taken off.
    number : int
        Of the log.
    off : collection of str
        Layers that are switched off.

    Raises
    ------
    LogRefused
        If a channel is missing, or lambda is a narrow-band signal.
    """
    table = calibration["ve"]
    load_name = "throttle_pct" if table.by_throttle else "map_kpa"
    missing = [name for name in ("rpm", load_name, "lambda") if trace.get(name) is None]
    if missing:
        raise LogRefused(
            f"A map is corrected from speed, load and lambda; missing: {', '.join(missing)}."
        )
    _refuse_narrow_band(trace)
    dead_ms = calibration["dead_time"].at(_RUNNING_V)
    counts, layers = stack(trace, off)
    delay = delay_of(trace, dead_ms)
    readings = _binned(trace, calibration, counts, delay, load_name, number)
    if now is not None and now["ve"].by_throttle == table.by_throttle and len(readings):
        then, newer = (looked_up(c["ve"], readings.rpm, readings.load) for c in (calibration, now))
        readings = replace(readings, need=readings.need + np.log(then / newer))
    return Sifted(readings, layers, delay)


def _refuse_narrow_band(trace: Trace) -> None:
    """Refuse a signal that is only rich or lean.

    Raises
    ------
    LogRefused
        With a sentence.
    """
    reading = trace["lambda"]
    reading = reading[np.isfinite(reading)]
    low = reading < 1.0
    # A narrow-band sensor's voltage called lambda lives at two places below one volt and hardly between.
    between = (reading > 0.25) & (reading < 0.65)
    if (
        low.mean() > 0.95
        and (reading < 0.25).mean() > 0.1
        and (reading > 0.65).mean() > 0.1
        and between.mean() < 0.3
    ):
        raise LogRefused(
            "Lambda in this log is the voltage of a narrow-band sensor: it says rich or lean, not how much. Log the "
            "wideband."
        )


def _binned(
    trace: Trace, calibration: Calibration, counts: np.ndarray, delay: Delay, load_name: str, number: int
) -> Readings:  # fmt: skip
    time_s, rpm = trace.time_s, trace["rpm"]
    # What is read now was given a delay ago: the reading is brought back to it.
    late = np.interp(time_s + delay.at(np.nan_to_num(rpm, nan=900.0)), time_s, _log_lambda(trace))
    target = _target(trace, calibration, load_name)
    correction = trace.get("lambda_correction_pct")
    trim = 0.0 if correction is None else np.log1p(np.nan_to_num(correction) / 100.0)
    need = late - np.log(target) + trim
    pulse = _channel(trace, "pulse_ms")
    voltage = _channel(trace, "battery_v")
    dead = np.interp(
        np.nan_to_num(voltage, nan=_RUNNING_V), calibration["dead_time"].axes[0].points, calibration["dead_time"].values
    )  # fmt: skip
    columns = {
        "rpm": rpm, "load": trace[load_name], "need": need, "map_kpa": _channel(trace, "map_kpa"),
        "pulse_ms": pulse, "net_ms": pulse - dead, "intake_c": _channel(trace, "intake_c"),
        "fuel_kpa": _channel(trace, "fuel_pressure_kpa"), "battery_v": voltage, "target": target,
    }  # fmt: skip
    # Beyond its ends a map holds its last value: what is read there belongs to no cell of it.
    inside = np.ones(counts.shape, dtype=bool)
    for axis, values in zip(calibration["ve"].axes, (rpm, columns["load"]), strict=True):
        inside &= (values >= axis.points[0]) & (values <= axis.points[-1])
    usable = counts & inside & np.isfinite(need)
    places = np.floor((time_s - time_s[0]) / _ALIKE_S).astype(int)[usable]
    if not places.size:
        nothing = np.empty(0)
        return Readings(*([nothing] * len(Readings.__dataclass_fields__)))
    _, group = np.unique(places, return_inverse=True)
    count = np.bincount(group).astype(float)
    found = {}
    for name, values in columns.items():
        kept = values[usable]
        known = np.isfinite(kept)
        total = np.bincount(group[known], kept[known], minlength=count.size)
        seen = np.bincount(group[known], minlength=count.size)
        found[name] = np.where(seen > 0, total / np.maximum(seen, 1), np.nan)
    rest = np.bincount(group, (columns["need"][usable] - found["need"][group]) ** 2) / count
    # A mean of a second is as sure as its samples agree, and never surer than a sensor is even.
    spread = np.sqrt(rest / np.maximum(count / 4.0, 1.0) + 0.006**2)
    return Readings(
        spread=spread, log=np.full(count.size, float(number)),
        **{k: found[k] for k in ("rpm", "load", "need", "map_kpa", "pulse_ms", "net_ms", "intake_c", "fuel_kpa", "battery_v", "target")},
    )  # fmt: skip


def _log_lambda(trace: Trace) -> FloatArray:
    reading = trace["lambda"]
    known = np.isfinite(reading)
    held = np.interp(trace.time_s, trace.time_s[known], reading[known])
    return np.asarray(np.log(np.clip(held, 0.3, 3.0)))


def _channel(trace: Trace, name: str) -> FloatArray:
    values = trace.get(name)
    return np.full(trace.time_s.shape, np.nan) if values is None else values


def _target(trace: Trace, calibration: Calibration, load_name: str) -> FloatArray:
    """Return the mixture target: as logged, else as the table in the controller has it. [–]"""
    logged = trace.get("lambda_target")
    by_table = looked_up(
        calibration["lambda_target"], np.nan_to_num(trace["rpm"]), np.nan_to_num(trace[load_name])
    )
    if logged is None:
        return np.asarray(np.maximum(by_table, 0.3))
    return np.maximum(np.where(np.isfinite(logged), logged, by_table), 0.3)


def looked_up(table: Table, rpm: FloatArray, load: FloatArray) -> FloatArray:
    """Return the values of a map at many places, as a controller interpolates. [1/min, unit of the load]"""
    matrix = weight_matrix([axis.points for axis in table.axes], [rpm, load])
    return np.asarray(matrix @ np.asarray(table.values, dtype=float).ravel())


def joined(parts: Sequence[Readings]) -> Readings:
    """Return the readings of several logs as one."""
    return Readings(
        *(
            np.concatenate([getattr(p, name) for p in parts])
            for name in Readings.__dataclass_fields__
        )
    )
