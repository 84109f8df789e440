"""Signals of several rates on one time base, as the table that the importer of logs reads."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import polars as pl

from ..errors import LogRefused
from ..quantities import FloatArray

MOST_SIGNALS, MOST_VALUES = 600, 60_000_000
#: The base runs through at least this share of the whole; what lies further from a sample than so many of its steps, and
#: than so long, is missing. [–, –, s]
_THROUGH, _STEPS, _GAP_S = 0.7, 6.0, 1.0


@dataclass(frozen=True, eq=False)
class Signal:
    """A signal with its own times [s]; `is_state` for whole numbers, which hold until the next."""

    name: str
    unit: str
    time_s: FloatArray
    values: FloatArray
    is_state: bool = False


def aligned_table(signals: Sequence[Signal]) -> bytes:
    """Return signals as CSV text over one time base: the finest that runs through.

    Parameters
    ----------
    signals : sequence of Signal
        Of any rates; times need not rise everywhere.

    Raises
    ------
    LogRefused
        If there is nothing, or more than a log holds.
    """
    pairs = [(one, _rising(one)) for one in signals]
    pairs = [(one, rising) for one, rising in pairs if rising.time_s.size >= 2]
    ready = [rising for _, rising in pairs]
    if not ready:
        raise LogRefused("The file holds no signal with two samples or more.")
    if len(ready) > MOST_SIGNALS:
        raise LogRefused(f"The file holds {len(ready)} signals; up to {MOST_SIGNALS} can be read. Export the engine's alone.")  # fmt: skip
    base = _base(ready)
    if base.size * len(ready) > MOST_VALUES:
        raise LogRefused("The file holds more samples than can be read at once. Cut it, or export fewer signals.")  # fmt: skip
    columns = {"Time (s)": base - base[0]}
    for one, rising in pairs:
        # On the base itself what is missing stays missing, however short.
        alike = one.time_s.size == base.size and np.array_equal(one.time_s, base)
        columns[_head(one, columns)] = one.values if alike else _on(base, rising)
    return table_text(columns)


def table_text(columns: Mapping[str, FloatArray]) -> bytes:
    """Return columns under their heads as CSV text that reads back to the last digit; NaN is an empty cell."""
    return pl.DataFrame(dict(columns)).fill_nan(None).write_csv(null_value="").encode()


def _rising(signal: Signal) -> Signal:
    """Return a signal whose times rise, missing samples and those that go back left out."""
    known = np.isfinite(signal.time_s) & np.isfinite(signal.values)
    time_s, values = signal.time_s[known], signal.values[known]
    if time_s.size:
        rises = time_s > np.maximum.accumulate(np.concatenate([[-np.inf], time_s[:-1]]))
        time_s, values = time_s[rises], values[rises]
    return Signal(signal.name, signal.unit, time_s, values, signal.is_state)


def _base(signals: Sequence[Signal]) -> FloatArray:
    whole = max(s.time_s[-1] for s in signals) - min(s.time_s[0] for s in signals)
    through = [s for s in signals if np.ptp(s.time_s) >= _THROUGH * whole] or list(signals)
    return max(through, key=lambda s: s.time_s.size).time_s


def _head(signal: Signal, taken: dict[str, FloatArray]) -> str:
    plain = " ".join(signal.name.replace(",", " ").split())[:120] or "signal"
    head = f"{plain} ({signal.unit.strip()[:20]})" if signal.unit.strip() else plain
    number, found = 2, head
    while found in taken:
        found, number = f"{head} {number}", number + 1
    return found


def _on(base: FloatArray, signal: Signal) -> FloatArray:
    """Return a signal at the times of the base; NaN where it says nothing."""
    time_s, values = signal.time_s, signal.values
    after = np.clip(np.searchsorted(time_s, base, side="right"), 1, time_s.size - 1)
    if signal.is_state:
        found = values[np.clip(np.searchsorted(time_s, base, side="right") - 1, 0, None)]
    else:
        found = np.interp(base, time_s, values)
    step = float(np.median(np.diff(time_s)))
    nearest = np.minimum(np.abs(base - time_s[after - 1]), np.abs(base - time_s[after]))
    return np.where(nearest <= max(_STEPS * step, _GAP_S), found, np.nan)
