"""Wire colours: a base for what a wire does, a tracer so that none in a plug is like another."""

from __future__ import annotations

import re

#: Letters of the colours (IEC 60757) with their names.
LETTERS: dict[str, str] = {
    "BK": "black", "BN": "brown", "RD": "red", "OG": "orange", "YE": "yellow", "GN": "green",
    "BU": "blue", "VT": "violet", "GY": "grey", "WH": "white", "PK": "pink", "TQ": "turquoise",
}  # fmt: skip
#: Base by what a wire is: group of its function, or what it shares.
_BASES = {
    "trigger": "YE", "ignition": "WH", "fuel": "BU", "sensor": "GN", "output": "VT", "bus": "GY",
    "own": "TQ", "supply": "RD", "sensor_supply": "PK", "sensor_ground": "BN", "power_ground": "BK",
}  # fmt: skip
_TRACERS = ("", "BK", "WH", "RD", "YE", "BU", "GN", "BN", "OG", "GY", "VT", "PK", "TQ")
_PATTERN = re.compile(r"^([A-Z]{2})(?:-([A-Z]{2}))?$")


def is_colour(text: str) -> bool:
    """Say whether a text is one or two colours by their letters, such as GN-WH."""
    match = _PATTERN.match(text)
    return match is not None and all(part in LETTERS for part in text.split("-"))


class Colours:
    """Hands out colours that differ within each connector."""

    def __init__(self) -> None:
        self._taken: dict[str, set[str]] = {}

    def take(self, what: str, connector: str, wanted: str = "") -> str:
        """Return a colour for a wire.

        Parameters
        ----------
        what : str
            Group of its function, or the capability of a shared pin.
        connector : str
            Among whose wires it must be told apart.
        wanted : str
            The installer's own choice; it is taken as it is.
        """
        taken = self._taken.setdefault(connector, set())
        base = _BASES[what]
        choices = [base if not t else f"{base}-{t}" for t in _TRACERS if t != base]
        colour = wanted or next((c for c in choices if c not in taken), choices[-1])
        taken.add(colour)
        return colour
