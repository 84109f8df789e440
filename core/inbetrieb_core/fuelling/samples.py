"""From logs to readings of a table: one a second, each at its place, with what the causes under the bonnet need."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..errors import LogRefused
from ..logs import Trace
from ..quantities import FloatArray
from ..tables import Calibration, Table
from .beside import Beside, beside
from .delay import Delay, delay_of
from .layers import MISFIRES, Layer, stack
from .places import MapKey, alike, grid_of, held_at, in_profile, looked_up, places_on

#: Readings closer than this are one: sensor and walls remember. [s]
_ALIKE_S = 1.0
_RUNNING_V = 13.8
#: Where a meter is fitted and the load of the map is not logged. [kPa or %]
_USUAL_LOAD = 50.0


@dataclass(frozen=True)
class Readings:
    """Readings of the map, one array each.

    Attributes
    ----------
    row, column : ndarray
        Place on the table that is corrected; rows of a curve are all 0. [units of its axes]
    rpm, load : ndarray
        Speed, and the load of the fuel map. [1/min], [kPa] or [%]
    need : ndarray
        ln of fuel needed over fuel given. [–]
    spread : ndarray
        Standard error of it. [–]
    map_kpa, net_ms, intake_c, fuel_kpa, target, baro_kpa : ndarray
        Manifold pressure, net pulse, intake air, fuel pressure, lambda target and air pressure; NaN where not
        logged. [kPa, ms, °C, kPa, –, kPa]
    """

    row: FloatArray
    column: FloatArray
    rpm: FloatArray
    load: FloatArray
    need: FloatArray
    spread: FloatArray
    map_kpa: FloatArray
    net_ms: FloatArray
    intake_c: FloatArray
    fuel_kpa: FloatArray
    target: FloatArray
    baro_kpa: FloatArray

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
    beside : Beside
        What the drive shows beside them.
    """

    readings: Readings
    layers: tuple[Layer, ...]
    delay: Delay
    beside: Beside


def sift(
    trace: Trace,
    calibration: Calibration,
    *,
    now: Calibration | None = None,
    off: Collection[str] = (),
    key: MapKey = "ve",
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
    off : collection of str
        Layers that are switched off.
    key : str
        Table that is corrected, one of :data:`.places.MAPS`.

    Raises
    ------
    LogRefused
        If a channel is missing, or lambda is a narrow-band signal.
    """
    table = calibration[key]
    places = places_on(table, trace)
    missing = [name for name in dict.fromkeys(("rpm", *places.channels, "lambda")) if trace.get(name) is None]  # fmt: skip
    if missing:
        raise LogRefused(
            f"This table is corrected from {', '.join(places.channels)} and lambda; missing: {', '.join(missing)}."
        )
    _refuse_narrow_band(trace)
    counts, layers = stack(trace, off)
    but_misfires, _ = stack(trace, {*off, MISFIRES})
    counts = counts & in_profile(calibration, trace, key)
    delay = delay_of(trace, calibration["dead_time"].at(_RUNNING_V))
    readings, _ = binned(trace, calibration, key, counts, delay)
    newer = None if now is None else now.tables.get(key)
    kept = readings if newer is None else carried_to(readings, table, newer)
    return Sifted(kept, layers, delay, beside(trace, but_misfires))


def carried_to(readings: Readings, then: Table, newer: Table) -> Readings:
    """Return what is still missing of readings once the table is another: what it gained since is taken off.

    Parameters
    ----------
    readings : Readings
    then : Table
        That was in the controller.
    newer : Table
        That is to be corrected; where its axes are others, nothing can be taken off.
    """
    if not alike(newer, then) or not len(readings):
        return readings
    held, new = (held_at(t, readings.row, readings.column) for t in (then, newer))
    return replace(readings, need=readings.need + np.log(held / new))


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


def binned(
    trace: Trace, calibration: Calibration, key: MapKey, counts: np.ndarray, delay: Delay | None = None
) -> tuple[Readings, FloatArray]:  # fmt: skip
    """Return the readings of the samples that count, and the coolant of each [°C].

    Parameters
    ----------
    trace : Trace
    calibration : Calibration
        That was in the controller.
    key : str
        Table that is corrected.
    counts : ndarray of bool
        Samples that count.
    delay : Delay, optional
        Of the wideband; read from the log where it is not given.
    """
    table, load_name = calibration[key], _load_name(calibration)
    delay = delay or delay_of(trace, calibration["dead_time"].at(_RUNNING_V))
    time_s, rpm = trace.time_s, trace["rpm"]
    # What is read now was given a delay ago: the reading is brought back to it.
    late = np.interp(time_s + delay.at(np.nan_to_num(rpm, nan=900.0)), time_s, _log_lambda(trace))
    target = _target(trace, calibration, load_name)
    correction = trace.get("lambda_correction_pct")
    trim = 0.0 if correction is None else np.log1p(np.nan_to_num(correction) / 100.0)
    need = late - np.log(target) + trim
    voltage = np.nan_to_num(_channel(trace, "battery_v"), nan=_RUNNING_V)
    dead = np.interp(
        voltage, calibration["dead_time"].axes[0].points, calibration["dead_time"].values
    )  # fmt: skip
    on = places_on(table, trace)
    columns = {
        "row": on.row, "column": on.column, "rpm": rpm, "load": _channel(trace, load_name), "need": need, "map_kpa": _channel(trace, "map_kpa"),
        "net_ms": _channel(trace, "pulse_ms") - dead, "intake_c": _channel(trace, "intake_c"),
        "fuel_kpa": _channel(trace, "fuel_pressure_kpa"), "target": target,
        "baro_kpa": _channel(trace, "barometric_kpa"), "coolant_c": _channel(trace, "coolant_c"),
    }  # fmt: skip
    # Beyond its ends a map holds its last value: what is read there belongs to no cell of it.
    inside = np.ones(counts.shape, dtype=bool)
    for points, values in zip(grid_of(table), (on.row, on.column), strict=True):
        inside &= (values >= points[0]) & (values <= points[-1])
    usable = counts & inside & np.isfinite(need)
    places = np.floor((time_s - time_s[0]) / _ALIKE_S).astype(int)[usable]
    if not places.size:
        return joined(()), np.empty(0)
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
    coolant = found.pop("coolant_c")
    return Readings(spread=spread, **found), coolant


def _load_name(calibration: Calibration) -> str:
    return "throttle_pct" if calibration["ve"].by_throttle else "map_kpa"


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
    load = np.nan_to_num(_channel(trace, load_name), nan=_USUAL_LOAD)
    by_table = looked_up(calibration["lambda_target"], np.nan_to_num(trace["rpm"]), load)
    if logged is None:
        return np.asarray(np.maximum(by_table, 0.3))
    return np.maximum(np.where(np.isfinite(logged), logged, by_table), 0.3)


def joined(parts: Sequence[Readings]) -> Readings:
    """Return the readings of several logs as one."""
    return Readings(
        *(
            np.concatenate([np.empty(0), *(getattr(p, name) for p in parts)])
            for name in Readings.__dataclass_fields__
        )
    )
