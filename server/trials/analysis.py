"""The analysis of a trial: typed when it is read, plain JSON when it is kept."""

from __future__ import annotations

import functools
import json
from collections.abc import Iterator
from dataclasses import asdict, dataclass
from datetime import datetime
from typing import Any

from inbetrieb_core.starts import Advice, PastTry, StartAnalysis
from pydantic import TypeAdapter

from .models import Trial

#: Rows of earlier versions may lack a figure, and those of later ones may have more.
_ANALYSIS = TypeAdapter(StartAnalysis)


@dataclass(frozen=True)
class KeptAnalysis:
    """What was said of a trial when it was written.

    Attributes
    ----------
    said : StartAnalysis
    start_values : dict of str to float
        Start tables at its coolant temperature, as they were in the controller. [unit of each]
    """

    said: StartAnalysis
    start_values: dict[str, float]

    @property
    def advice(self) -> Advice | None:
        """The one advice it gave; None where it gave none."""
        return self.said.advice[0] if self.said.advice else None


def kept(analysis: StartAnalysis, past: PastTry) -> dict[str, Any]:
    """Return an analysis as it is kept; a cell change travels as `from` and `to`."""
    plain = asdict(analysis)
    for change in _cells(plain):
        change["from"], change["to"] = change.pop("before"), change.pop("after")
    return {**plain, "start_values": past.start_values}


def _cells(plain: dict[str, Any]) -> Iterator[dict[str, Any]]:
    """Yield every cell change of an analysis in its plain form."""
    for advice in plain["advice"]:
        yield from advice["changes"]
        for part in advice.get("measured", ()):
            yield from part["changes"]


@functools.lru_cache(maxsize=512)
def _read(text: str) -> KeptAnalysis:
    plain = json.loads(text)
    for change in _cells(plain):
        change["before"], change["after"] = change.pop("from"), change.pop("to")
    return KeptAnalysis(_ANALYSIS.validate_python(plain), plain["start_values"])


def analysis_of(trial: Trial) -> KeptAnalysis:
    """Return the analysis of a trial; rows never change, so it is kept once read."""
    return _read(json.dumps(trial.analysis))


def past_of(trial: Trial) -> PastTry:
    """Return a trial as later ones look back on it."""
    read = analysis_of(trial)
    return PastTry(
        read.said.figures,
        read.said.verdict,
        read.start_values,
        read.said.observed,
        taught=tuple(evidence.of_trial(trial.number) for evidence in read.said.taught),
        asked=read.said.asked,
        asked_to_measure=read.said.asks_to_measure,
    )


@dataclass(frozen=True)
class SaidInShort:
    """What a list says of a trial.

    Attributes
    ----------
    sentence : str
    table : str or None
        Which its first advice is about.
    index : tuple of int or None
        The cell of it that lies nearest to where the start was; empty where it has no cells, None
        where nothing was advised.
    """

    sentence: str
    table: str | None = None
    index: tuple[int, ...] | None = None


_short: dict[tuple[int, datetime], SaidInShort] = {}
#: So many trials are kept in short; they never change.
_MOST_SHORT = 20_000


def said_in_short(trial: Trial) -> SaidInShort:
    """Return what a list says of a trial; its analysis is read once in the life of the process."""
    key = trial.pk, trial.created_at
    found = _short.get(key)
    if found is None:
        analysis = trial.analysis
        found = SaidInShort(analysis["sentence"])
        if analysis["advice"]:
            first = analysis["advice"][0]
            near = min(
                (change for change in first["changes"] if change["at"]),
                key=lambda change: abs(change["at"][0] - trial.coolant_c),
                default={"index": ()},
            )
            found = SaidInShort(analysis["sentence"], first["table"], tuple(near["index"]))
        if len(_short) >= _MOST_SHORT:
            _short.clear()
        _short[key] = found
    return found
