"""How the idle is entered, left and kept beside what was measured: mixture, loop, follower, fan. Common practice."""

from __future__ import annotations

from dataclasses import dataclass

from ..sentences import quantity
from .settings import StepResponse

#: Work of an engine over lambda: best here, and none at this distance (assumed, as of a middling engine). [–]
_BEST, _NONE_AT = 0.88, 0.62
_RICH, _LEAN = 0.94, 1.05
#: Pedal at rest, and so near the target, the loop is closed. [%, 1/min]
_REST_PCT, _NEAR_RPM = 1.5, 250.0
#: A follower holds so much speed above the target as the pedal is let go. [1/min]
_HELD_RPM = 300.0
#: Between on and off of a fan, and above the thermostat. [K, °C]
_LEAST_APART_K, _THERMOSTAT_C = 3.0, 80.0


@dataclass(frozen=True)
class Habit:
    """One setting of the idle with what it costs.

    Attributes
    ----------
    key, title, sentence : str
    """

    key: str
    title: str
    sentence: str


def mixture_cost(before: float, after: float) -> tuple[float, float]:
    """Return by what an idle's air and its fuel change as its mixture moves. [–, –]

    Parameters
    ----------
    before, after : float
        Lambda, 0.7 to 1.3. [–]

    Notes
    -----
    Work per gram of air is taken as a parabola around lambda 0.88 (assumed); the same work of less needs more air,
    and fuel goes with air over lambda.
    """
    first, then = (1.0 - ((lam - _BEST) / _NONE_AT) ** 2 for lam in (before, after))
    air = first / then
    return air, air * before / after


def habits(response: StepResponse | None, fan_on_c: float, fan_off_c: float) -> tuple[Habit, ...]:
    """Return how the idle is set beside what was measured.

    Parameters
    ----------
    response : StepResponse or None
        How speed follows the valve, where a sweep told it.
    fan_on_c, fan_off_c : float
        Where the fan starts and stops. [°C]
    """
    return (_mixture(), _loop(), _follower(response), _fan(fan_on_c, fan_off_c))


def _mixture() -> Habit:
    air, fuel = mixture_cost(_RICH, _LEAN)
    rich, lean = (quantity(lam, "lambda", 2) for lam in (_RICH, _LEAN))
    return Habit(
        "mixture", "Idle mixture",
        f"Two schools: {rich} is steady, and forgives in every transient; {lean} takes about {100 * (1.0 - fuel):.0f} % less fuel "
        f"for {100 * (air - 1.0):.0f} % more air, but it hunts sooner, and each load and each step of the pedal gets harder. "
        "Leaner still costs fuel again.",
    )  # fmt: skip


def _loop() -> Habit:
    return Habit(
        "loop", "When the loop is closed",
        f"Pedal below {_REST_PCT:g} %, speed less than {_NEAR_RPM:.0f} rpm above its target, the car at rest or rolling out of gear. "
        "Outside of that it keeps what it had: a loop that goes on with the pedal open winds itself up, and stalls the engine "
        "as the pedal is let go.",
    )  # fmt: skip


def _follower(response: StepResponse | None) -> Habit:
    if response is None:
        sentence = "Drive a valve sweep first: how much it has to hold follows from how speed follows the valve."
    else:
        more = _HELD_RPM / abs(response.gain_rpm_per_pct)
        fades = max(1.0, 3.0 * response.lag_s + response.delay_s)
        sentence = (
            f"As the pedal is let go, hold the valve about {more:.0f} % further open and let it fade in {fades:.1f} s: speed comes "
            f"down to {_HELD_RPM:.0f} rpm above its target, then settles. Less, and it dips; more, and it hangs."
        )
    return Habit("follower", "Coming off the pedal", sentence)


def _fan(on_c: float, off_c: float) -> Habit:
    wrong = []
    if on_c - off_c < _LEAST_APART_K:
        wrong.append(
            f"{quantity(on_c - off_c, 'K', 1)} apart are too little, it switches to and fro"
        )
    if off_c < _THERMOSTAT_C:
        wrong.append("it goes on below the thermostat and never stops on a warm day")
    start, stop = quantity(on_c, "°C", 0), quantity(off_c, "°C", 0)
    said = f"It starts at {start} and stops at {stop}" + (
        f": {', and '.join(wrong)}." if wrong else ", far enough apart."
    )
    return Habit(
        "fan", "Fan",
        f"{said} Give its output an idle compensation of its own, so that the valve opens as it starts: else the loop answers "
        "late, and the two beat against each other.",
    )  # fmt: skip
