"""Causes that a drive parts badly: told apart no further than it can, and named together where it is one of them."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import replace

from .effects import Key
from .found_cause import LIKELY, POSSIBLE, FoundCause

#: What a second cause, or what no model knows of an engine, makes look like one of the others.
_LOOK_ALIKE: tuple[Key, ...] = ("dead-time", "short-pulses", "map-sensor", "air-after-throttle")
#: Families and what their members have in common.
_FAMILIES: tuple[tuple[str, tuple[Key, ...]], ...] = (
    ("grows as load falls", _LOOK_ALIKE),
    ("is off alike everywhere", ("fuel-per-pulse", "wideband-offset", "low-pressure")),
)
#: An offset of the wideband, and the class that names the wideband, too.
_WIDEBAND: Key = "wideband-offset"
_ITS_CLASS: Key = "fuel-per-pulse"
#: Those that look alike are told apart by this power of their odds, by the second where earlier drives show the engine
#: without them, and by the third where causes of two families came at once; one that is hardly possible counts as
#: this. What was seen beside the readings counts in full up to these log odds. The powers
#: were set on drawn faults (decisions 0052 and 0064). [–]
_TOLD_APART, _TOLD_APART_SINCE, _OF_TWO, _NEVER_BELOW, _MOST_SEEN = 0.3, 0.45, 0.1, 1e-6, 50.0
#: Where the table alone is left no more than this, it is one of the causes, whichever. [–]
_LEFT_TO_TABLE = 0.1


def told_apart(causes: Sequence[FoundCause], seen: Mapping[Key, float]) -> list[FoundCause]:
    """Return causes, the probability of those that look alike shared out as far as readings tell them apart.

    Parameters
    ----------
    causes : sequence of FoundCause
        As models without and with them compare.
    seen : mapping of key to float
        What was seen beside the readings, such as a pressure that is known: it parts them in full. [log odds]
    """
    shares: dict[Key, float] = {}
    families = [[cause for cause in causes if cause.key in keys] for _, keys in _FAMILIES]
    of_two = all(sum(cause.probability for cause in members) >= POSSIBLE for members in families)
    for (_, keys), members in zip(_FAMILIES, families, strict=True):
        since = any(cause.since and cause.probability >= POSSIBLE for cause in members)
        if since or keys is _LOOK_ALIKE:
            power = (_OF_TWO if of_two else _TOLD_APART_SINCE) if since else _TOLD_APART
            shares |= _in_its_class(_shared_out(members, seen, power), _shared_out(members, seen, _OF_TWO))  # fmt: skip
    return [
        replace(cause, probability=round(shares.get(cause.key, cause.probability), 4))
        for cause in causes
    ]


def _in_its_class(shares: dict[Key, float], barely: dict[Key, float]) -> dict[Key, float]:
    """Return shares, an offset of the wideband no likelier than where it is barely told from the class that it is of.

    With a second cause beside it flow looks like such an offset; called flow, the wideband is named all the same.
    """
    if not {_WIDEBAND, _ITS_CLASS} <= shares.keys():
        return shares
    least = min(shares[_WIDEBAND], barely[_WIDEBAND])
    return {**shares, _WIDEBAND: least, _ITS_CLASS: shares[_ITS_CLASS] + shares[_WIDEBAND] - least}


def _shared_out(
    members: Sequence[FoundCause], seen: Mapping[Key, float], power: float
) -> dict[Key, float]:
    """Return the probability of each member of a family, what they have together shared out by a power of the odds."""
    whole = sum(cause.probability for cause in members)
    if whole <= 0.0:
        return {}
    # One of them whose form the model has not quite right looks like two others together: a pair is shared out too.
    odds = {}
    for cause in members:
        beside = math.exp(min(_MOST_SEEN, max(-_MOST_SEEN, seen.get(cause.key, 0.0))))
        shape = max(cause.probability / whole / beside, _NEVER_BELOW)
        odds[cause.key] = shape**power * beside
    return {key: min(1.0, whole) * each / sum(odds.values()) for key, each in odds.items()}


def open_families(causes: Sequence[FoundCause], table: float) -> list[tuple[str, list[FoundCause]]]:
    """Return what families have in common and their members, where it is one of them and open which.

    Parameters
    ----------
    causes : sequence of FoundCause
        Most likely first; so are the members.
    table : float
        Probability that nothing but the table is wrong. Where hardly any is left and neither one cause nor one family
        is likely by itself, all that are possible are one family. [–]
    """
    found = []
    for common, keys in _FAMILIES:
        members = [cause for cause in causes if cause.key in keys]
        open_still = all(cause.probability < LIKELY for cause in members)
        if open_still and sum(cause.probability for cause in members) >= LIKELY:
            found.append((common, members))
    if not found and table <= _LEFT_TO_TABLE and all(c.probability < LIKELY for c in causes):
        members = [cause for cause in causes if cause.probability >= POSSIBLE]
        if members:
            found.append(("no usual error of a table explains", members))
    return found
