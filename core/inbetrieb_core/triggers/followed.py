"""What was captured of the wheel, and what following it found: kept apart from the loop, which is compiled."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..errors import LogRefused
from ..quantities import FloatArray
from .wheel import Wheel


@dataclass(frozen=True, eq=False)
class Capture:
    """Times at which the signals crossed their threshold in the wanted direction.

    Attributes
    ----------
    crank_s : ndarray
        Edges of the fast signal, rising times. [s]
    cam_s : ndarray
        Edges of the second signal; empty without one. [s]

    Raises
    ------
    LogRefused
        If there are too few edges, or times do not rise.
    """

    crank_s: FloatArray
    cam_s: FloatArray

    def __post_init__(self) -> None:
        for name, least in (("crank_s", 12), ("cam_s", 0)):
            times = np.asarray(getattr(self, name), dtype=float)
            if times.ndim != 1 or times.size < least:
                raise LogRefused(f"At least {least} edges of the crank signal are needed.")
            if not np.isfinite(times).all() or (np.diff(times) <= 0).any():
                raise LogRefused("The times of the edges do not rise from edge to edge.")
            object.__setattr__(self, name, times)


@dataclass(frozen=True, eq=False)
class Followed:
    """A capture followed on one wheel.

    Attributes
    ----------
    wheel : Wheel
    kept : ndarray of int
        Numbers of the crank edges that are teeth.
    angle_deg : ndarray
        Crank angle of each kept edge, counted on from the wheel's first edge. [°]
    lost_at_s, extra_at_s : ndarray
        When a tooth was missed, and edges that are none. [s]
    cost : float
        Faults per tooth. [–]
    """

    wheel: Wheel
    kept: np.ndarray
    angle_deg: FloatArray
    lost_at_s: FloatArray
    extra_at_s: FloatArray
    cost: float
