"""Drives of the simulated engines with one fault or two that were drawn, and what the readings say of them."""

from __future__ import annotations

import itertools
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np
from inbetrieb_core.bench import Fault
from inbetrieb_core.fuelling import fingerprint, joined, propose, sift, solve_map
from inbetrieb_core.fuelling.map_prior import CORRECTED, GENERATED
from inbetrieb_core.fuelling.samples import carried_to

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
_SURE, _TENTH = 0.8, 0.1


@dataclass(frozen=True)
class Said:
    """What is said of a drive with faults.

    `true` causes and the `first` that is named. `kind`: "named" all of them, "one" of two, "class", "not told", "wrong"
    with confidence. `is_first`: whether the first named is a true one or of its class. `in_band`, `in_tenth`: of each
    true one that is named, whether its band holds its size, and whether that is within a tenth.
    """

    true: tuple[str, ...]
    first: str
    kind: str
    is_first: bool
    in_band: tuple[bool, ...]
    in_tenth: tuple[bool, ...]


class Driven:
    """An engine whose map some drives have corrected, each in air of another day, and what they read against it."""

    def __init__(self, key: str, seed: int, passes: int) -> None:
        self.engine, self.tables = ENGINES[key]
        self.earlier = joined(())
        days = np.random.default_rng([seed, 2])
        for number in range(passes):
            read = self.read(seed + number, float(days.uniform(0.0, 32.0)))
            table = self.tables["ve"]
            fit = solve_map(read, [axis.points for axis in table.axes])
            better = replace(table, values=propose(table, fit).values)
            self.tables = self.tables.with_table(better)
            self.earlier = carried_to(joined((self.earlier, read)), table, better)

    def read(self, seed: int, outside_c: float, *faults: Fault, minutes: float = 4.0):
        """Return what a drive reads, with faults built in."""
        trace = drive(healthy(self.engine), self.tables, minutes, seed, authority_pct=25.0, outside_c=outside_c, faults=faults)  # fmt: skip
        return sift(trace, self.tables).readings

    def told(self, readings, earlier=None):
        """Return what readings say, held against earlier ones; those of its own drives where none are given."""
        earlier = self.earlier if earlier is None else earlier
        prior = CORRECTED if len(self.earlier) else GENERATED
        return fingerprint(readings, self.engine.spec, self.tables["ve"], prior, (), earlier)


def _size(fault: Fault) -> float:
    """Return a fault in the unit of its cause: what passes too little asks for so much more."""
    return 100.0 * (1.0 / fault.size - 1.0) if fault.kind == "injector_flow" else fault.size


def said_of(made: Driven, faults: tuple[str, ...], seed: int) -> Said:
    """Return what is said of a drive with faults, their sizes and the air outside drawn."""
    draw = np.random.default_rng([seed, 9])
    built = [Fault(key, float(_IS[key][1](draw))) for key in faults]
    outside_c = float(draw.uniform(0.0, 32.0)) if len(made.earlier) else 25.0
    found = made.told(made.read(seed, outside_c, *built, minutes=5.0))
    true = {_IS[key][0] for key in faults}
    sure = {cause.key for cause in found.causes if cause.probability >= _SURE}
    first = found.causes[0].key if found.causes else "none"
    is_first = first in true or any(first in family and family & true for family in _ALIKE)
    named = {cause.key: cause for cause in found.causes}
    sizes = [(named.get(_IS[fault.kind][0]), _size(fault)) for fault in built]
    in_band = tuple(cause.low <= size <= cause.high for cause, size in sizes if cause)
    in_tenth = tuple(abs(cause.size / size - 1.0) <= _TENTH for cause, size in sizes if cause)
    if sure - true:
        kind = "wrong"
    elif sure:
        kind = "named" if sure == true else "one"
    else:
        kind = "class" if found.blocks else "not told"
    return Said(tuple(sorted(true)), first, kind, is_first, in_band, in_tenth)


def summary(told: Sequence[Said]) -> Iterator[tuple[str, str]]:
    """Return figures of drives with as many faults each, and how they read; of one fault what it is first taken for."""
    count = len(told[0].true)
    kinds = Counter(one.kind for one in told).most_common()
    yield (
        f"{count} faults of a drive, of {len(told)}",
        ", ".join(f"{n} {kind}" for kind, n in kinds),
    )
    yield "  first is one of them or of its class", f"{sum(one.is_first for one in told)} of {len(told)}"  # fmt: skip
    for name, held in (
        ("in its band of 90 %", [h for one in told for h in one.in_band]),
        ("within a tenth", [h for one in told for h in one.in_tenth]),
    ):
        yield f"  size {name}", f"{sum(held)} of {len(held)}"
    for true in sorted({one.true for one in told}) if count == 1 else ():
        firsts = Counter(one.first for one in told if one.true == true).most_common()
        yield f"    {true[0]} is first named as", ", ".join(f"{n} {key}" for key, n in firsts)
