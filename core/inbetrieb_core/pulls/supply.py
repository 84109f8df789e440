"""Where the fuel ends: injector duty and missing pressure against power, and a pull that has to be the last."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..injectors import DUTY_LIMIT_PCT
from ..quantities import FloatArray, listed
from ..sentences import kilopascal
from .limits import Feed
from .pull import PullRecord

#: Pressure that falls by so much, or by so much within one pull while flow rises, is falling away. [kPa, kPa]
_FALLS_KPA, _RUNS_AWAY_KPA = 20.0, 12.0
_LEAST_BINS = 5


@dataclass(frozen=True)
class SupplyLine:
    """What pulls say of the supply.

    Attributes
    ----------
    flow, duty_pct, missing_kpa : tuple of float or None
        Fuel flow relative to the most that was seen [–], duty [%] and missing pressure [kPa], bin by bin of the strongest pull.
    rpm : tuple of float
        Of these bins. [1/min]
    most_duty_pct, most_missing_kpa : float or None
        [%, kPa]
    ends_at : float or None
        Fuel flow at which duty or pressure ends, against the most that was seen; 1.2 is 20 % more. [–]
    stop : bool
        Whether no pull may follow before the supply is mended.
    sentence : str
    """

    rpm: tuple[float, ...]
    flow: tuple[float | None, ...]
    duty_pct: tuple[float | None, ...]
    missing_kpa: tuple[float | None, ...]
    most_duty_pct: float | None
    most_missing_kpa: float | None
    ends_at: float | None
    stop: bool
    sentence: str


def supply_line(pulls: Sequence[PullRecord], feed: Feed) -> SupplyLine:
    """Return what pulls say of the fuel supply.

    Parameters
    ----------
    pulls : sequence of PullRecord
    feed : Feed
    """
    strongest = max(pulls, key=lambda p: (p.peak("power_kw") or (0.0, 0.0))[0], default=None)
    if strongest is None:
        return SupplyLine((), (), (), (), None, None, None, False, "No pull yet.")
    duty, missing = feed.duty_pct(strongest), feed.missing_kpa(strongest)
    flow = strongest.channel("pulse_ms") * strongest.speed
    flow = flow / np.nanmax(flow) if np.isfinite(flow).any() else flow
    most_duty, most_missing = _most(duty), _most(missing)
    falls, why = _falls_away(flow, missing)
    ends = _ends_at(flow, duty, missing)
    return SupplyLine(
        strongest.rpm, listed(flow, 3), listed(duty, 1), listed(missing, 1),
        None if most_duty is None else round(most_duty, 1), None if most_missing is None else round(most_missing, 1),
        None if ends is None else round(ends, 3), falls, _sentence(most_duty, most_missing, ends, falls, why),
    )  # fmt: skip


def _most(values: FloatArray) -> float | None:
    known = values[np.isfinite(values)]
    return float(np.quantile(known, 0.97)) if len(known) >= _LEAST_BINS else None


def _falls_away(flow: FloatArray, missing: FloatArray) -> tuple[bool, str]:
    known = np.isfinite(flow) & np.isfinite(missing)
    if known.sum() < _LEAST_BINS:
        return False, ""
    flow, missing = flow[known], missing[known]
    light = float(np.median(missing[flow <= np.quantile(flow, 0.3)]))
    heavy = float(np.median(missing[flow >= np.quantile(flow, 0.85)]))
    if heavy > _FALLS_KPA:
        return True, f"fuel pressure is {kilopascal(heavy)} below its target at most flow"
    if heavy - light > _RUNS_AWAY_KPA:
        return True, f"fuel pressure falls away by {kilopascal(heavy - light)} as flow rises"
    return False, ""


def _ends_at(flow: FloatArray, duty: FloatArray, missing: FloatArray) -> float | None:
    """Return the flow at which duty reaches its end, or pressure its limit, drawn on in a straight line."""
    ends = []
    known = np.isfinite(flow) & np.isfinite(duty)
    if known.sum() >= _LEAST_BINS:
        ends.append(DUTY_LIMIT_PCT / max(float(np.quantile(duty[known], 0.97)), 1.0))
    known = np.isfinite(flow) & np.isfinite(missing)
    if known.sum() >= _LEAST_BINS and np.ptp(flow[known]) > 0.15:
        # A pump's pressure falls with the square of what it delivers near its end.
        bend = float(np.polyfit(flow[known] ** 2, missing[known], 1)[0])
        at_most = float(np.median(missing[known][flow[known] >= np.quantile(flow[known], 0.85)]))
        if bend > 4.0 and at_most < _FALLS_KPA:
            ends.append(float(np.sqrt(1.0 + (_FALLS_KPA - at_most) / bend)))
    return min(ends) if ends else None


def _sentence(
    duty: float | None, missing: float | None, ends: float | None, falls: bool, why: str
) -> str:
    if falls:
        return f"STOP: {why}. However good its power, no pull follows before pump, filter, wire and regulator are looked at."
    if duty is None and missing is None:
        return (
            "Not told: neither pulse nor fuel pressure is logged. Log both before boost is raised."
        )
    known = [f"duty {duty:.0f} %"] if duty is not None else ["duty not logged"]
    known.append(
        f"pressure {kilopascal(missing)} below its target at most"
        if missing is not None
        else "fuel pressure not logged"
    )
    words = ", ".join(known)
    if ends is None:
        return f"{words[0].upper()}{words[1:]}."
    if ends <= 1.0:
        return f"The injectors are at their end: {words}. No more fuel is there."
    return f"{words[0].upper()}{words[1:]}: fuel for {100 * (ends - 1):.0f} % more power, then it ends."
