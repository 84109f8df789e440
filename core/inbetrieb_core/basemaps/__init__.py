"""Base calibration from engine data."""

from .axes import choose_axes
from .combustion import lambda_target
from .dwell import fitted_dwell
from .efficiency import ve_pct
from .generate import (
    dead_time_table,
    expected_start_value,
    generate,
    generated_like,
    generated_on,
)
from .idle import idle_target_rpm, warm_idle_rpm
from .refit import refit_injectors

__all__ = [
    "choose_axes",
    "dead_time_table",
    "expected_start_value",
    "fitted_dwell",
    "generate",
    "generated_like",
    "generated_on",
    "idle_target_rpm",
    "lambda_target",
    "refit_injectors",
    "ve_pct",
    "warm_idle_rpm",
]
