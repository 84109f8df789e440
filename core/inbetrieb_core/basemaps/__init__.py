"""Base calibration from engine data."""

from .axes import choose_axes
from .dwell import fitted_dwell
from .filling_error import filling_error
from .generate import (
    dead_time_table,
    generate,
    generated_like,
    generated_on,
)
from .refit import refit_injectors

__all__ = [
    "filling_error",
    "choose_axes",
    "dead_time_table",
    "fitted_dwell",
    "generate",
    "generated_like",
    "generated_on",
    "refit_injectors",
]
