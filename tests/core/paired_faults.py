"""Drives of the simulated engines with one fault or two that were drawn, and what the readings say of them."""

from __future__ import annotations

import itertools
from dataclasses import dataclass

import numpy as np
from inbetrieb_core.bench import Fault
from inbetrieb_core.fuelling import fingerprint, sift

from .test_fuelling import ENGINES, drive, healthy

#: Fault of the bench to the cause it is, and how its size is drawn.
_IS = {
    "injector_flow": ("fuel-per-pulse", lambda d: d.choice([d.uniform(0.78, 0.9), d.uniform(1.1, 1.25)])),
    "dead_time": ("dead-time", lambda d: d.choice([-1.0, 1.0]) * d.uniform(0.12, 0.35)),
    "port_leak": ("air-after-throttle", lambda d: d.uniform(0.6, 1.8)),
    "map_sensor": ("map-sensor", lambda d: d.uniform(3.0, 7.0)),
}  # fmt: skip
_ALIKE = (
    {"dead-time", "short-pulses", "map-sensor", "air-after-throttle"},
    {"fuel-per-pulse", "wideband-offset", "low-pressure"},
)
SINGLES = [(key,) for key in _IS]
PAIRS = list(itertools.combinations(_IS, 2))
_SURE = 0.8


@dataclass(frozen=True)
class Said:
    """What is said of a drive with faults.

    `kind`: "named" all of them, "one" of two, "class", "not told", "wrong" with confidence. `is_first`: whether the
    first named is a true one or of its class. `in_band`: of each true one that is named, whether its band holds its size.
    """

    kind: str
    is_first: bool
    in_band: tuple[bool, ...]


def _size(fault):
    """Return a fault in the unit of its cause: what passes too little asks for so much more."""
    return 100.0 * (1.0 / fault.size - 1.0) if fault.kind == "injector_flow" else fault.size


def said_of(engine_key, faults, seed):
    """Return what is said of a drive with faults."""
    engine, tables = ENGINES[engine_key]
    draw = np.random.default_rng([seed, 9])
    built = [Fault(key, float(_IS[key][1](draw))) for key in faults]
    trace = drive(healthy(engine), tables, 5.0, seed, authority_pct=25.0, faults=built)
    found = fingerprint(sift(trace, tables).readings, engine.spec, tables["ve"])
    true = {_IS[key][0] for key in faults}
    sure = {cause.key for cause in found.causes if cause.probability >= _SURE}
    first = found.causes[0].key
    is_first = first in true or any(first in family and family & true for family in _ALIKE)
    named = {cause.key: cause for cause in found.causes}
    sizes = [(named.get(_IS[fault.kind][0]), _size(fault)) for fault in built]
    in_band = tuple(cause.low <= size <= cause.high for cause, size in sizes if cause)
    if sure - true:
        kind = "wrong"
    elif sure:
        kind = "named" if sure == true else "one"
    else:
        kind = "class" if found.blocks else "not told"
    return Said(kind, is_first, in_band)
