"""Which causes the logs cannot tell from the leading one, and the test that does.

A start that died within a second says that something was wrong with fuel or air, and hardly what:
then the tables come first because they are wrong most often on a new build, not because the log
says so. What could have done the same, and is not spoken against, is named with its test.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Protocol

from .catalogue import CAUSES, TABLES

#: Evidence against a cause beyond this is not nothing any more. [–]
_SPOKEN_AGAINST = -1.2
#: Others of the leading family count from this share of the leading one's probability. [–]
_SHARE_OF_FIRST = 0.1


class Candidate(Protocol):
    """What is looked at of a ranked candidate."""

    @property
    def key(self) -> str: ...
    @property
    def family(self) -> str: ...
    @property
    def probability(self) -> float: ...


def alike(
    leading: str, ranked: Sequence[Candidate], spoken: Mapping[str, float], wrong: Iterable[str]
) -> tuple[str, ...]:
    """Return the keys of the causes that the logs do not tell from the leading one, the likeliest first.

    Parameters
    ----------
    leading : str
        Key of the leading candidate.
    ranked : sequence of Candidate
        The most probable first.
    spoken : mapping of str to float
        What all logs together say for each cause. [ln]
    wrong : iterable of str
        In which points the start in question was wrong, see :data:`.catalogue.Symptom`.
    """
    if leading == TABLES:
        symptoms = frozenset(wrong)
        return tuple(
            entry.key
            for entry in ranked
            if entry.key != TABLES
            and symptoms & set(CAUSES[entry.key].explains)
            and spoken.get(entry.key, 0.0) > _SPOKEN_AGAINST
        )
    first = next(entry for entry in ranked if entry.key == leading)
    return tuple(
        entry.key
        for entry in ranked
        if entry.family == first.family
        and entry.key != leading
        and entry.probability > _SHARE_OF_FIRST * first.probability
    )


def deciding_test(
    leading: str, likewise: Sequence[str], ranked: Sequence[Candidate], *, lives: bool
) -> str:
    """Return the test that tells the leading candidate from the next; empty where none is next.

    Between two causes it is the cheaper one's; where the tables lead, that of the likeliest cause which
    the logs do not tell from them: tables have none of their own.

    Parameters
    ----------
    leading : str
        Key of the leading candidate.
    likewise : sequence of str
        See :func:`alike`.
    ranked : sequence of Candidate
        The most probable first.
    lives : bool
        Whether the engine stays alive for a test that needs it to run.
    """
    if leading == TABLES:
        asked = likewise[:1]
    else:
        second = next((entry.key for entry in ranked if entry.key != leading), TABLES)
        asked = tuple(key for key in (leading, second) if key != TABLES) if len(ranked) > 1 else ()
    known = [CAUSES[key] for key in asked]
    if not known:
        return ""
    cheapest = min(known, key=lambda cause: cause.effort_min)
    return cheapest.test if lives or not cheapest.at_rest else cheapest.at_rest
