"""Functions to pins: the cheapest plan that serves the most important functions first."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from scipy.optimize import linear_sum_assignment
from scipy.sparse import csr_matrix
from scipy.sparse.csgraph import maximum_bipartite_matching

from ..quantities import FloatArray
from .capability import RARITY
from .profile import ControllerProfile, Pin
from .wired_function import Importance, Way, WiredFunction, shortfall

#: What it costs to leave a function without a pin. Each step outweighs every function below it.
_LEFT_OUT: dict[Importance, float] = {"needed": 1e9, "wanted": 1e6, "later": 1e4}
_IMPOSSIBLE = 1e11
#: Keeps functions and pins in the same order where nothing else matters.
_ORDER = 1e-4


@dataclass(frozen=True)
class Placed:
    """A function on its pin.

    Attributes
    ----------
    function, pin : str
        Key and name.
    way : Way
        How the pin serves it.
    by_hand : bool
        Whether somebody fixed it there.
    """

    function: str
    pin: str
    way: Way
    by_hand: bool


@dataclass(frozen=True)
class LeftOut:
    """A function without a pin.

    Attributes
    ----------
    function : str
    importance : {"needed", "wanted", "later"}
    sentence : str
        Why there is none.
    need : str
        What it needs, in one phrase.
    rivals : tuple of str
        Functions that use the pins it could have.
    contested : tuple of str
        Those pins, and those that their users could have instead.
    """

    function: str
    importance: Importance
    sentence: str
    need: str = ""
    rivals: tuple[str, ...] = ()
    contested: tuple[str, ...] = ()


@dataclass(frozen=True)
class Allocation:
    """Which function is on which pin.

    Attributes
    ----------
    placed : tuple of Placed
        In the order of the functions.
    left_out : tuple of LeftOut
    conflicts : tuple of str
        Why a pin chosen by hand cannot be.
    spare : tuple of str
        Pins nobody uses, supplies and grounds apart.
    """

    placed: tuple[Placed, ...]
    left_out: tuple[LeftOut, ...]
    conflicts: tuple[str, ...]
    spare: tuple[str, ...]

    @property
    def is_whole(self) -> bool:
        """Whether every function that is not only for later has its pin, and none is in conflict."""
        return not self.conflicts and all(left.importance == "later" for left in self.left_out)


def allocate(
    profile: ControllerProfile,
    functions: Sequence[WiredFunction],
    by_hand: Mapping[str, str] | None = None,
) -> Allocation:
    """Return the cheapest plan.

    Parameters
    ----------
    profile : ControllerProfile
        A checked controller.
    functions : sequence of WiredFunction
        Everything that needs a pin.
    by_hand : mapping of function to pin, optional
        Fixed by the installer; a choice that cannot be is a conflict and stays without a pin.

    Notes
    -----
    A rectangular assignment problem, solved exactly [1]_. Serving a function by a pin costs what
    the way costs plus the worth of the abilities that the pin would waste; leaving it out costs
    more than all functions of less importance together, so most of the important ones are
    served, and that as cheaply as can be.

    References
    ----------
    .. [1] D. F. Crouse, "On implementing 2D rectangular assignment algorithms", IEEE Trans.
       Aerospace and Electronic Systems 52 (2016) 1679-1696, as in scipy.
    """
    pins = [pin for pin in profile.pins if not pin.is_shared]
    fixed, conflicts = _fixed(profile, functions, by_hand or {})
    ways = _ways(functions, pins, fixed)
    cost = _costs(functions, pins, ways)
    blocked = {key for key in (by_hand or {}) if key not in fixed}
    for i, function in enumerate(functions):
        if function.key in blocked:
            cost[i, : len(pins)] = _IMPOSSIBLE
    rows, columns = linear_sum_assignment(cost)
    placed: list[Placed] = []
    used: dict[str, str] = {}
    open_rows: list[int] = []
    for i, j in zip(rows.tolist(), columns.tolist(), strict=True):
        way = ways.get((i, j))
        if j < len(pins) and way is not None and cost[i, j] < _IMPOSSIBLE:
            placed.append(Placed(functions[i].key, pins[j].name, way, functions[i].key in fixed))
            used[pins[j].name] = functions[i].key
        else:
            open_rows.append(i)
    left = tuple(
        _explained(functions[i], functions, pins, used)
        for i in sorted(open_rows)
        if functions[i].key not in blocked
    )
    left += tuple(
        LeftOut(f.key, f.importance, "The pin chosen by hand cannot serve it.")
        for f in functions
        if f.key in blocked
    )
    spare = tuple(pin.name for pin in pins if pin.name not in used)
    return Allocation(tuple(placed), left, conflicts, spare)


def can_serve_all(profile: ControllerProfile, functions: Sequence[WiredFunction]) -> bool:
    """Say whether every function that is not only for later could have a pin of its own."""
    pins = [pin for pin in profile.pins if not pin.is_shared]
    wanted = [f for f in functions if f.importance != "later"]
    ways = _ways(wanted, pins, {})
    if not wanted:
        return True
    if len(wanted) > len(pins) or not ways:
        return False
    at = np.array(sorted(ways))
    graph = csr_matrix((np.ones(len(at)), (at[:, 0], at[:, 1])), shape=(len(wanted), len(pins)))
    return bool((maximum_bipartite_matching(graph, perm_type="column") >= 0).all())


def _fixed(
    profile: ControllerProfile, functions: Sequence[WiredFunction], by_hand: Mapping[str, str]
) -> tuple[dict[str, str], tuple[str, ...]]:
    """Return the choices by hand that can be, and a sentence for each that cannot."""
    known = {function.key: function for function in functions}
    fixed: dict[str, str] = {}
    conflicts: list[str] = []
    taken: dict[str, str] = {}
    for key, name in by_hand.items():
        function, pin = known.get(key), profile.pin(name)
        if function is None:
            continue  # no longer fitted
        if pin is None:
            conflicts.append(f"{function.title}: this controller has no pin {name}.")
            continue
        if name in taken:
            conflicts.append(
                f"{function.title} and {known[taken[name]].title} are both set on pin {name} by hand."
            )
            continue
        if pin.function and pin.function != key:
            conflicts.append(
                f"{function.title}: pin {name} is fixed to another function by its maker."
            )
            continue
        if not any(shortfall(pin, way) is None for way in function.ways):
            need = function.ways[0].words
            conflicts.append(f"{function.title} needs {need}; {shortfall(pin, function.ways[0])}.")
            continue
        taken[name] = key
        fixed[key] = name
    return fixed, tuple(conflicts)


def _ways(
    functions: Sequence[WiredFunction], pins: Sequence[Pin], fixed: Mapping[str, str]
) -> dict[tuple[int, int], Way]:
    """Return the best way for every function and pin that go together."""
    held = set(fixed.values())
    makers = makers_of(pins)
    ways: dict[tuple[int, int], Way] = {}
    for i, function in enumerate(functions):
        only = fixed.get(function.key, makers.get(function.key))
        for j, pin in enumerate(pins):
            if only is not None and pin.name != only:
                continue
            if only is None and (pin.name in held or pin.function):
                continue
            good = [way for way in function.ways if shortfall(pin, way) is None]
            if good:
                ways[i, j] = min(good, key=lambda way: way.cost)
    return ways


def makers_of(pins: Sequence[Pin]) -> dict[str, str]:
    """Return the pin that the maker fixed for a function, by function."""
    return {pin.function: pin.name for pin in pins if pin.function}


def way_cost(pin: Pin, way: Way) -> float:
    """Return what it costs to serve a way by a pin: the way itself and the abilities wasted. [–]"""
    wasted = sum(RARITY[c] for c in pin.capabilities if c != way.capability)
    unused_pull_up = 0.3 if pin.pull_up != "none" and not way.pull_up else 0.0
    strong = 1.0 if pin.injector_class == "current_limiting" != way.injector_class else 0.0
    return way.cost + wasted + unused_pull_up + strong


def _costs(
    functions: Sequence[WiredFunction],
    pins: Sequence[Pin],
    ways: Mapping[tuple[int, int], Way],
) -> FloatArray:
    """Return the cost matrix; behind the pins each function has a place of its own for left out."""
    count = len(functions)
    cost = np.full((count, len(pins) + count), _IMPOSSIBLE)
    for (i, j), way in ways.items():
        cost[i, j] = way_cost(pins[j], way) + _ORDER * (i - j) ** 2 / 100.0
    for i, function in enumerate(functions):
        # Among equals the later one is left out: coil 4 and not coil 1.
        cost[i, len(pins) + i] = _LEFT_OUT[function.importance] - 0.01 * i
    return cost


def _explained(
    function: WiredFunction,
    functions: Sequence[WiredFunction],
    pins: Sequence[Pin],
    used: Mapping[str, str],
) -> LeftOut:
    """Return why a function has no pin: nothing can serve it, or too many share those that can."""
    by_key = {f.key: f for f in functions}
    makers = makers_of(pins)
    able = [pin for pin in pins if _serves(pin, function, makers)]
    need = " or ".join(dict.fromkeys(way.words for way in function.ways))
    if not able:
        near = [
            reason
            for pin in pins
            for way in function.ways
            if way.capability in pin.capabilities and (reason := shortfall(pin, way))
        ]
        close = f" {near[0][0].upper()}{near[0][1:]}." if near else ""
        return LeftOut(
            function.key,
            function.importance,
            f"{function.title} needs {need}; no pin of this controller can.{close}",
            need,
        )
    reached, members = {pin.name for pin in able}, [function.key]
    waiting = [pin.name for pin in able]
    while waiting:
        key = used.get(waiting.pop())
        if key is None or key in members:
            continue
        members.append(key)
        for pin in pins:
            if pin.name not in reached and _serves(pin, by_key[key], makers):
                reached.add(pin.name)
                waiting.append(pin.name)
    rivals = tuple(members[1:])
    titles = ", ".join(by_key[key].title for key in rivals[:6])
    more = f" and {len(rivals) - 6} more" if len(rivals) > 6 else ""
    return LeftOut(
        function.key,
        function.importance,
        f"{function.title} needs {need}. The {len(reached)} pin(s) that could serve it are used by "
        f"{titles}{more}: one pin too few.",
        need,
        rivals,
        tuple(pin.name for pin in pins if pin.name in reached),
    )


def _serves(pin: Pin, function: WiredFunction, makers: Mapping[str, str]) -> bool:
    if makers.get(function.key, pin.name) != pin.name or pin.function not in ("", function.key):
        return False
    return any(shortfall(pin, way) is None for way in function.ways)
