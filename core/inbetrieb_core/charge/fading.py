"""How a controller runs its start fuel down: after-start over seconds or cycles, cranking over turns.

The tables of a job are kept in seconds and as the first pulse of cranking; what a controller makes of
them is its own. A cycle law fades the faster the higher an engine flares: then the clock is counted in
turns and told in seconds at the idle target. Common practice of the trade with no published source.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..quantities import FloatArray

FadeLaw = Literal["linear_time", "linear_cycles", "exponential_time"]

FADE_LAWS: dict[FadeLaw, str] = {
    "linear_time": "in a straight line over seconds",
    "linear_cycles": "in a straight line over engine cycles",
    "exponential_time": "exponentially over seconds",
}
#: An exponential has faded when this share of it is left. [–]
_FADED_SHARE = 0.05
#: Turns until a healthy engine fires; a need for cranking fuel is told by what is given till then. [–]
_TURNS_TO_FIRE = 4.0


@dataclass(frozen=True)
class StartFading:
    """How a controller fades its start fuel.

    Attributes
    ----------
    law : {"linear_time", "linear_cycles", "exponential_time"}
        Of the after-start enrichment.
    cranking_half_turns : float or None
        Turns of cranking after which a cranking pulse has fallen to half; None where it stays. [–]
    """

    law: FadeLaw = "linear_time"
    cranking_half_turns: float | None = None

    def clock_s(
        self, time_s: FloatArray, rpm: FloatArray, run_s: float, target_rpm: float
    ) -> FloatArray:
        """Return how far the fading has come at each sample, as seconds since it ran. [s]

        Parameters
        ----------
        time_s, rpm : ndarray, shape (n,)
            [s, 1/min]
        run_s : float
            When it ran. [s]
        target_rpm : float
            Idle target at the coolant of the start. [1/min]
        """
        since = np.maximum(time_s - run_s, 0.0)
        if self.law != "linear_cycles":
            return since
        turning = np.where(np.isfinite(rpm), np.maximum(rpm, 0.0), target_rpm)
        steps = np.diff(since, prepend=0.0) * turning / target_rpm
        return np.asarray(np.cumsum(steps))

    def left(self, clock_s: FloatArray, fade_s: FloatArray | float) -> FloatArray:
        """Return the share of the after-start enrichment that is left, broadcast. [–]

        Parameters
        ----------
        clock_s : ndarray
            See :meth:`clock_s`. [s]
        fade_s : ndarray or float
            Value of the table; where it is zero nothing is left. [s]
        """
        gone = np.maximum(clock_s, 1e-6) / np.maximum(fade_s, 1e-9)
        if self.law == "exponential_time":
            return np.asarray(_FADED_SHARE**gone)
        return np.asarray(np.maximum(0.0, 1.0 - gone))

    def lasts_s(
        self, time_s: FloatArray, rpm: FloatArray, run_s: float, target_rpm: float, fade_s: float
    ) -> float:
        """Return how long it takes until the enrichment has faded, by the speed that there was. [s]

        Parameters
        ----------
        time_s, rpm, run_s, target_rpm
            As for :meth:`clock_s`.
        fade_s : float
            Value of the table. [s]
        """
        clock = self.clock_s(time_s, rpm, run_s, target_rpm)
        if not clock.size or clock[-1] <= fade_s:
            return fade_s  # it ended before: as if it had gone on at its target
        return max(float(np.interp(fade_s, clock, time_s)) - run_s, 0.0)

    def left_after(self, after_s: float, turns: float, target_rpm: float, fade_s: float) -> float:
        """Return the share of the after-start enrichment that a controller still gives. [–]

        Parameters
        ----------
        after_s, turns : float
            Since it ran. [s, –]
        target_rpm : float
            Idle target at the coolant of the start. [1/min]
        fade_s : float
            Value of the table. [s]
        """
        if fade_s <= 0.0:
            return 0.0
        clock = 60.0 * turns / target_rpm if self.law == "linear_cycles" else after_s
        if self.law == "exponential_time":
            return float(_FADED_SHARE ** (clock / fade_s))
        return max(0.0, 1.0 - clock / fade_s)

    def cranking_now(self, turns: float) -> float:
        """Return a cranking pulse after so many turns ÷ the first. [–]

        Parameters
        ----------
        turns : float
            Of the crankshaft. [–]
        """
        half = self.cranking_half_turns
        return 1.0 if half is None else float(0.5 ** (turns / half))

    def cranking_share(self, turns: float) -> float:
        """Return the mean cranking pulse over so many turns ÷ that until a healthy engine fires. [–]

        Parameters
        ----------
        turns : float
            Of the crankshaft. [–]
        """
        half = self.cranking_half_turns
        if half is None:
            return 1.0
        return _mean_share(max(turns, 0.1), half) / _mean_share(_TURNS_TO_FIRE, half)


#: The law of most controllers: after-start over seconds, cranking pulses as they are.
STRAIGHT = StartFading()


def _mean_share(turns: float, half: float) -> float:
    fallen = turns * math.log(2.0) / half
    return -math.expm1(-fallen) / fallen
