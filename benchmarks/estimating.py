"""The estimate of the start tables from a long history, against the estimate from its first starts."""

from __future__ import annotations

import statistics
from collections.abc import Callable

from inbetrieb_core.engine import EngineSpec, engine_of
from inbetrieb_core.estimate import Evidence, estimate
from inbetrieb_core.tables import Calibration
from inbetrieb_core.trainer import HANDS, play

from tests.core.seasons import drawn_scenario

from .timing import timed

Line = Callable[[str, str, str], None]
#: A build that a plain hand does not finish, and its mornings: three starts each.
_BUILD, _MORNINGS = 907, 21


def _history() -> tuple[EngineSpec, Calibration, list[list[Evidence]]]:
    """Return an engine, its tables at the end of a season, and what each start taught."""
    taught: list[list[Evidence]] = []
    last: list[Calibration] = []
    decide = HANDS["a plain hand"]

    def looking(analysis, calibration, history):  # type: ignore[no-untyped-def]
        taught.append([e.of_trial(len(taught) + 1) for e in analysis.taught])
        last[:] = [calibration]
        return decide(analysis, calibration, history)

    scenario = drawn_scenario(_BUILD, _MORNINGS)
    play(scenario, looking)
    return engine_of(scenario.engine), last[0], taught


def estimating(line: Line) -> None:
    """Print how long the estimate of a long and of a short history takes."""
    spec, calibration, taught = _history()
    took = {}
    for count in (3, len(taught)):
        evidence = [e for one in taught[:count] for e in one]
        took[count] = statistics.median(timed(lambda e=evidence: estimate(spec, calibration, e)))  # type: ignore[misc]
        line(
            f"estimate of {count} starts, {len(evidence)} pieces of evidence",
            f"{1000 * took[count]:.0f} ms",
            "under 300 for 60 is wanted",
        )
    line(
        f"  {len(taught)} starts ÷ 3 starts",
        f"{took[len(taught)] / took[3]:.1f}",
        "grows slower than their number",
    )
