"""A cause under the bonnet that readings speak for."""

from __future__ import annotations

from dataclasses import dataclass

from .effects import Key

#: Likely enough to be mended first. [–]
LIKELY = 0.8
#: Below this a cause is not named, nor tested for. [–]
POSSIBLE = 0.1


@dataclass(frozen=True)
class FoundCause:
    """A cause with what speaks for it.

    Attributes
    ----------
    key, title, unit : str
    probability : float
        That it is there, of all models that were compared. [–]
    size, low, high : float
        With its 90 % band. [unit]
    share : float
        Of what the readings differ by, that it explains. [–]
    test : str
        What to do at the engine.
    comes_off : bool
        Whether it can be taken off the same logs once it is mended.
    sense : str
        What the sign of the size means, in words.
    since : bool
        Whether it came after the drives that the map was corrected from.
    """

    key: Key
    title: str
    unit: str
    probability: float
    size: float
    low: float
    high: float
    share: float
    test: str
    comes_off: bool = True
    since: bool = False
    sense: str = ""
