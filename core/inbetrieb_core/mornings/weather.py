"""What the next mornings will be like: typed or pasted minima, else the climate of the months."""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from ..errors import field_refused
from ..sentences import celsius

#: How far a forecast minimum of tomorrow is off, what each day ahead adds, and what a morning differs
#: from the mean minimum of its month. Common practice, no source. [K, K per day, K]
_FORECAST_K, _PER_DAY_K, _CLIMATE_K = 1.2, 0.35, 4.5
#: So many lines of minima are read at most.
_MOST_DAYS = 60
_LINE = re.compile(r"^\s*(\d{4}-\d{2}-\d{2})[\s;,:]+([−-]?\d+(?:[.,]\d+)?)\s*(?:°?\s*[cC])?\s*$")
_COLDEST_C, _WARMEST_C = -60.0, 45.0


@dataclass(frozen=True)
class Morning:
    """A morning that may be used for a cold start.

    Attributes
    ----------
    day : str
        ISO date.
    minimum_c : float
        Expected. [°C]
    spread_k : float
        Standard deviation of that. [K]
    forecast : bool
        Whether it was typed for this day; else it is the month's climate.
    """

    day: str
    minimum_c: float
    spread_k: float = _CLIMATE_K
    forecast: bool = False


def read_minima(text: str) -> tuple[tuple[str, float], ...]:
    """Return (day, minimum [°C]) of pasted lines like ``2026-12-01 -4.5``.

    Parameters
    ----------
    text : str
        One day a line; empty lines are passed over. Minus may be a hyphen or a minus sign.

    Raises
    ------
    InputRefused
        If a line cannot be read, a day comes twice, or a temperature cannot be.
    """
    found: dict[str, float] = {}
    lines = [line for line in text.splitlines() if line.strip()]
    if len(lines) > _MOST_DAYS:
        raise field_refused("minima", f"More than {_MOST_DAYS} days are not read.")
    for line in lines:
        match = _LINE.match(line)
        if match is None:
            raise field_refused(
                "minima", f"“{line.strip()[:60]}” is not a day and a minimum, like 2026-12-01 -4.5."
            )
        day, number = match[1], float(match[2].replace(",", ".").replace("−", "-"))
        refuse_bad_day(day, number)
        if day in found:
            raise field_refused("minima", f"{day} comes twice.")
        found[day] = number
    return tuple(sorted(found.items()))


def typed_minima(text: str) -> tuple[float, ...]:
    """Return the minima of coming mornings, tomorrow's first, from numbers like ``-3, 1, 4``. [°C]

    Parameters
    ----------
    text : str
        Parted by commas or semicolons; decimals by a point.

    Raises
    ------
    InputRefused
        If one is no number or no minimum of a day.
    """
    found = []
    pieces = [piece.strip() for piece in re.split(r"[,;]", text) if piece.strip()]
    if len(pieces) > _MOST_DAYS:
        raise field_refused("mornings", f"More than {_MOST_DAYS} days are not read.")
    for piece in pieces:
        try:
            number = float(piece.replace("−", "-"))
        except ValueError:
            raise field_refused("mornings", f"“{piece[:40]}” is no temperature.") from None
        if not _COLDEST_C <= number <= _WARMEST_C:
            raise field_refused(
                "mornings",
                f"A minimum must lie between {celsius(_COLDEST_C)} and {celsius(_WARMEST_C)}.",
            )
        found.append(number)
    return tuple(found)


def refuse_bad_day(day: str, minimum_c: float) -> None:
    """Refuse what is no day, or no minimum of one. [°C]

    Raises
    ------
    InputRefused
        With what is wrong.
    """
    try:
        date.fromisoformat(day)
    except ValueError:
        raise field_refused("minima", f"{day} is not a day of the calendar.") from None
    if not (math.isfinite(minimum_c) and _COLDEST_C <= minimum_c <= _WARMEST_C):
        raise field_refused(
            "minima",
            f"The minimum of {day} must lie between {celsius(_COLDEST_C)} and {celsius(_WARMEST_C)}.",
        )


def days_ahead(
    today: date,
    minima: Sequence[tuple[str, float]],
    monthly_c: Sequence[float],
    count: int,
) -> tuple[Morning, ...]:
    """Return the coming mornings that something is known of, the next one first.

    Parameters
    ----------
    today : date
        The first morning is the next day's.
    minima : sequence of (str, float)
        Day and expected minimum. [°C]
    monthly_c : sequence of float
        Mean minimum of each month from January, or empty. [°C]
    count : int
        How many days are looked at.
    """
    typed = dict(minima)
    found = []
    for ahead in range(1, count + 1):
        day = today + timedelta(days=ahead)
        if (known := typed.get(day.isoformat())) is not None:
            spread = _FORECAST_K + _PER_DAY_K * (ahead - 1)
            found.append(Morning(day.isoformat(), known, min(spread, _CLIMATE_K), True))
        elif monthly_c:
            found.append(Morning(day.isoformat(), _between_months(day, monthly_c)))
    return tuple(found)


def _between_months(day: date, monthly_c: Sequence[float]) -> float:
    """Return the mean minimum of a day, blended between the middles of the months. [°C]"""
    middle = 15
    month, share = day.month - 1, (day.day - middle) / 30.5
    other = (month + (1 if share > 0 else -1)) % 12
    return (1.0 - abs(share)) * monthly_c[month] + abs(share) * monthly_c[other]
