"""Base calibration from engine data."""

from .axes import choose_axes
from .generate import expected_start_value, generate
from .idle import idle_target_rpm, warm_idle_rpm

__all__ = ["choose_axes", "expected_start_value", "generate", "idle_target_rpm", "warm_idle_rpm"]
