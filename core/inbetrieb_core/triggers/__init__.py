"""Trigger and timing: wheels, captured edges, the timing light and dwell."""

from .decode import Capture, Decoded, decode, follow, place_cam, recognise
from .dwell import Coil, DwellSheet, dwell_from_coil, dwell_from_table, dwell_ms
from .timing_light import LightReading, TimingFit, fit_timing
from .wheel import PATTERNS, Wheel, toothed

__all__ = [
    "PATTERNS",
    "Capture",
    "Coil",
    "Decoded",
    "DwellSheet",
    "LightReading",
    "TimingFit",
    "Wheel",
    "decode",
    "dwell_from_coil",
    "dwell_from_table",
    "dwell_ms",
    "fit_timing",
    "follow",
    "place_cam",
    "recognise",
    "toothed",
]
