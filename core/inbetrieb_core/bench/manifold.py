"""The manifold of the simulated engine over one combustion event."""

from __future__ import annotations

from collections.abc import Callable

#: With the pedal this far open, an event that moves the manifold further than this is solved at its end, by so many
#: halvings; the least it holds. [%, kPa, –, kPa]
_WIDE_PCT, _STIFF_KPA, _HALVINGS, LEAST_KPA = 20.0, 2.0, 12, 8.0


def filled_kpa(
    before_kpa: float, moves_kpa: Callable[[float], float], *, ambient_kpa: float, pedal_pct: float
) -> float:
    """Return the pressure after an event.

    Parameters
    ----------
    before_kpa, ambient_kpa : float
        Before it, and outside; absolute. [kPa]
    moves_kpa : callable
        What an event adds at a pressure: what flows in, less what is drawn. [kPa → kPa]
    pedal_pct : float
        Pedal. What flows past a wide throttle depends on the pressure that the event ends at: a step from where it begins
        overshoots, and swings. [%]
    """
    ahead = before_kpa + moves_kpa(before_kpa)
    if pedal_pct >= _WIDE_PCT and abs(ahead - before_kpa) > _STIFF_KPA:
        low, high = min(LEAST_KPA, before_kpa), ambient_kpa
        for _ in range(_HALVINGS):
            middle = 0.5 * (low + high)
            low, high = (middle, high) if before_kpa + moves_kpa(middle) > middle else (low, middle)
        ahead = 0.5 * (low + high)
    return min(ambient_kpa, max(LEAST_KPA, ahead))
