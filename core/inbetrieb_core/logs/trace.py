"""A log in canonical channels: what every analysis reads."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType

import numpy as np

from ..errors import LogRefused
from ..quantities import FloatArray


@dataclass(frozen=True, eq=False)
class Trace:
    """Samples of canonical channels on one time base.

    Attributes
    ----------
    channels : mapping of str to ndarray
        ``time_s`` and at least one other canonical channel, all of one length; a missing
        sample is NaN. Time rises strictly.

    Raises
    ------
    LogRefused
        If lengths differ, time is missing or does not rise, or there are no samples.
    """

    channels: Mapping[str, FloatArray]

    def __post_init__(self) -> None:
        arrays = {name: np.asarray(values, dtype=float) for name, values in self.channels.items()}
        if "time_s" not in arrays or arrays["time_s"].size < 2:
            raise LogRefused("The log holds fewer than two samples.")
        time = arrays["time_s"]
        if any(values.shape != time.shape for values in arrays.values()):
            raise LogRefused("The channels of the log have different lengths.")
        if not np.isfinite(time).all() or (np.diff(time) <= 0).any():
            raise LogRefused("The times of the log do not rise from sample to sample.")
        object.__setattr__(self, "channels", MappingProxyType(arrays))

    def __getitem__(self, name: str) -> FloatArray:
        return self.channels[name]

    def get(self, name: str) -> FloatArray | None:
        """Return a channel, or None where the log has none with any finite sample."""
        values = self.channels.get(name)
        return values if values is not None and np.isfinite(values).any() else None

    @property
    def time_s(self) -> FloatArray:
        """The time base. [s]"""
        return self.channels["time_s"]

    @property
    def duration_s(self) -> float:
        """Length from the first to the last sample. [s]"""
        return float(self.time_s[-1] - self.time_s[0])

    @property
    def rate_hz(self) -> float:
        """Median sampling rate. [1/s]"""
        return float(1.0 / np.median(np.diff(self.time_s)))

    def between(self, start_s: float, end_s: float) -> Trace:
        """Return the part with start ≤ time < end. [s]"""
        inside = (self.time_s >= start_s) & (self.time_s < end_s)
        return Trace({name: values[inside] for name, values in self.channels.items()})

    def mean(self, name: str, start_s: float, end_s: float) -> float | None:
        """Return a channel's mean over start ≤ time < end, None without finite samples."""
        values = self.get(name)
        if values is None:
            return None
        inside = values[(self.time_s >= start_s) & (self.time_s < end_s)]
        inside = inside[np.isfinite(inside)]
        return float(inside.mean()) if inside.size else None
