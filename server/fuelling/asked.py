"""What a pass over the map is asked for, and the channels it is read from."""

from __future__ import annotations

from dataclasses import dataclass

from inbetrieb_core.fuelling import AUTHORITY, MOST_CYLINDERS, MapKey, Mended, cylinder_channel

CHANNELS = (
    "time_s", "rpm", "map_kpa", "throttle_pct", "lambda", "lambda_target", "lambda_correction_pct", "coolant_c",
    "intake_c", "pulse_ms", "battery_v", "fuel_pressure_kpa", "meter_hz", "meter_v", "cam_profile", "barometric_kpa", "lambda_2", *(cylinder_channel(number) for number in range(1, MOST_CYLINDERS + 1)),
)  # fmt: skip


@dataclass(frozen=True)
class Asked:
    """What a pass is asked for.

    Attributes
    ----------
    log_ids : tuple of int
    off : tuple of str
        Layers that are switched off.
    authority : float
        Most of one pass. [–]
    locked : tuple of (row, column)
    revision : int or None
        That was in the controller, for logs that do not say.
    table : str
        That is corrected.
    mended : tuple of Mended
        Causes that were put right since the logs were driven.
    learned : bool
        Whether the controller's learned trims are read beside the logs.
    """

    log_ids: tuple[int, ...]
    off: tuple[str, ...] = ()
    authority: float = AUTHORITY
    locked: tuple[tuple[int, int], ...] = ()
    revision: int | None = None
    table: MapKey = "ve"
    mended: tuple[Mended, ...] = ()
    learned: bool = False
