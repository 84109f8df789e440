"""The analysis of a trial: typed when it is read, plain JSON when it is kept."""

from __future__ import annotations

import functools
import json
from collections.abc import Iterator
from dataclasses import asdict, dataclass
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
