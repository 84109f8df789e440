"""The same logs read again after a repair: what a mended cause had done is taken off first."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..engine import EngineSpec
from ..errors import field_refused
from ..quantities import FloatArray
from ..tables import Table
from .effects import KINDS, View
from .samples import Readings

#: A size that is so many widths off is none. [–]
_WIDTHS = 6.0


@dataclass(frozen=True)
class Mended:
    """A cause that was put right: its key, how large it was, in its unit [unit of the cause], and whether it had come
    after the earlier drives.
    """

    key: str
    size: float
    since: bool = False


def without(
    readings: Readings, mended: Sequence[Mended], spec: EngineSpec, table: Table
) -> Readings:
    """Return readings as they would have been without causes that were mended since.

    Parameters
    ----------
    readings : Readings
    mended : sequence of Mended
    spec : EngineSpec
        As entered when the logs were driven.
    table : Table
        That is corrected.

    Raises
    ------
    InputRefused
        If there is no such cause, its size cannot be, or these readings cannot show it.
    """
    view = View(readings, spec, table)
    off: FloatArray = np.zeros(len(readings))
    for one in mended:
        kind = next((kind for kind in KINDS if kind.key == one.key), None)
        if kind is None:
            raise field_refused("mended", f"There is no cause '{one.key[:40]}'.")
        scale = 100.0 if kind.unit.startswith("%") else 1.0
        size = one.size / scale
        if not np.isfinite(size) or abs(size - kind.expected) > _WIDTHS * kind.spread:
            raise field_refused("mended", f"{one.size:g} {kind.unit} cannot be: {kind.title}.")
        effect = kind.effect(view)
        if effect is None:
            raise field_refused("mended", f"These readings cannot show it: {kind.title}.")
        off = off + effect(size)
    return replace(readings, need=readings.need - off)
