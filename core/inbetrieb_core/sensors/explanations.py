"""Several mistakes that may stand behind one wrong reading, ranked by how well each fits."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass

from ..sentences import quantity

#: What one mistake gives, in words, and what to look at, the likeliest first.
Explanation = tuple[str, tuple[str, ...]]

#: Further off than so many spreads a mistake does not explain a reading. [–]
_FITS = 2.2
#: A second explanation is told from this share of the first one's weight on, and so many at most. [–]
_WORTH_TELLING, _MOST = 0.12, 3


@dataclass(frozen=True)
class Mistake:
    """One mistake and the reading it would give.

    Attributes
    ----------
    words : str
        What it is, without a full stop.
    would : float
        Reading it would give. [unit of the reading]
    spread : float
        How exactly that is known. [unit of the reading]
    common : float
        How often it is met against others. Common practice, no source. [–]
    look_at : tuple of str
    family : str
        Of mistakes of one family only the likeliest is told.
    """

    words: str
    would: float
    spread: float
    common: float
    look_at: tuple[str, ...]
    family: str = "unit"

    def weight(self, reading: float) -> float:
        """Return how likely it is behind a reading; 0 where it does not fit. [–]"""
        off = (self.would - reading) / self.spread
        return 0.0 if abs(off) > _FITS else self.common * math.exp(-0.5 * off * off)


def ranked(mistakes: Iterable[Mistake], reading: float, unit: str) -> Explanation | None:
    """Return the mistakes that fit a reading, the likeliest first; None where none does.

    Parameters
    ----------
    mistakes : iterable of Mistake
        In any order.
    reading : float
        [`unit`]
    unit : str
        Of the reading.
    """
    fitting = [(m.weight(reading), m) for m in mistakes]
    fitting = sorted((pair for pair in fitting if pair[0] > 0.0), key=lambda pair: -pair[0])
    if not fitting:
        return None
    likely: dict[str, Mistake] = {}
    for weight, mistake in fitting:
        if weight >= _WORTH_TELLING * fitting[0][0]:
            likely.setdefault(mistake.family, mistake)
    kept = list(likely.values())[:_MOST]
    first = kept[0]
    sentence = f"{first.words} would read {quantity(first.would, unit, 0)}."
    if len(kept) > 1:
        others = "; ".join(f"{m.words} ({quantity(m.would, unit, 0)})" for m in kept[1:])
        sentence += f" It may also be: {others}."
    look = tuple(dict.fromkeys(place for m in kept for place in m.look_at))
    return sentence, look
