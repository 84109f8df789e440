"""Base calibration from engine data."""

from .axes import choose_axes
from .generate import generate
from .idle import idle_target_rpm, warm_idle_rpm

__all__ = ["choose_axes", "generate", "idle_target_rpm", "warm_idle_rpm"]
