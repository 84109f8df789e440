"""A job that comes back: what of its record still stands with other parts, what falls, and what would prove it again."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Literal, get_args

from ..errors import field_refused

Part = Literal["injectors", "fuel", "camshaft", "throttle", "sensors", "controller", "turbocharger", "exhaust", "ignition", "place"]  # fmt: skip
Stand = Literal["wiring", "sensors", "injectors", "trigger", "idle", "starts", "map", "transients", "pulls", "read_back"]  # fmt: skip

#: Wording of what may be another.
PARTS: dict[Part, str] = {
    "injectors": "other injectors",
    "fuel": "another fuel",
    "camshaft": "another camshaft or head",
    "throttle": "another throttle or idle valve",
    "sensors": "another sensor",
    "controller": "another controller or firmware",
    "turbocharger": "another turbocharger or wastegate",
    "exhaust": "another exhaust or wideband",
    "ignition": "other coils or plugs",
    "place": "another place or altitude",
}
#: What stands in a record, and what would prove it again.
STANDS: dict[Stand, tuple[str, str]] = {
    "wiring": ("The wiring list as built", "Save the plan with what was changed."),
    "sensors": ("Sensors and the key-on check", "Check the sensors with the key on."),
    "injectors": ("Injector flow, dead time and supply", "Enter the injectors and look at the supply."),  # fmt: skip
    "trigger": ("Position and timing", "Read the mark with the timing light."),
    "idle": ("The warm idle", "Sweep the valve, or read its stop again."),
    "starts": ("Cold starts", "Good starts on the tables in force, from the warm ones to the cold."),  # fmt: skip
    "map": ("The fuel map", "A drive, and a pass over the map."),
    "transients": ("Transients", "Read pedal steps from a drive."),
    "pulls": ("Full load", "Two pulls under the limits."),
    "read_back": ("The controller read back", "Read it back and compare it with the last revision."),
}  # fmt: skip
#: As cold as before within this; where nothing was proven before, a start from here down is a cold one. [K, °C]
_AS_COLD_K, _WARM_PROOF_C = 5.0, 15.0
#: What falls with a part (common practice, no source): what was measured through it, or stands on it.
_FALLS: dict[Part, tuple[Stand, ...]] = {
    "injectors": ("injectors", "starts", "map", "transients", "pulls", "read_back"),
    "fuel": ("starts", "map", "pulls", "read_back"),
    "camshaft": ("trigger", "idle", "starts", "map", "transients", "pulls", "read_back"),
    "throttle": ("idle", "starts", "transients", "read_back"),
    "sensors": ("sensors", "starts", "read_back"),
    "controller": ("wiring", "sensors", "trigger", "idle", "starts", "map", "transients", "pulls", "read_back"),
    "turbocharger": ("map", "pulls", "read_back"),
    "exhaust": ("map", "pulls"),
    "ignition": ("wiring", "trigger", "pulls"),
    "place": ("starts", "pulls"),
}  # fmt: skip


@dataclass(frozen=True)
class Reopened:
    """That a job came back: when, and which parts are others."""

    at: datetime
    parts: tuple[Part, ...]


@dataclass(frozen=True)
class GoodStart:
    """A good start: when, and how cold. [°C]"""

    at: datetime
    coolant_c: float


@dataclass(frozen=True)
class Fallen:
    """Something that does not stand any more.

    Attributes
    ----------
    stand : str
        One of :data:`STANDS`.
    what, because, proof : str
        What fell, which parts took it along, and what would prove it again.
    again : bool
        Whether it was proven again since.
    """

    stand: Stand
    what: str
    because: str
    proof: str
    again: bool


@dataclass(frozen=True)
class Reopening:
    """What is kept of a record [in words], and what fell."""

    kept: tuple[str, ...]
    fallen: tuple[Fallen, ...]


def refuse_parts(parts: Sequence[str]) -> tuple[Part, ...]:
    """Return the parts of a reopening, each once.

    Raises
    ------
    InputRefused
        If there is none, or one is unknown.
    """
    known = {part: part for part in get_args(Part)}
    if not parts:
        raise field_refused("parts", "Say which part is another; without one nothing falls.")
    for part in parts:
        if part not in known:
            raise field_refused("parts", f"There is no part '{part[:40]}'.")
    return tuple(dict.fromkeys(known[part] for part in parts))


def what_stands(
    reopened: Sequence[Reopened],
    proven_at: Mapping[Stand, datetime | None],
    starts: Sequence[GoodStart] = (),
) -> Reopening:
    """Return what of a record stands after a job came back, and what fell.

    Cold starts are proven again by one as cold as the coldest good one that had been there: a warm one proves little.

    Parameters
    ----------
    reopened : sequence of Reopened
        In any order.
    proven_at : mapping of str to datetime or None
        When each but the starts was last proven; None where it never was, which is another matter.
    starts : sequence of GoodStart
        Good starts of the whole record.
    """
    fallen, kept = [], []
    for stand, (title, proof) in STANDS.items():
        when = (
            proven_at.get(stand) if stand != "starts" else max((s.at for s in starts), default=None)
        )
        takers = [one for one in reopened if any(stand in _FALLS[part] for part in one.parts)]
        if not takers:
            if when is not None:
                kept.append(title)
            continue
        last = max(one.at for one in takers)
        parts = dict.fromkeys(part for one in takers for part in one.parts if stand in _FALLS[part])
        because = ", ".join(PARTS[part] for part in parts)
        again = _cold_again(starts, last) if stand == "starts" else when is not None and when > last
        fallen.append(Fallen(stand, title, because, proof, again))
    return Reopening(tuple(kept), tuple(fallen))


def _cold_again(starts: Sequence[GoodStart], last: datetime) -> bool:
    """Say whether a start since a moment was good where it was as cold as ever a good one before."""
    before = [one.coolant_c for one in starts if one.at <= last]
    since = [one.coolant_c for one in starts if one.at > last]
    return bool(since) and min(since) <= min(before, default=_WARM_PROOF_C) + _AS_COLD_K
