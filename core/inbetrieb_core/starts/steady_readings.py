"""What steady running taught of warm-up enrichment and idle air.

What still moves by itself is not at rest: after the start's extra fuel has faded the walls give theirs
back for a while, and a valve that opens ever faster holds nothing. Such readings count the less, the
more they go on to move.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from ..causes import Stretch
from ..charge import expected_start_value
from ..charge.charge_temperature import opening_passes_more
from ..charge.idle_air import SPEED_BY_AIR, idle_gain, idle_map_kpa, idle_valve_pct
from ..charge.mixture_torque import work_ln
from ..engine import EngineSpec
from ..estimate import Evidence, FuelMapPlace
from .case import Case

#: From here on the after-start enrichment counts as faded, however short its table. [s]
FADED_S = 22.0
#: Idle is steady from here on. [s]
_SETTLED_S = 10.0
#: Readings are gathered over this many kelvin. [K]
_BIN_K = 5.0
#: How well one stretch tells a mixture and an idle air; and what a speed that is off makes all idle air of a log unsure
#: by, as a share of how far it is off: it goes with the air by a power that no log tells. [ln, ln, –]
MIXTURE, _AIR, _AIR_BY_SPEED = 0.025, 0.035, 0.5
#: How unsure the work is that a mixture costs, seen from how far it is off: the best one is known to 0.08 in
#: ln, and a cold engine burns only what is vapour. What an unknown mixture adds, and an engine that misfires
#: or swings. [–, ln, ln]
_AIR_BY_MIXTURE, _AIR_UNREAD, _AIR_UNEVEN = 0.35, 0.06, 0.4
#: How unsure it is what cold or hot air makes of an opening, as a share of it. [–]
_AIR_BY_DENSITY = 0.4
#: From how lean on single cycles are lost (common practice, no source), and how unsure that makes what the engine
#: would take without. [ln, –]
_LOSES_CYCLES, _AIR_BY_LOST = 0.12, 3.0
#: A mixture read this long before or after stands for one that was not. [s]
_NEAR_S = 12.0
#: How far ahead it is looked whether a reading stays; the least that counts as moving, of a mixture and of
#: idle air; how much farther it will go than it is seen to go. [s, ln, ln, –]
_AHEAD_S, _MIXTURE_MOVES, _AIR_MOVES, _GOES_ON = 9.5, 0.008, 0.025, 2.0
#: Where it misfires it is too lean, unless the table stands this far above the engine data; what is
#: tried then, and how surely. [–, ln, ln]
_RICHER_THAN_DATA, _MISFIRE_STEP, _MISFIRE_TELLS = 1.12, (0.06, -0.08), 0.08
#: Where nothing settled was read: from when the fading after-start says something of warm-up, how many
#: readings count, and how unsure they are beside a share of what is left of it. [s, –, –, ln, –]
_LATEST_S, _LATE_SHARE, _LATE_READ, _LATE_UNSURE, _LATE_BY_REST = 6.0, 0.5, 3, 0.07, 0.5
#: A valve near its ends, or a speed this far off, says only which way. [%, –]
_VALVE_ENDS, _FAR_OFF = (1.0, 99.0), 0.35


@dataclass(frozen=True)
class _Reading:
    """A need read over one stretch: where, its logarithm, its own error, and the one it shares with its neighbours. [°C, ln, ln, ln]"""

    coolant_c: float
    value: float
    error: float
    shared: float = 0.0


def _binned(readings: Sequence[_Reading]) -> Iterator[tuple[float, float, float, float]]:
    """Yield (coolant, mean, standard error, its part in common) of readings by temperature. [°C, ln, ln, ln]"""
    bins: dict[int, list[_Reading]] = {}
    for reading in readings:
        bins.setdefault(int(reading.coolant_c // _BIN_K), []).append(reading)
    for group in bins.values():
        values = np.array([r.value for r in group])
        errors, shared = np.array([(r.error, r.shared) for r in group]).T
        weights = 1.0 / (errors**2 + shared**2)
        share = weights / weights.sum()
        mean, error = float(share @ values), float(share @ errors)
        scatter = math.sqrt(float(share @ (values - mean) ** 2))
        spread = math.hypot(0.5 * error, math.hypot(error, scatter) / math.sqrt(len(group)))
        # What still moves moves all one way, and a mixture costs all of them work: no number of readings takes it out.
        common = float(share @ shared)
        yield float(share @ [r.coolant_c for r in group]), mean, math.hypot(spread, common), common


def _still_moves(
    stretches: Sequence[Stretch], values: Sequence[float], least: float
) -> list[float]:
    """Return how far each of some values, net of what warming does to it, may yet be from its rest. [ln]

    Parameters
    ----------
    stretches : sequence of Stretch
        In order of time; a cranking between them begins anew.
    values : sequence of float
        Of each. [ln]
    least : float
        What counts as moving. [ln]
    """
    found = []
    for i, (here, value) in enumerate(zip(stretches, values, strict=True)):
        ahead = [
            values[j] - value
            for j in range(i + 1, len(stretches))
            if 0.0 < stretches[j].after_s - here.after_s <= _AHEAD_S
            and stretches[j].clock_s >= here.clock_s
        ][:3]
        behind = i > 0 and 0.0 < here.after_s - stretches[i - 1].after_s <= _AHEAD_S
        moved = float(np.median(ahead)) if ahead else (value - values[i - 1] if behind else 0.0)
        found.append(_GOES_ON * max(abs(moved) - least, 0.0))
    return found


def settled_stretches(case: Case) -> list[Stretch]:
    """Return the stretches with a usable mixture after the after-start enrichment."""
    fade = max(case.value("after_start_fade"), FADED_S)
    return [s for s in case.observed.stretches if s.total is not None and s.after_s > fade]


def warm_up_readings(case: Case, basis: str) -> Iterator[Evidence]:
    """Yield the warm-up enrichment that the mixture asks for at every temperature passed."""
    settled, spec = settled_stretches(case), case.setting.spec
    expected = [
        math.log(expected_start_value(spec, "warm_up_enrichment", s.coolant_c)) for s in settled
    ]
    net = [(s.total or 0.0) - warming for s, warming in zip(settled, expected, strict=True)]
    readings = [
        _Reading(s.coolant_c, s.total or 0.0, MIXTURE, moves)
        for s, moves in zip(settled, _still_moves(settled, net, _MIXTURE_MOVES), strict=True)
    ]
    yield from _misfiring(case, basis)
    for coolant_c, total, spread, common in _binned(readings):
        # It idles elsewhere on the fuel map at every temperature: each need stands on its own place.
        here = [s for s in settled if s.coolant_c // _BIN_K == coolant_c // _BIN_K]
        place = fuel_map_place(case, here)
        need = 100.0 * math.exp(total)
        yield Evidence(
            "warm_up_enrichment", "measured", coolant_c, need, spread, basis, None, place,
            common=common,
        )  # fmt: skip
    if not readings:
        yield from _warm_up_while_it_fades(case, basis)


def _warm_up_while_it_fades(case: Case, basis: str) -> Iterator[Evidence]:
    """Yield what the last of the fading after-start leaves to warm-up, where nothing later was read.

    An engine that leans out and sinks as its after-start ends, and is caught by cranking fuel, does so
    again and again: no stretch of it is settled.
    """
    fade = case.value("after_start_fade")
    late = [
        s
        for s in case.observed.stretches
        if s.total is not None and s.after_s > _LATEST_S and s.clock_s > _LATE_SHARE * fade
    ]
    place = fuel_map_place(case, late)
    for s in late[-_LATE_READ:]:
        spread = math.hypot(MIXTURE, _LATE_UNSURE + _LATE_BY_REST * s.after_start)
        need = 100.0 * math.exp(s.total or 0.0)
        yield Evidence(
            "warm_up_enrichment", "measured", s.coolant_c, need, spread, basis, None, place
        )


def _misfiring(case: Case, basis: str) -> Iterator[Evidence]:
    """Yield which way warm-up should go where the engine misfired: its mixture reads wrong."""
    key = "warm_up_enrichment"
    fade = max(case.value("after_start_fade"), FADED_S)
    rough = [s.coolant_c for s in case.observed.stretches if s.misfires and s.after_s > fade]
    for coolant_c, *_ in _binned([_Reading(c, 0.0, _MISFIRE_TELLS) for c in rough]):
        given = case.calibration.at_coolant(key, coolant_c)
        rich = given > _RICHER_THAN_DATA * expected_start_value(case.setting.spec, key, coolant_c)
        value = given * math.exp(_MISFIRE_STEP[1] if rich else _MISFIRE_STEP[0])
        yield Evidence(key, "bounded", coolant_c, value, _MISFIRE_TELLS, basis)


def fuel_map_place(case: Case, stretches: Sequence[Stretch]) -> FuelMapPlace | None:
    """Return where the fuel map acted over stretches; None where no pressure was read."""
    seen = [(s.rpm, s.map_kpa) for s in stretches if s.map_kpa is not None]
    table = case.calibration["ve"]
    if not seen or table.by_throttle:
        return None
    rpm, kpa = (float(np.median(column)) for column in zip(*seen, strict=True))
    return FuelMapPlace(rpm, kpa, float(table.at_load(rpm, kpa, 0.0)))


def idling(case: Case) -> Iterator[tuple[Stretch, float, float]]:
    """Yield the stretches whose valve tells idle air, with its opening and how far speed was above target. [%, ln]

    Parameters
    ----------
    case : Case
        Of a start.
    """
    targets = case.calibration["idle_target"]
    for stretch in case.observed.stretches:
        valve = stretch.valve_pct
        if valve is None or stretch.after_s < _SETTLED_S:
            continue
        off = math.log(max(stretch.rpm, 200.0) / targets.at(stretch.coolant_c))
        if _VALVE_ENDS[0] < valve < _VALVE_ENDS[1] and abs(off) <= _FAR_OFF:
            yield stretch, valve, off


def idle_air_readings(case: Case, basis: str) -> Iterator[Evidence]:
    """Yield the opening that the idle valve needs at every temperature passed."""
    spec = case.setting.spec
    held, needed, unsures = [], [], []
    for stretch, valve, off in idling(case):
        lost, unsure = _work_lost(case, stretch)
        gain = idle_gain(spec, valve)
        wider = wider_in_ordinary_air(spec, stretch, valve)
        held.append(stretch)
        needed.append(math.log(valve) + wider - (off + SPEED_BY_AIR * lost) / gain)
        unsure = math.hypot(SPEED_BY_AIR * unsure / gain, _AIR_BY_DENSITY * wider)
        unsures.append(math.hypot(_AIR_BY_SPEED * off, unsure))
    net = [
        n - math.log(idle_valve_pct(spec, s.coolant_c)) for n, s in zip(needed, held, strict=True)
    ]
    moves = _still_moves(held, net, _AIR_MOVES)
    readings = [
        _Reading(s.coolant_c, n, _AIR, math.hypot(moving, unsure))
        for s, n, moving, unsure in zip(held, needed, moves, unsures, strict=True)
    ]
    for coolant_c, mean, spread, common in _binned(readings):
        value = math.exp(mean)
        yield Evidence("idle_valve", "measured", coolant_c, value, spread, basis, common=common)


def wider_in_ordinary_air(spec: EngineSpec, stretch: Stretch, valve_pct: float) -> float:
    """Return by how much wider the idle valve stands for the same idle in ordinary air. [ln]

    Parameters
    ----------
    spec : EngineSpec
        The engine.
    stretch : Stretch
        Of idling; 0 where its intake air is unknown.
    valve_pct : float
        Where the valve stood. [%]

    Notes
    -----
    The stop passes more of cold air, too: the valve makes up for both
    (:func:`..charge.charge_temperature.opening_passes_more`).
    """
    if stretch.intake_c is None:
        return 0.0
    passes_more = opening_passes_more(stretch.intake_c, stretch.coolant_c)
    return SPEED_BY_AIR * passes_more / idle_gain(spec, valve_pct)


def _work_lost(case: Case, stretch: Stretch) -> tuple[float, float]:
    """Return the work of the air that the mixture cost beside its target's, and how unsure that is. [ln, ln]

    A valve that stands open for the mixture's sake is not what the engine needs once the mixture is right.
    """
    lean, unread = _lean_by(case, stretch)
    if lean is None:
        return 0.0, unread
    kpa = idle_map_kpa(case.setting.spec) if stretch.map_kpa is None else stretch.map_kpa
    aimed = case.calibration["lambda_target"].at_load(stretch.rpm, kpa, 0.0)
    lost = work_ln(aimed) - work_ln(aimed * math.exp(lean))
    cycles = _AIR_BY_LOST * max(0.0, lean - _LOSES_CYCLES)
    return lost, unread + _AIR_BY_MIXTURE * abs(lean) + cycles


def _lean_by(case: Case, stretch: Stretch) -> tuple[float | None, float]:
    """Return by how much a stretch was lean, None where nothing tells it, and what that adds to its air. [ln, ln]"""
    total, unread = stretch.total, 0.0
    if total is None:
        near = [
            s
            for s in case.observed.stretches
            if s.total is not None and abs(s.after_s - stretch.after_s) <= _NEAR_S
        ]
        if not near:
            uneven = stretch.swings or stretch.misfires
            need = case.figures.need_settled
            # One that swings from cycles that it loses tells at least how lean it was on the whole.
            lean = math.log(need) if stretch.swings and need is not None else None
            return lean, _AIR_UNEVEN if uneven else _AIR_UNREAD
        total = min(near, key=lambda s: abs(s.after_s - stretch.after_s)).total or 0.0
        unread = _AIR_UNREAD
    given = case.calibration.at_coolant("warm_up_enrichment", stretch.coolant_c) / 100.0
    return total - math.log(max(given, 0.05)), unread
