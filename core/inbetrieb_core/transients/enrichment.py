"""Acceleration enrichment from the film: what a pedal of a speed needs, how it fades, and what cold adds."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..provenance import Provenance
from ..tables import Axis, Calibration, Table
from .film import Film
from .steps import Drive, ThrottleStep

#: Speeds of the pedal that are proposed for. [%/s]
RATES_PCT_S = (10.0, 25.0, 50.0, 100.0, 200.0, 400.0, 800.0)
#: A table of the cold factor has these places. [°C]
_COLD_C = (-20.0, 0.0, 20.0, 40.0, 60.0, 80.0)
_MOST_PCT, _MOST_COLD_PCT = 150.0, 400.0


@dataclass(frozen=True)
class Enrichment:
    """What is proposed.

    Attributes
    ----------
    rates_pct_s, percent : tuple of float
        Speed of the pedal [%/s] and fuel added [%].
    fade_s : float
        In which it falls to nothing. [s]
    cold_c, cold_pct : tuple of float
        Coolant [°C] and factor [%]; empty where no cold steps tell it.
    sentence : str
    """

    rates_pct_s: tuple[float, ...]
    percent: tuple[float, ...]
    fade_s: float
    cold_c: tuple[float, ...]
    cold_pct: tuple[float, ...]
    sentence: str


def propose_enrichment(
    warm: Film, drives: Sequence[tuple[Drive, Sequence[ThrottleStep]]], cold: Sequence[tuple[float, Film]] = ()
) -> Enrichment | None:  # fmt: skip
    """Return the enrichment that balances the film; None where no film is told, or no step opened the pedal.

    Parameters
    ----------
    warm : Film
        Of the warm engine.
    drives : sequence of (Drive, sequence of ThrottleStep)
        Whose steps tell how much fuel a movement of the pedal asks for.
    cold : sequence of (°C, Film)
        Of the engine at other temperatures.

    Notes
    -----
    To keep the mixture, what is injected beyond the need is what the film takes up: in a ramp of the need by d ln f/dt
    the film gains X τ f (d ln f/dt) (1 − e^(−t/(τ (1 − X)))), most at its end; it goes with τ (1 − X). After a jump of
    the need that is X/(1 − X) of it. From the balance of the film model.
    """
    opened = [(d, s) for d, steps in drives for s in steps if s.to_pct > s.from_pct]
    walls = _told(warm)
    if walls is None or not opened:
        return None
    moves = [s.to_pct - s.from_pct for _, s in opened]
    rises = [_rise(drive, step) for drive, step in opened]
    span, rise = float(np.median(moves)), float(np.median(rises))
    percent = tuple(round(min(_MOST_PCT, 100.0 * _peak(*walls, rate, span, rise)), 1) for rate in RATES_PCT_S)  # fmt: skip
    fade = _fade_s(*walls)
    told = [(c, found[0]) for c, film in cold if (found := _told(film)) is not None]
    factors = _cold_factors(walls[0], told) if told else ()
    words = "" if told else " The cold factor is not told: no cold steps."
    return Enrichment(
        RATES_PCT_S, percent, round(max(0.05, 2.0 * fade), 2), _COLD_C if told else (), factors,
        f"A pedal that opens by {span:.0f} % asks for {100 * rise:.0f} % more fuel; the film takes {percent[3]:.0f} % on top at "
        f"{RATES_PCT_S[3]:.0f} %/s, fading in {2.0 * fade:.1f} s.{words}",
    )  # fmt: skip


def _rise(drive: Drive, step: ThrottleStep) -> float:
    """Return by how much the air of a step rises. [–]"""
    before = drive.between(step.time_s - 0.8, step.time_s)
    after = drive.between(step.until_s - 1.0, step.until_s)
    return float(np.median(drive.air[after]) / np.median(drive.air[before])) - 1.0


def _told(film: Film) -> tuple[float, float] | None:
    """Return share [–] and time constant [s] of a film that is told; None of another."""
    if not film.is_told or film.share is None or film.time_s is None:
        return None
    return film.share, film.time_s


def _fade_s(share: float, time_s: float) -> float:
    return time_s * (1.0 - share)


def _peak(share: float, time_s: float, rate: float, span: float, rise: float) -> float:
    """Return the most that is needed beyond the steady fuel at the end of the movement. [–]"""
    moves_s = span / rate
    gained = share * time_s * rise / moves_s * (1.0 - math.exp(-moves_s / _fade_s(share, time_s)))
    return max(0.0, gained / (1.0 + rise))


def _cold_factors(warm: float, told: Sequence[tuple[float, float]]) -> tuple[float, ...]:
    """Return the factor over coolant by the shares on the walls, straight between them, level beyond. [%]"""
    strength = warm / (1.0 - warm)
    places = sorted([(85.0, 100.0), *((c, 100.0 * x / (1.0 - x) / strength) for c, x in told)])
    at, factor = zip(*places, strict=True)
    return tuple(round(float(np.clip(np.interp(c, at, factor), 100.0, _MOST_COLD_PCT))) for c in _COLD_C)  # fmt: skip


def written_into(calibration: Calibration, enrichment: Enrichment, source: str) -> Calibration:
    """Return the calibration with an enrichment in its tables.

    Parameters
    ----------
    calibration : Calibration
    enrichment : Enrichment
    source : str
        For the provenance.
    """
    mark = Provenance("calculated", "What balances the fuel on the walls, by the steps of the pedal in the logs.", source)  # fmt: skip
    rates = Axis("throttle_rate_pct_s", "%/s", enrichment.rates_pct_s)
    changed = calibration.with_table(_table("acceleration_enrichment", (rates,), enrichment.percent, mark))  # fmt: skip
    changed = changed.with_table(_table("acceleration_fade", (), enrichment.fade_s, mark))
    if enrichment.cold_c:
        coolant = Axis("coolant_c", "°C", enrichment.cold_c)
        changed = changed.with_table(_table("acceleration_cold", (coolant,), enrichment.cold_pct, mark))  # fmt: skip
    return changed


def _table(key: str, axes: tuple[Axis, ...], values: object, mark: Provenance) -> Table:
    array = np.array(values, dtype=float)
    marks = np.empty(array.shape, dtype=object)
    marks[...] = mark
    return Table(key, axes, array, marks)
