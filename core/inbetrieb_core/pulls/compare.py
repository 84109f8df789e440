"""A against B: the difference of two sets of pulls over speed, with its band, drift taken off, and what it would take to tell.

Each pull is a curve y = a(n) + δ(n)·[B] + drift·order + a level of its own + noise. The level of its own is what repeats
differ by as a whole: bands follow Student's t with as many degrees of freedom as pulls allow, however many bins there are.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from scipy.special import chdtri, stdtrit

from ..errors import field_refused
from ..quantities import FloatArray
from ..sentences import fixed
from .pull import STEP_RPM, PullRecord

#: Bands; chance of seeing a difference that is there. [–]
_BAND, _POWER = 0.90, 0.80
#: Drift is told apart from the change where order and change go together no more than so; with so many pulls. [–]
_APART, _LEAST_FOR_DRIFT = 0.6, 5
_MOST_MORE = 40
#: Air that warms by so much over a series, or differs so between A and B, is soak. [K]
_SOAK_K, _DIFFERS_K = 6.0, 4.0
#: A pull stands apart where that happens by chance in so few series; pulls differ by so much at least. [–, ln]
_CHANCE, _SAME = 0.02, 0.001
_LEAST_BINS = 5


@dataclass(frozen=True)
class Member:
    """A pull of a comparison: the pull, whether it is B, when it was driven, and its conditions.

    Attributes
    ----------
    pull : PullRecord
    is_b : bool
    order : float
        Place in the series. [–]
    conditions : mapping of str to str
        In words, for what differs.
    revision : int or None
        In the controller.
    factor : float
        Correction to the reference day. [–]
    """

    pull: PullRecord
    is_b: bool
    order: float
    conditions: Mapping[str, str]
    revision: int | None
    factor: float = 1.0


@dataclass(frozen=True)
class Difference:
    """B against A.

    Attributes
    ----------
    rpm : tuple of float
        [1/min]
    a, b : tuple of float
        Mean torque, drift taken off. [N·m, or relative]
    percent, low, high : tuple of float
        Difference at each speed, and its 90 % band. [%]
    mean_pct, mean_low, mean_high : float
        Over all speeds. [%]
    repeat_pct : float
        By how much pulls of one kind differ as a whole. (standard deviation) [%]
    drift_pct : float or None
        From one pull to the next; None where nobody can tell. [%]
    told : bool
        Whether the difference over all speeds is none of chance.
    detectable_pct : float
        That these pulls show with 80 % chance. [%]
    more : int or None
        Pulls of each kind beside these that would show the wanted difference; None beyond 40.
    wanted_pct : float
    sentences : tuple of str
        The difference first, then what stands against it.
    """

    rpm: tuple[float, ...]
    a: tuple[float, ...]
    b: tuple[float, ...]
    percent: tuple[float, ...]
    low: tuple[float, ...]
    high: tuple[float, ...]
    mean_pct: float
    mean_low: float
    mean_high: float
    repeat_pct: float
    drift_pct: float | None
    told: bool
    detectable_pct: float
    more: int | None
    wanted_pct: float
    sentences: tuple[str, ...]


def compare(
    members: Sequence[Member], *, wanted_pct: float = 1.0
) -> Difference:  # fmt: skip
    """Return what the torque of B does against that of A, each times the correction of its day.

    Parameters
    ----------
    members : sequence of Member
        At least two of A and two of B.
    wanted_pct : float
        Difference that somebody wants to be able to see. [%]

    Raises
    ------
    InputRefused
        If there are too few, or they share no speeds.
    """
    groups = np.array([m.is_b for m in members])
    if min((~groups).sum(), groups.sum()) < 2:
        raise field_refused(
            "members", "Two pulls of A and two of B at least: one against one says nothing."
        )
    if not 0.05 <= wanted_pct <= 50.0:
        raise field_refused("wanted_pct", "A difference of 0.05 to 50 % can be wanted.")
    kinds = {m.pull.torque for m in members}
    if len(kinds) > 1:
        raise field_refused(
            "members", "Measured torque is not compared with torque from the car's acceleration."
        )
    rpm, curves = _common(members)
    order = np.array([m.order for m in members], dtype=float)
    design, has_drift = _design(groups, order)
    logs = np.log(np.maximum(curves, 1e-6))
    # Over all speeds first: one figure for each pull.
    level = logs.mean(axis=1)
    free = len(members) - design.shape[1]
    inverse = np.linalg.inv(design.T @ design)
    at_level = inverse @ design.T @ level
    own = level - design @ at_level
    repeat = math.sqrt(float(own @ own) / free)
    quantile = float(stdtrit(free, 0.5 + _BAND / 2.0))
    mean_error = repeat * math.sqrt(float(inverse[1, 1]))
    at = inverse @ design.T @ logs
    rest = logs - design @ at
    # What a bin differs by beyond its pull's own level, of all bins together.
    inside = rest - own[:, None]
    scatter2 = float((inside**2).sum() / max(1, free * (len(rpm) - 1)))
    error = math.sqrt(repeat**2 + scatter2) * math.sqrt(float(inverse[1, 1]))
    delta = at[1]
    low, high = delta - quantile * error, delta + quantile * error
    base = np.exp(at[0])
    percent = _percent(at_level[1])
    ends = (
        _percent(at_level[1] - quantile * mean_error),
        _percent(at_level[1] + quantile * mean_error),
    )
    told = ends[0] > 0.0 or ends[1] < 0.0
    each = min(int(groups.sum()), int((~groups).sum()))
    shows = _reach(free) * mean_error
    detectable = 100.0 * shows
    more = 0 if shows <= wanted_pct / 100.0 else _more(repeat, each, wanted_pct / 100.0)
    drift = 100.0 * float(at_level[2]) if has_drift else None
    head = _headline(percent, ends, told, more, wanted_pct, detectable, rpm)
    return Difference(
        tuple(rpm.tolist()), _rounded(base), _rounded(base * np.exp(delta)), _rounded(100.0 * np.expm1(delta), 2),
        _rounded(100.0 * np.expm1(low), 2), _rounded(100.0 * np.expm1(high), 2), round(percent, 2), round(ends[0], 2),
        round(ends[1], 2), round(100.0 * repeat, 2), None if drift is None else round(drift, 2), told, round(detectable, 2),
        more, wanted_pct, (head, *_doubts(members, own, design, order, drift, has_drift)),
    )  # fmt: skip


def _percent(log: float) -> float:
    return 100.0 * math.expm1(log)


def _rounded(values: FloatArray, digits: int = 1) -> tuple[float, ...]:
    return tuple(round(float(v), digits) for v in values)


def _common(members: Sequence[Member]) -> tuple[FloatArray, FloatArray]:
    """Return the speeds that all pulls have, and their torque there, shape (pulls, speeds)."""
    low = max(m.pull.rpm[0] for m in members)
    high = min(m.pull.rpm[-1] for m in members)
    rpm = np.arange(low, high + 1.0, STEP_RPM)
    rows = []
    for m in members:
        values = m.pull.channel("torque_nm") * m.factor
        rows.append(np.interp(rpm, m.pull.speed, values, left=np.nan, right=np.nan))
    curves = np.array(rows).reshape(len(members), -1)
    usable = np.isfinite(curves).all(axis=0) & (curves > 0.0).all(axis=0)
    if usable.sum() < _LEAST_BINS:
        raise field_refused(
            "members", "These pulls share too few speeds with a reading in all of them."
        )
    return rpm[usable], curves[:, usable]


def _design(groups: np.ndarray, order: FloatArray) -> tuple[FloatArray, bool]:
    """Return level and change as columns, drift beside them where it can be told from the change."""
    base = np.column_stack([np.ones(len(groups)), groups.astype(float)])
    if len(groups) < _LEAST_FOR_DRIFT or np.ptp(order) == 0.0:
        return base, False
    together = abs(float(np.corrcoef(groups.astype(float), order)[0, 1]))
    if together > _APART:
        return base, False
    return np.column_stack([base, order - order.mean()]), True


def _reach(free: int) -> float:
    """Return how many standard errors a difference needs to be seen with the wanted chance. [–]"""
    # A repeat that few pulls estimate is as often too small as too large: its median is what is planned with.
    unsure = math.sqrt(free / float(chdtri(free, 0.5)))
    return unsure * float(stdtrit(free, 0.5 + _BAND / 2.0) + stdtrit(free, _POWER))


def _more(repeat: float, each: int, wanted: float) -> int | None:
    """Return how many more pulls of each kind, driven A B B A, would show a difference [–]; None beyond 40."""
    for more in range(1, _MOST_MORE + 1):
        planned = order_of(each + more)
        design, _ = _design(np.array([p == "B" for p in planned]), np.arange(1.0, len(planned) + 1))
        error = repeat * math.sqrt(float(np.linalg.inv(design.T @ design)[1, 1]))
        if _reach(len(planned) - design.shape[1]) * error <= wanted:
            return more
    return None


def _headline(
    percent: float, ends: tuple[float, float], told: bool, more: int | None, wanted: float, detectable: float, rpm: FloatArray
) -> str:  # fmt: skip
    span = f"{rpm[0]:.0f} to {rpm[-1]:.0f} rpm"
    if told:
        word = "more" if percent > 0.0 else "less"
        return f"B makes {abs(percent):.1f} % {word} than A over {span} (90 % band {fixed(ends[0], 1, signed=True)} to {fixed(ends[1], 1, signed=True)} %)."
    if more is None:
        tail = f"more than {_MOST_MORE} pulls of each would be needed for {wanted:g} %: let it cool, hold the gear, drive it the same way"
    elif more == 0:
        tail = f"it is smaller than {max(detectable, abs(ends[0]), abs(ends[1])):.1f} %, and {wanted:g} % would have been seen"
    else:
        tail = f"{more} more pull{'s' if more > 1 else ''} of each would tell {wanted:g} %"
    return f"Cannot be told: B against A is {fixed(percent, 1, signed=True)} % ({fixed(ends[0], 1, signed=True)} to {fixed(ends[1], 1, signed=True)} %); {tail}."


def _doubts(
    members: Sequence[Member], own: FloatArray, design: FloatArray, order: FloatArray, drift: float | None, has_drift: bool
) -> list[str]:  # fmt: skip
    told = []
    groups = np.array([m.is_b for m in members])
    if not has_drift:
        told.append("Drift cannot be told from the change in this order: drive A B B A.")
    elif drift is not None and abs(drift) > 0.3:
        told.append(
            f"Power drifts by {fixed(drift, 1, signed=True)} % from one pull to the next; it is taken off."
        )
    air = np.array(
        [
            np.nanmean(c) if np.isfinite(c := m.pull.channel("intake_c")).any() else np.nan
            for m in members
        ]
    )
    if np.isfinite(air).sum() > 2:
        rise = float(np.nanmax(air) - np.nanmin(air))
        apart = (
            float(np.nanmean(air[groups]) - np.nanmean(air[~groups]))
            if np.isfinite(air[groups]).any() and np.isfinite(air[~groups]).any()
            else 0.0
        )
        if abs(apart) > _DIFFERS_K:
            told.append(
                f"Heat soak: the intake air of B is {abs(apart):.0f} K {'warmer' if apart > 0 else 'colder'} than that of A, which alone moves torque by about {abs(apart) / 6:.0f} %."
            )
        elif rise > _SOAK_K:
            told.append(
                f"Heat soak: intake air moves by {rise:.0f} K over the series. Let it cool to the same temperature before each pull."
            )
    told += [f"They differ in {name}: {words}." for name, words in _differing(members)]
    revisions = {m.revision for m in members}
    if len(revisions) > 1:
        named = ", ".join(
            "unknown" if r is None else str(r) for r in sorted(revisions, key=lambda r: r or 0)
        )
        told.append(
            f"The calibration was changed within this series (revisions {named}): what B does is not told apart from that."
        )
    elif None not in revisions:
        told.append(
            f"The calibration was not changed: revision {members[0].revision} in all of them."
        )
    told += [
        f"Pull {order[i]:.0f} stands apart by {fixed(100 * own[i], 1, signed=True)} %: look at it, set it aside with a reason or drive it again."
        for i in _outliers(own, design)
    ]
    for m in members:
        told += [f"Pull {m.order:.0f}: {doubt}" for doubt in m.pull.doubts]
    return told


def _outliers(own: FloatArray, design: FloatArray) -> list[int]:
    """Return pulls whose level is no chance beside the others: externally studentised, all of them looked at."""
    count, free = len(own), len(own) - design.shape[1] - 1
    if free < 1:
        return []
    leverage = np.diag(design @ np.linalg.inv(design.T @ design) @ design.T)
    left = np.maximum(1.0 - leverage, 1e-9)
    without = np.maximum((own @ own - own**2 / left) / free, _SAME**2)
    away = np.abs(own) / np.sqrt(without * left)
    return np.flatnonzero(away > stdtrit(free, 1.0 - _CHANCE / (2.0 * count))).tolist()


def _differing(members: Sequence[Member]) -> list[tuple[str, str]]:
    names = dict.fromkeys(name for m in members for name in m.conditions)
    found = []
    for name in names:
        values = list(dict.fromkeys(m.conditions.get(name, "") for m in members))
        if len(values) > 1:
            found.append((name, " and ".join(v or "nothing written" for v in values[:4])))
    return found


def order_of(pulls_each: int) -> tuple[str, ...]:
    """Return the order in which to drive, so that whatever drifts hits both alike: A B B A, B A A B and so on.

    Parameters
    ----------
    pulls_each : int
        Of A and of B. [–]
    """
    letters: list[str] = []
    for block in range((pulls_each + 1) // 2):
        letters += ["A", "B", "B", "A"] if block % 2 == 0 else ["B", "A", "A", "B"]
    kept: list[str] = []
    for letter in letters:
        if kept.count(letter) < pulls_each:
            kept.append(letter)
    return tuple(kept)
