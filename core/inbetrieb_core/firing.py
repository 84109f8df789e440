"""The order in which cylinders fire, and which of them are a turn apart."""

from __future__ import annotations

from collections.abc import Sequence

from .engine import EngineSpec

#: Usual firing orders by number of cylinders, to begin from (common practice, no source).
USUAL_ORDERS: dict[int, tuple[int, ...]] = {
    1: (1,), 2: (1, 2), 3: (1, 2, 3), 4: (1, 3, 4, 2), 5: (1, 2, 4, 5, 3), 6: (1, 5, 3, 6, 2, 4),
    8: (1, 8, 4, 3, 6, 5, 7, 2), 10: (1, 6, 5, 10, 2, 7, 3, 8, 4, 9),
    12: (1, 7, 5, 11, 3, 9, 6, 12, 2, 8, 4, 10),
}  # fmt: skip


def order_of(spec: EngineSpec, entered: Sequence[int] = ()) -> tuple[int, ...]:
    """Return the firing order of an engine: as entered, or the usual one.

    Parameters
    ----------
    spec : EngineSpec
        The engine.
    entered : sequence of int
        Empty where it is not known.

    Returns
    -------
    tuple of int
        Every cylinder, or rotor, once.
    """
    if sorted(entered) == list(range(1, spec.chambers + 1)):
        return tuple(entered)
    if spec.cycle == "rotary":
        return tuple(range(1, spec.chambers + 1))
    return USUAL_ORDERS.get(spec.chambers, tuple(range(1, spec.chambers + 1)))


def turn_apart(order: Sequence[int]) -> tuple[tuple[int, ...], ...]:
    """Return which cylinders fire a turn of the crankshaft apart: they can share a coil or an output.

    Parameters
    ----------
    order : sequence of int
        Firing order of a four-stroke engine that fires evenly.

    Returns
    -------
    tuple of tuple of int
        Pairs, each by number, the first cylinder's first; a lone one where there is an odd number.
    """
    half = len(order) // 2
    if len(order) % 2:
        return tuple((n,) for n in sorted(order))
    pairs = (tuple(sorted((order[i], order[i + half]))) for i in range(half))
    return tuple(sorted(pairs))
