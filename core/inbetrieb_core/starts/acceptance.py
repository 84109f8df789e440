"""What counts as an acceptable start. The one definition, for verdict, gate, ladder and board.

The limits are common practice (no source); they are deliberately the installer's, not a
certification's.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING, get_args

from ..causes import Symptom
from ..charge.cold_fuel import WARM_C
from ..charge.idle_air import IDLE_BAND_RPM
from .outcomes import RAN, Verdict

if TYPE_CHECKING:
    from .model import StartFigures

FLARE_ABOVE_TARGET_RPM = 450.0
DIP_BELOW_TARGET_RPM = 250.0
SETTLED_BAND_RPM = IDLE_BAND_RPM
SETTLED_BAND_SHARE = 0.08
SETTLED_BY_S = 12.0
SETTLED_FOR_S = 3.0
FLARE_WITHIN_S = 4.0
LAMBDA_BAND = 0.05
MIXTURE_FROM_S = 25.0
#: So far is idle looked at, and up to here mixture: later ones are those of a warmer engine. [s]
JUDGED_UNTIL_S = 60.0

#: Where starts have to be good before a car is handed over (common practice). [°C]
CHECKS_C: tuple[float, ...] = (-10.0, 0.0, 10.0, 20.0, 40.0, 80.0)

#: It has to run within this share of the limit, so that it does not stand at the edge.
RUN_SHARE = 0.93
#: What must be left to each limit, so that a little more or less fuel or air does not cross it.
FLARE_MARGIN_RPM, DIP_MARGIN_RPM = 30.0, 20.0
_MARGIN = {
    "run": 1.0 - RUN_SHARE,
    "flare": FLARE_MARGIN_RPM,
    "dip": DIP_MARGIN_RPM,
    "idle": 10.0,
    "mixture": 0.005,
}
#: Departures of idle and mixture, flare and dip seen from the target, that leave their margin.
IDLE_GOOD_RPM = SETTLED_BAND_RPM - _MARGIN["idle"]
MIXTURE_GOOD = LAMBDA_BAND - _MARGIN["mixture"]
FLARE_GOOD_RPM = FLARE_ABOVE_TARGET_RPM - FLARE_MARGIN_RPM
DIP_GOOD_RPM = DIP_BELOW_TARGET_RPM - DIP_MARGIN_RPM

#: The causes know the points as what may go wrong in a start.
Point = Symptom
POINTS: tuple[Point, ...] = get_args(Point)

POINT_WORDS: dict[Point, str] = {
    "run": "the time until it runs",
    "stall": "whether it lives",
    "flare": "the flare",
    "dip": "the dip after it",
    "idle": "idle from 12 s on",
    "mixture": "the mixture from 25 s on",
}


@dataclass(frozen=True)
class Acceptance:
    """How a start stands against the limits.

    Attributes
    ----------
    failed : tuple of str
        Points of :data:`POINTS` outside their limit.
    at_edge : tuple of str
        Points inside it, but without margin.
    unseen : tuple of str
        Points the record does not tell.
    """

    failed: tuple[Point, ...] = ()
    at_edge: tuple[Point, ...] = ()
    unseen: tuple[Point, ...] = ()

    @property
    def accepted(self) -> bool:
        """Whether all was seen, and all is within its limit with a margin."""
        return not (self.failed or self.at_edge or self.unseen)

    @property
    def sentence(self) -> str:
        """What keeps the start from being accepted; empty where nothing does."""
        for points, begin in (
            (self.failed, "Not acceptable yet: "),
            (self.at_edge, "Acceptable, but without margin: "),
            (self.unseen, "Not proven, because not seen: "),
        ):
            if points:
                return f"{begin}{', '.join(POINT_WORDS[point] for point in points)}."
        return ""

    @property
    def asks_for_change(self) -> tuple[Point, ...]:
        """Points that a change has to put right: outside their limit, or without margin."""
        return (*self.failed, *self.at_edge)

    @property
    def nothing_against(self) -> bool:
        """Whether all that was seen is within its limit; something may be unseen."""
        return not self.failed


def run_within_s(coolant_c: float) -> float:
    """Return the longest acceptable cranking until the engine runs by itself.

    Parameters
    ----------
    coolant_c : float
        Coolant temperature. [°C]

    Returns
    -------
    float
        1.5, or 2.5 below −5 °C. [s]
    """
    return 2.5 if coolant_c < -5.0 else 1.5


def run_good_within_s(coolant_c: float) -> float:
    """Return the longest cranking that leaves a margin to the limit. [s]

    Parameters
    ----------
    coolant_c : float
        Coolant temperature. [°C]
    """
    return RUN_SHARE * run_within_s(coolant_c)


def settled_band_rpm(target_rpm: float) -> float:
    """Return half the width of the settled band: 80 rpm or 8 % of the target. [1/min]"""
    return max(SETTLED_BAND_RPM, SETTLED_BAND_SHARE * target_rpm)


def acceptance_of(verdict: Verdict, figures: StartFigures) -> Acceptance:
    """Return how a start stands against the limits.

    Parameters
    ----------
    verdict : Verdict
        What became of it.
    figures : StartFigures
        None is unknown and speaks neither for nor against it.
    """
    if verdict not in RAN:
        return Acceptance(failed=("run",))
    seen: dict[str, list[Point]] = {"failed": [], "at_edge": [], "unseen": []}
    for point, room in _rooms(verdict, figures):
        if room is None:
            seen["unseen"].append(point)
        elif room < 0.0:
            seen["failed"].append(point)
        elif room < _MARGIN.get(point, 0.0):
            seen["at_edge"].append(point)
    return Acceptance(**{key: tuple(points) for key, points in seen.items()})


def _rooms(verdict: Verdict, figures: StartFigures) -> Iterator[tuple[Point, float | None]]:
    """Yield the room left to each limit; negative outside, None where it was not seen."""
    f = figures
    limit = run_within_s(f.coolant_c)
    if verdict == "started on the pedal":
        yield "run", -1.0
    else:
        yield "run", None if f.run_after_s is None else 1.0 - f.run_after_s / limit
    yield "stall", -1.0 if verdict == "started and died" else 1.0
    target = f.target_rpm
    yield "flare", None if f.flare_rpm is None else target + FLARE_ABOVE_TARGET_RPM - f.flare_rpm
    yield "dip", None if f.dip_rpm is None else f.dip_rpm - target + DIP_BELOW_TARGET_RPM
    yield "idle", None if f.idle_off_rpm is None else SETTLED_BAND_RPM - abs(f.idle_off_rpm)
    yield "mixture", None if f.mixture_off is None else LAMBDA_BAND - abs(f.mixture_off)


__all__ = [
    "CHECKS_C",
    "DIP_BELOW_TARGET_RPM",
    "DIP_GOOD_RPM",
    "FLARE_ABOVE_TARGET_RPM",
    "FLARE_GOOD_RPM",
    "FLARE_WITHIN_S",
    "JUDGED_UNTIL_S",
    "IDLE_GOOD_RPM",
    "LAMBDA_BAND",
    "MIXTURE_GOOD",
    "MIXTURE_FROM_S",
    "POINTS",
    "POINT_WORDS",
    "RUN_SHARE",
    "SETTLED_BAND_RPM",
    "SETTLED_BAND_SHARE",
    "SETTLED_BY_S",
    "SETTLED_FOR_S",
    "WARM_C",
    "Acceptance",
    "Point",
    "acceptance_of",
    "run_good_within_s",
    "run_within_s",
    "settled_band_rpm",
]
