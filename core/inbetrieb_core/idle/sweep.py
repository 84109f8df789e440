"""The valve sweep: between which openings an idle valve really works, and how.

Speed over opening is flat where the valve is shut, rises, and is flat again where it is wide open or
something else throttles. The knees are its real limits. Each is fitted by itself, because the rise
between them is bent: the flat level, and a cubic that begins at the knee (segmented regression: Hinkley,
1971, from memory). The width is that of the profile of the sum of squares.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from scipy.special import fdtri

from ..errors import LogRefused
from ..quantities import FloatArray
from .plateaus import Plateau, plateaus_of

#: A sweep has to move speed by this, and has to have so many steps. [1/min, –]
_LEAST_SPAN_RPM, _LEAST_STEPS = 120.0, 7
#: A step has to last so long, and may still drift by this share of the span. [s, –]
_LEAST_STEP_S, _DRIFTS = 2.0, 0.03
#: A limit that is known no better than this is not told; both ends of what is tried. [%, %]
WANTED_PCT = 4.0
_TRIED_BEYOND_PCT = 3.0
#: How much of the rise beside a knee is fitted, as a share of the whole range. [–]
_BESIDE = 0.5
#: At the knee speed rises at least by this share of what it does on the average beside it. [–]
_LEAST_BEGINNING = 0.38
#: Between two openings nobody looked: a knee is known no better than this share of a step. [–]
_BETWEEN_STEPS = 0.2
#: Up and down further apart than this, the valve sticks (common practice, no source). [%]
STICKS_PCT = 4.0
#: A flat end is one where speed moves by less than this share of the span. [–]
_FLAT_SHARE = 0.03
#: So many times as steep as elsewhere is a leap.
_LEAPS = 3.5
#: Speed may vary by this share of the span without spoiling a sweep. [–]
_SCATTERS = 0.12
#: What reading of a steady speed leaves unsure. [1/min]
_READING_RPM = 3.0
_WARM_C, _MOVED_THROTTLE_PCT, _MOVED_SPARK_DEG = 70.0, 1.5, 6.0


@dataclass(frozen=True)
class Sweep:
    """What a sweep says.

    Attributes
    ----------
    told : bool
        Whether limits could be told at all.
    minimum_pct, maximum_pct : float or None
        Openings between which speed follows; None where that end was not reached. [%]
    minimum_error_pct, maximum_error_pct : float or None
        Half of the 90 % width. [%]
    gain_rpm_per_pct, gain_error : float or None
        Mean slope between the limits; below zero where inverted. [1/min per %]
    hysteresis_pct, hysteresis_error_pct : float or None
        By how much the opening differs for the same speed, up against down; None where the sweep went
        one way only. [%]
    inverted : bool or None
        Whether speed falls while the opening rises.
    steps : tuple of Plateau
    sentences : tuple of str
        The first says the result.
    """

    told: bool
    minimum_pct: float | None
    maximum_pct: float | None
    minimum_error_pct: float | None
    maximum_error_pct: float | None
    gain_rpm_per_pct: float | None
    gain_error: float | None
    hysteresis_pct: float | None
    hysteresis_error_pct: float | None
    inverted: bool | None
    steps: tuple[Plateau, ...]
    sentences: tuple[str, ...]

    @property
    def tells_limits(self) -> bool:
        """Whether there is a limit to take."""
        return self.told and (self.minimum_pct is not None or self.maximum_pct is not None)


@dataclass(frozen=True)
class _Knee:
    place_pct: float
    error_pct: float

    def told(self) -> tuple[float, float]:
        """Return place and width as they are told. [%, %]"""
        return round(self.place_pct, 1), round(self.error_pct, 1)


def fit_sweep(channels: Mapping[str, FloatArray]) -> Sweep:
    """Return what a sweep of the idle valve on a warm engine says.

    Parameters
    ----------
    channels : mapping of str to ndarray
        time_s, rpm and idle_valve_pct; throttle, coolant and spark where logged, to see what spoils it.

    Raises
    ------
    LogRefused
        If a channel that it needs is missing.
    """
    missing = [k for k in ("time_s", "rpm", "idle_valve_pct") if k not in channels]
    if missing:
        raise LogRefused(f"A sweep needs speed and idle valve; missing: {', '.join(missing)}.")
    steps = plateaus_of(channels)
    used = _settled(tuple(s for s in steps if not s.stalled))
    doubt = _doubt(steps, used, channels)
    if doubt:
        return _untold(steps, doubt)
    duty = np.array([s.duty_pct for s in used])
    rpm = np.array([s.rpm for s in used])
    rises = float(np.corrcoef(duty, rpm)[0, 1]) > 0.0
    hysteresis = _hysteresis(used, rises)
    shift = 0.0 if hysteresis is None else 0.5 * hysteresis[0]
    place = duty - shift * np.array([s.direction for s in used])
    span = float(np.ptp(rpm))
    signed = rpm if rises else -rpm
    minimum, turned = _knee(place, signed, span), _knee(-place, -signed, span)
    maximum = None if turned is None else _Knee(-turned.place_pct, turned.error_pct)
    badly = [k for k in (minimum, maximum) if k is not None and k.error_pct > WANTED_PCT]
    if badly:
        return _untold(
            steps,
            f"The knee is known to ±{badly[0].error_pct:.0f} % only: take smaller steps, let each settle, "
            "and go through the range both ways.",
        )
    lower = minimum.place_pct if minimum else float(place.min())
    upper = maximum.place_pct if maximum else float(place.max())
    gain, gain_error = _gain(place, rpm, lower, upper)
    sentences = [
        _result(minimum, maximum, rises, gain),
        *_stalls(steps),
        *_remarks(used, hysteresis, minimum, maximum, channels),
    ]
    low, low_error = (None, None) if minimum is None else minimum.told()
    high, high_error = (None, None) if maximum is None else maximum.told()
    sticks, sticks_error = (None, None) if hysteresis is None else hysteresis
    return Sweep(
        True, low, high, low_error, high_error, round(gain, 2), round(gain_error, 2), sticks, sticks_error,
        not rises, steps, tuple(sentences),
    )  # fmt: skip


def _settled(used: tuple[Plateau, ...]) -> tuple[Plateau, ...]:
    """Return the steps without the few at which speed had not settled; all of them where many had not."""
    if len(used) < _LEAST_STEPS:
        return used
    most = max(_DRIFTS * float(np.ptp([s.rpm for s in used])), 25.0)
    calm = tuple(s for s in used if abs(s.drift_rpm) <= most)
    return calm if len(calm) > 2 * len(used) // 3 else used


def _doubt(
    steps: Sequence[Plateau], used: Sequence[Plateau], channels: Mapping[str, FloatArray]
) -> str:
    """Return why nothing can be told, empty where it can."""
    if not steps and float(np.nanmax(channels["rpm"])) < 300.0:
        return "The engine does not run in this log."
    if any(s.stalled for s in steps) and len(used) < _LEAST_STEPS:
        return "It stalled in the sweep. Begin at the opening at which it idles, and go up first."
    if len({round(s.duty_pct, 1) for s in used}) < _LEAST_STEPS:
        return (
            f"Only {len({round(s.duty_pct, 1) for s in used})} openings are in it; take at least "
            f"{_LEAST_STEPS}, in steps of about 5 % over the whole range."
        )
    speeds = np.array([s.rpm for s in used])
    span = float(np.ptp(speeds))
    if span < _LEAST_SPAN_RPM:
        return (
            f"Speed moves by {span:.0f} rpm only over the whole sweep: the valve does not reach the air. Look "
            "whether it clicks, whether its hose is open, whether the drive frequency suits it, and whether "
            "the idle loop was switched off."
        )
    short = [s for s in used if s.length_s < _LEAST_STEP_S]
    drifting = [s for s in used if abs(s.drift_rpm) > max(_DRIFTS * span, 25.0)]
    if len(short) > len(used) // 3 or len(drifting) > len(used) // 3:
        usual = float(np.median([s.length_s for s in used]))
        return (
            f"The steps are too short to settle ({usual:.1f} s each, speed still moving): wait about 5 s on "
            "each."
        )
    scatter = float(np.median([s.scatter_rpm for s in used]))
    if scatter > _SCATTERS * span:
        return f"Speed varies by ±{scatter:.0f} rpm on each step: it hunts or misfires. Mend that before the sweep."
    throttle = channels.get("throttle_pct")
    if throttle is not None and float(np.ptp(_central(throttle))) > _MOVED_THROTTLE_PCT:
        return "The throttle moved during the sweep: it has to stay shut."
    jump = _jump(used)
    if jump is not None:
        return (
            f"Speed jumps between {jump[0]:.0f} and {jump[1]:.0f} %: more than the valve changes there, such as the "
            "spark as it leaves the idle region. Hold the spark, switch the mixture loop off, and sweep again."
        )
    if _by_order_of_time(used) > 0.5 * span:
        return "Speed changed as much with time as with the valve: warm the engine up first."
    return ""


def _central(values: FloatArray) -> FloatArray:
    known = values[np.isfinite(values)]
    return known if known.size < 20 else np.asarray(np.quantile(known, (0.02, 0.98)))


def _jump(used: Sequence[Plateau]) -> tuple[float, float] | None:
    """Return between which openings speed leaps inside its rise, None where it rises evenly. [%, %]"""
    for direction in (1, -1):
        way = sorted((s.duty_pct, s.rpm) for s in used if s.direction == direction)
        duty, rpm = np.array(way).T if len(way) > 1 else (np.empty(0), np.empty(0))
        apart = np.diff(duty)
        if len(apart) < _LEAST_STEPS or (apart <= 0.0).any():
            continue
        slopes = np.abs(np.diff(rpm)) / apart
        rising = np.flatnonzero(slopes > _FLAT_SHARE * float(np.ptp(rpm)) / apart)
        # Where it begins and ends to rise, a valve may be as steep as it likes.
        inner = rising[1:-1]
        if not len(inner):
            continue
        steepest = int(inner[np.argmax(slopes[inner])])
        if slopes[steepest] > _LEAPS * float(np.median(slopes[rising])):
            return float(duty[steepest]), float(duty[steepest + 1])
    return None


def _by_order_of_time(used: Sequence[Plateau]) -> float:
    """Return by how much speed at one opening differs between visits that came from the same side. [1/min]"""
    by_place: dict[tuple[float, int], list[float]] = {}
    for s in used:
        by_place.setdefault((round(s.duty_pct, 0), s.direction), []).append(s.rpm)
    apart = [max(group) - min(group) for group in by_place.values() if len(group) > 1]
    return max(apart, default=0.0)


def _hysteresis(used: Sequence[Plateau], rises: bool) -> tuple[float, float] | None:
    """Return the opening up minus the opening down for the same speed, with its error. [%]"""
    up = sorted((s.rpm, s.duty_pct) for s in used if s.direction > 0)
    down = sorted((s.rpm, s.duty_pct) for s in used if s.direction < 0)
    if len(up) < 4 or len(down) < 4:
        return None
    low = max(up[0][0], down[0][0])
    high = min(up[-1][0], down[-1][0])
    # Only the rise tells: on the flat ends speed says nothing of the opening.
    inner = np.linspace(low + 0.15 * (high - low), high - 0.15 * (high - low), 15)
    rising, falling = np.array(up).T, np.array(down).T
    apart = np.interp(inner, *rising) - np.interp(inner, *falling)
    value = float(np.median(apart))
    error = 1.645 * float(np.std(apart)) / np.sqrt(min(len(up), len(down), 8))
    return round(max(0.0, value), 1), round(max(error, 0.2), 1)


def _knee(place: FloatArray, rpm: FloatArray, span: float) -> _Knee | None:
    """Return where a flat beginning ends, None where there is no flat beginning."""
    order = np.argsort(place)
    place, rpm = place[order], rpm[order]
    whole = float(np.ptp(place))
    flat = np.abs(rpm - float(np.median(rpm[: max(3, place.size // 8)]))) < _FLAT_SHARE * span
    # One odd reading is no rise.
    rises = ~flat & np.append(~flat[1:], True)
    first_rise = int(np.argmax(rises)) if rises.any() else place.size
    if len(np.unique(np.round(place[:first_rise][flat[:first_rise]], 1))) < 2:
        return None
    beside = place <= place[first_rise - 1] + _BESIDE * whole
    x, y = place[beside], rpm[beside]
    tried = np.arange(place[0] - _TRIED_BEYOND_PCT, x[-1] - 0.1 * whole, 0.1)
    tried = tried[(tried >= place[0]) & (tried <= place[min(first_rise + 2, place.size - 1)])]
    if not tried.size:
        return None
    cost = np.array([_cost(x, y, a) for a in tried])
    best = int(np.argmin(cost))
    free = max(1, x.size - 5)
    noise = max(float(cost[best]) / free, _READING_RPM**2)
    within = cost <= cost[best] + noise * float(fdtri(1, free, 0.9))
    width = 0.5 * float(tried[within].max() - tried[within].min())
    apart = np.diff(np.unique(np.round(x, 1)))
    return _Knee(float(tried[best]), max(width, 0.25, _BETWEEN_STEPS * float(np.median(apart))))


def _cost(x: FloatArray, y: FloatArray, knee: float) -> float:
    """Return the sum of squares of a level and a cubic that begins at a knee and rises there."""
    beyond = np.maximum(x - knee, 0.0)
    # A valve that begins to open passes air at once: a rise that begins level is noise before the knee.
    least = _LEAST_BEGINNING * float(y.max() - y.min()) / max(float(beyond.max()), 1e-9)
    design = np.column_stack([np.ones_like(x), beyond**2, beyond**3, beyond])
    scale = np.maximum(np.abs(design).max(axis=0), 1e-9)
    fitted, *_ = np.linalg.lstsq(design / scale, y, rcond=None)
    if fitted[3] / scale[3] < least:
        y = y - least * beyond
        design, scale = design[:, :3], scale[:3]
        fitted, *_ = np.linalg.lstsq(design / scale, y, rcond=None)
    return float(((y - design / scale @ fitted) ** 2).sum())


def _gain(place: FloatArray, rpm: FloatArray, lower: float, upper: float) -> tuple[float, float]:
    inside = (place >= lower) & (place <= upper)
    if inside.sum() < 3:
        inside = np.ones(place.size, dtype=bool)
    x, y = place[inside], rpm[inside]
    slope, offset = np.polyfit(x, y, 1)
    rest = y - slope * x - offset
    spread = max(float(((x - x.mean()) ** 2).sum()), 1e-9)
    error = float(np.sqrt((rest**2).sum() / max(1, x.size - 2) / spread))
    return float(slope), 1.645 * error


def _result(minimum: _Knee | None, maximum: _Knee | None, rises: bool, gain: float) -> str:
    low = f"from {minimum.place_pct:.0f} %" if minimum else "from below the lowest opening tried"
    high = f"to {maximum.place_pct:.0f} %" if maximum else "to above the highest opening tried"
    way = "" if rises else " Speed falls while the opening rises: the valve is inverted."
    return f"The valve works {low} {high}, {abs(gain):.0f} rpm for each per cent between.{way}"


def _stalls(steps: Sequence[Plateau]) -> list[str]:
    first = next((s for s in steps if s.stalled), None)
    if first is None:
        return []
    return [f"It stalled at {first.duty_pct:.0f} %: the steps on which it stood are not used."]


def _remarks(
    used: Sequence[Plateau],
    hysteresis: tuple[float, float] | None,
    minimum: _Knee | None,
    maximum: _Knee | None,
    channels: Mapping[str, FloatArray],
) -> list[str]:
    said = []
    if hysteresis is None:
        said.append("It went one way only: hysteresis is not told. Go back the other way as well.")
    elif hysteresis[0] > STICKS_PCT:
        said.append(
            f"Hysteresis is {hysteresis[0]:.1f} %: the valve sticks. Clean it, look at its spring, and try "
            "another drive frequency before any loop is made to fight it."
        )
    if minimum is None:
        said.append("Its lower end was not reached: go lower, as far as the engine stays alive.")
    if maximum is None:
        said.append("Its upper end was not reached: go up until speed no longer follows.")
    coolant = channels.get("coolant_c")
    if coolant is not None and float(np.nanmin(coolant)) < _WARM_C:
        said.append("The engine was not warm all the time: do it again warm.")
    spark = channels.get("spark_deg")
    if spark is not None and float(np.nanstd(spark)) > _MOVED_SPARK_DEG:
        said.append(
            "The spark moved with speed: hold it for a sweep, or the gain is told too small or too large."
        )
    return said


def _untold(steps: Sequence[Plateau], why: str) -> Sweep:
    nothing = (None,) * 9
    return Sweep(False, *nothing, tuple(steps), (f"The limits are not told. {why}",))
