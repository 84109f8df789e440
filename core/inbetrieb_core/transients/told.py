"""Everything that the steps of some logs tell of transients."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..charge import WARM_C
from .enrichment import Enrichment, propose_enrichment
from .film import Film, fit_film
from .overrun import SHORTEST_MS, Overrun, read_overrun
from .steps import Drive, ThrottleStep, throttle_steps

#: Cold steps are put together within so much. [K]
_TOGETHER_K = 20.0


@dataclass(frozen=True)
class Transients:
    """What logs tell.

    Attributes
    ----------
    steps : tuple of ThrottleStep
        Of all logs.
    film : Film
        Of the warm engine.
    cold : tuple of (float, Film)
        Of the engine at other temperatures. [°C]
    enrichment : Enrichment or None
    overrun : Overrun
        Of the log with most overruns.
    sentence : str
    """

    steps: tuple[ThrottleStep, ...]
    film: Film
    cold: tuple[tuple[float, Film], ...]
    enrichment: Enrichment | None
    overrun: Overrun
    sentence: str


def read_transients(drives: Sequence[Drive], shortest_ms: float = SHORTEST_MS) -> Transients:
    """Return what some drives tell.

    Parameters
    ----------
    drives : sequence of Drive
        At least one.
    shortest_ms : float
        Shortest net pulse at which the injectors are steady. [ms]
    """
    found = [(drive, throttle_steps(drive)) for drive in drives]
    proven = [(drive, [s for s in steps if s.verdict != "not_yet"]) for drive, steps in found]
    warm = [(drive, [s for s in steps if s.coolant_c >= WARM_C]) for drive, steps in proven]
    film = fit_film(warm)
    places = sorted({round(s.coolant_c / _TOGETHER_K) * _TOGETHER_K for _, steps in proven for s in steps if s.coolant_c < WARM_C})  # fmt: skip
    cold = tuple(
        (place, fit_film([(d, [s for s in steps if s.coolant_c < WARM_C and abs(s.coolant_c - place) <= _TOGETHER_K / 2.0]) for d, steps in proven]))
        for place in places
    )  # fmt: skip
    steps = tuple(step for _, some in found for step in some)
    overrun = max((read_overrun(drive, shortest_ms) for drive in drives), key=lambda o: o.overruns)
    return Transients(
        steps, film, cold, propose_enrichment(film, warm, cold), overrun, _sentence(steps, film)
    )


def _sentence(steps: Sequence[ThrottleStep], film: Film) -> str:
    if not steps:
        return "No step of the pedal can be read: hold a speed, open quickly, and hold again for four seconds."
    waiting = sum(s.verdict == "not_yet" for s in steps)
    if waiting > 0.5 * len(steps):
        return f"{waiting} of {len(steps)} steps begin or end in cells that miss their target: the map first, it is no transient."
    lean = [s for s in steps if s.verdict == "lean"]
    rich = [s for s in steps if s.verdict == "rich"]
    if not lean and not rich:
        return f"{len(steps) - waiting} steps are answered: no spike beyond 4 %."
    worst = max((*lean, *rich), key=lambda s: abs(s.spike_pct))
    word = "lean" if worst.spike_pct > 0.0 else "rich"
    return (
        f"{len(lean)} of {len(steps)} steps go lean and {len(rich)} rich. The worst is {abs(worst.spike_pct):.0f} % {word} for "
        f"{worst.lasts_s:.1f} s, from {worst.from_pct:.0f} to {worst.to_pct:.0f} % at {worst.rpm:.0f} rpm. {film.sentence}"
    )
