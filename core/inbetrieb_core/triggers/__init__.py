"""Trigger and timing: wheels, captured edges, compression, the timing light and dwell."""

from .capture_file import (
    LARGEST_CAPTURE_BYTES,
    CaptureChoice,
    CaptureFile,
    CaptureReader,
    read_capture,
)
from .compression import Compression, CylinderCompression, phase_shift_deg, relative_compression
from .decode import LEVELS, CamPlace, Decoded, decode, place_cam, recognise
from .dwell import Coil, DwellSheet, dwell_from_coil, dwell_from_table, dwell_ms
from .dwell_entry import DwellEntry
from .entry import TriggerEntry, WheelPicture, usual_trigger, wheel_picture
from .follow import follow
from .followed import Capture, Followed
from .ribbon import Ribbon, RibbonMark, ribbon_of
from .timing_light import LightReading, TimingFit, check_readings, fit_timing
from .wheel import PATTERNS, Wheel, toothed

__all__ = [
    "LARGEST_CAPTURE_BYTES",
    "LEVELS",
    "PATTERNS",
    "CamPlace",
    "Capture",
    "CaptureChoice",
    "CaptureFile",
    "CaptureReader",
    "Coil",
    "Compression",
    "CylinderCompression",
    "Decoded",
    "DwellEntry",
    "DwellSheet",
    "Followed",
    "LightReading",
    "Ribbon",
    "RibbonMark",
    "TimingFit",
    "TriggerEntry",
    "Wheel",
    "WheelPicture",
    "check_readings",
    "decode",
    "dwell_from_coil",
    "dwell_from_table",
    "dwell_ms",
    "fit_timing",
    "follow",
    "phase_shift_deg",
    "place_cam",
    "read_capture",
    "recognise",
    "relative_compression",
    "ribbon_of",
    "toothed",
    "usual_trigger",
    "wheel_picture",
]
