"""The return test: does the throttle come back to the same place each time it is let go?"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..bounds import out_of_bounds
from ..errors import InputRefused, LogRefused, field_refused
from ..quantities import FloatArray

#: Spread of the shut throttle and of the idle that is good, and that still is no stop (common practice,
#: no source). [%, 1/min]
GOOD_PCT, _DOUBTFUL_PCT = 0.35, 1.0
GOOD_RPM, _DOUBTFUL_RPM = 50.0, 120.0
_FEWEST = 4
#: In a log: opened beyond this, shut for so long, read over the last of it. [%, s, s]
_OPENED_PCT, _SHUT_S, _READ_S = 6.0, 3.0, 1.5


@dataclass(frozen=True)
class Closing:
    """Where throttle and idle came to after one closing. [%, 1/min]"""

    throttle_pct: float | None
    rpm: float | None


@dataclass(frozen=True)
class ReturnTest:
    """What the closings say.

    Attributes
    ----------
    verdict : {"good", "attention", "stop", "untold"}
    throttle_spread_pct, rpm_spread : float or None
        Greatest minus least; None where it was not read. [%, 1/min]
    closings : tuple of Closing
    sentences : tuple of str
    """

    verdict: Literal["good", "attention", "stop", "untold"]
    throttle_spread_pct: float | None
    rpm_spread: float | None
    closings: tuple[Closing, ...]
    sentences: tuple[str, ...]


def judge_return(closings: Sequence[Closing]) -> ReturnTest:
    """Return whether the throttle comes back to the same place.

    Parameters
    ----------
    closings : sequence of Closing
        In order of time; four and more tell.

    Raises
    ------
    InputRefused
        If a figure cannot be.
    """
    _check(closings)
    throttle = [c.throttle_pct for c in closings if c.throttle_pct is not None]
    rpm = [c.rpm for c in closings if c.rpm is not None]
    if max(len(throttle), len(rpm)) < _FEWEST:
        return ReturnTest(
            "untold", _spread(throttle), _spread(rpm), tuple(closings),
            (f"{len(closings)} closings tell nothing yet: open and let go at least {_FEWEST} times.",),
        )  # fmt: skip
    throttle_spread = _spread(throttle) if len(throttle) >= _FEWEST else None
    rpm_spread = _spread(rpm) if len(rpm) >= _FEWEST else None
    sticks = throttle_spread is not None and throttle_spread > GOOD_PCT
    bad = throttle_spread is not None and throttle_spread > _DOUBTFUL_PCT
    wanders = rpm_spread is not None and rpm_spread > GOOD_RPM
    far = rpm_spread is not None and rpm_spread > _DOUBTFUL_RPM
    if not sticks and not wanders:
        return ReturnTest(
            "good", throttle_spread, rpm_spread, tuple(closings),
            (f"It comes back to the same place: {_words(throttle_spread, rpm_spread)}.",),
        )  # fmt: skip
    if sticks or throttle_spread is None:
        look = (
            "Look at the cable (slack, kinked, pulled by the engine moving), the return spring (a second one "
            "helps), the shaft's play, and dirt where the plate meets the bore."
        )
    else:
        look = (
            "The throttle itself comes back. Look at the idle valve (it sticks, or its loop has not settled), at "
            "loads that come and go, and at heat: wait as long after each closing."
        )
    verdict: Literal["attention", "stop"] = (
        "stop" if bad or (far and throttle_spread is None) else "attention"
    )
    return ReturnTest(
        verdict, throttle_spread, rpm_spread, tuple(closings),
        (f"It does not come back to the same place: {_words(throttle_spread, rpm_spread)}. {look}",),
    )  # fmt: skip


def closings_of(channels: Mapping[str, FloatArray]) -> tuple[Closing, ...]:
    """Return the closings that a log holds: opened, let go, shut long enough to settle.

    Parameters
    ----------
    channels : mapping of str to ndarray
        time_s, throttle_pct and rpm. [s, %, 1/min]

    Raises
    ------
    LogRefused
        If the throttle was not logged.
    """
    if "throttle_pct" not in channels or "time_s" not in channels:
        raise LogRefused("A return test needs the throttle in the log.")
    time, throttle = channels["time_s"], channels["throttle_pct"]
    rpm = channels.get("rpm")
    good = np.isfinite(time) & np.isfinite(throttle)
    time, throttle = time[good], throttle[good]
    rpm = None if rpm is None else rpm[good]
    if time.size < 10:
        return ()
    shut_level = float(np.quantile(throttle, 0.05))
    is_open = throttle > shut_level + _OPENED_PCT
    ends = np.flatnonzero(is_open[:-1] & ~is_open[1:]) + 1
    begins = np.flatnonzero(~is_open[:-1] & is_open[1:]) + 1
    found = []
    for end in ends:
        later = begins[begins > end]
        stop = int(later[0]) if later.size else time.size
        # Falling plates are not read: only the last of what stood still.
        while stop > end and throttle[stop - 1] > shut_level + 0.5 * _OPENED_PCT:
            stop -= 1
        if stop - end < 3 or time[stop - 1] - time[end] < _SHUT_S:
            continue
        settled = (time >= time[stop - 1] - _READ_S) & (np.arange(time.size) < stop)
        speed = None if rpm is None else float(np.nanmedian(rpm[settled]))
        if speed is not None and not speed > 200.0:
            speed = None
        found.append(Closing(float(np.median(throttle[settled])), speed))
    return tuple(found)


def _spread(values: Sequence[float]) -> float | None:
    return round(max(values) - min(values), 3) if len(values) > 1 else None


def _words(throttle: float | None, rpm: float | None) -> str:
    parts = []
    if throttle is not None:
        parts.append(f"throttle within {throttle:.1f} %")
    if rpm is not None:
        parts.append(f"idle within {rpm:.0f} rpm")
    return ", ".join(parts)


def _check(closings: Sequence[Closing]) -> None:
    if not closings:
        raise field_refused("closings", "At least one closing is needed.")
    problems = []
    for i, c in enumerate(closings):
        if c.throttle_pct is not None:
            problems.append(out_of_bounds(f"closings.{i}.throttle_pct", c.throttle_pct, -10.0, 110.0, "%", f"Closing {i + 1}: the throttle"))  # fmt: skip
        if c.rpm is not None:
            problems.append(out_of_bounds(f"closings.{i}.rpm", c.rpm, 200.0, 6000.0, "rpm", f"Closing {i + 1}: the speed"))  # fmt: skip
    found = [problem for problem in problems if problem is not None]
    if found:
        raise InputRefused(found)
