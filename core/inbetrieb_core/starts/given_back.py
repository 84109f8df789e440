"""How long after-start enrichment should last, by what the walls give back after it.

Fuel beyond the need of the first seconds wets the walls and comes off them later: what is too rich then,
over time, was too much before. The first seconds were right, or the engine would have hung; so it is the
length. Common practice, no source.
"""

from __future__ import annotations

import numpy as np

from ..charge.fading import StartFading
from ..quantities import FloatArray

#: How well that tells the fade. [ln]
GIVEN_BACK_SPREAD = 0.15
#: A mixture richer by less than this is noise; from how much on it counts what came back, as it is and as
#: a share of what after-start gave; and the largest share. [ln, ln s, –, –]
_NOISE, _CAME_BACK, _SHARE, _MOST = 0.025, 0.4, 0.1, 0.6
#: How much was too much in all, seen from what came back: the rest burned at once, before the sensor
#: lived. [–]
_BURNED_TOO = 2.0
#: A fade shorter than this gives hardly anything. [s]
_SHORT_S = 5.0
#: Until when after-start enrichment is counted, and in which steps. [s]
_UNTIL_S, _STEP_S = 60.0, 0.5


def lasts_by_what_came_back(
    after_s: FloatArray, rest: FloatArray, amplitude: float, fading: StartFading, fade_s: float
) -> float | None:
    """Return how long after-start enrichment should have lasted, None where little came back. [s]

    Parameters
    ----------
    after_s : ndarray, shape (n,)
        When a mixture was read, evenly. [s]
    rest : ndarray, shape (n,)
        What was needed then above the warm need; negative where the walls gave fuel. [ln]
    amplitude : float
        After-start enrichment in force. [ln]
    fading : StartFading
        How the controller lets it fade.
    fade_s : float
        Its fade in force. [s]
    """
    if fade_s < _SHORT_S or after_s.size < 2:
        return None
    came_back = float(np.maximum(-rest - _NOISE, 0.0).sum() * np.median(np.diff(after_s)))
    left = fading.left(np.arange(0.0, _UNTIL_S, _STEP_S), fade_s)
    given = float(np.log1p(np.expm1(amplitude) * left).sum()) * _STEP_S
    if came_back < _CAME_BACK or came_back < _SHARE * given:
        return None
    return fade_s * (1.0 - min(_BURNED_TOO * came_back / given, _MOST))
