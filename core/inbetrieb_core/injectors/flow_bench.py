"""A flow-bench report: how alike the injectors are, and where each belongs."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from scipy.optimize import linear_sum_assignment

from ..errors import FieldProblem, InputRefused

#: Spread of a set: matched within the first, mismatched beyond the second (common practice,
#: no source). [%]
MATCHED_PCT, MISMATCHED_PCT = 2.0, 5.0


@dataclass(frozen=True)
class Placing:
    """One injector in its place.

    Attributes
    ----------
    injector, cylinder : int
        Numbers from 1.
    flow_cm3_min : float
        [cm³/min]
    from_mean_pct : float
        Against the mean of the set. [%]
    mixture_pct : float
        How much richer (+) or leaner (−) its cylinder runs than the mean. [%]
    """

    injector: int
    cylinder: int
    flow_cm3_min: float
    from_mean_pct: float
    mixture_pct: float


@dataclass(frozen=True)
class FlowReport:
    """What a flow-bench report says.

    Attributes
    ----------
    mean_cm3_min : float
        [cm³/min]
    spread_pct : float
        Largest minus smallest against the mean. [%]
    worst_pair : tuple of int
        Numbers of the strongest and the weakest injector.
    level : {"matched", "attention", "mismatched"}
    placings : tuple of Placing
        By injector.
    sentences : tuple of str
        What to do.
    """

    mean_cm3_min: float
    spread_pct: float
    worst_pair: tuple[int, int]
    level: Literal["matched", "attention", "mismatched"]
    placings: tuple[Placing, ...]
    sentences: tuple[str, ...]


def judge_report(
    flows_cm3_min: Sequence[float], count: int, needs_pct: Sequence[float] | None = None
) -> FlowReport:
    """Judge a flow-bench report and place the injectors.

    Parameters
    ----------
    flows_cm3_min : sequence of float
        Flow of each, in the order of their numbers. [cm³/min]
    count : int
        Injectors of the engine. [–]
    needs_pct : sequence of float or None
        Fuel that each cylinder needs against the mean, 100 = mean; from plugs, exhaust
        temperatures or lambda of each cylinder. None where it is not known. [%]

    Raises
    ------
    InputRefused
        If an injector is missing, or a flow cannot be.

    Notes
    -----
    The places minimise the sum of squared mixture errors (linear assignment).
    """
    flows = np.array(flows_cm3_min, dtype=float)
    _refuse_bad(flows, count, needs_pct)
    mean = float(flows.mean())
    needs = np.full(count, 100.0) if needs_pct is None else np.array(needs_pct, dtype=float)
    relative = 100.0 * flows / mean
    wanted = 100.0 * needs / needs.mean()
    error = 100.0 * (relative[:, None] / wanted[None, :] - 1.0)
    cylinders = linear_sum_assignment(error**2)[1]
    if needs_pct is None:
        cylinders = np.arange(count)  # every place is as good as another: leave them
    placings = tuple(
        Placing(
            i + 1,
            int(c) + 1,
            float(flows[i]),
            float(relative[i] - 100.0),
            float(error[i, c]),
        )
        for i, c in enumerate(cylinders)
    )
    strongest, weakest = int(flows.argmax()), int(flows.argmin())
    spread = 100.0 * float(flows[strongest] - flows[weakest]) / mean
    level: Literal["matched", "attention", "mismatched"] = "matched"
    if spread > MATCHED_PCT:
        level = "attention" if spread <= MISMATCHED_PCT else "mismatched"
    sentences = _sentences(level, spread, strongest, weakest, placings, needs_pct is not None)
    return FlowReport(mean, spread, (strongest + 1, weakest + 1), level, placings, tuple(sentences))


def _refuse_bad(flows: np.ndarray, count: int, needs_pct: Sequence[float] | None) -> None:
    problems = []
    if flows.size != count:
        missing = count - flows.size
        which = f"{missing} missing" if missing > 0 else f"{-missing} too many"
        problems.append(
            FieldProblem(
                "report.flows",
                f"The engine has {count} injectors, the report {flows.size}: {which}.",
            )
        )
    elif not (np.isfinite(flows).all() and (flows > 0.0).all()):
        bad = int(np.flatnonzero(~(np.isfinite(flows) & (flows > 0.0)))[0])
        problems.append(
            FieldProblem(
                "report.flows",
                f"Injector {bad + 1} is given as {flows[bad]:g}: every flow must be above 0.",
            )
        )
    elif flows.max() > 3.0 * flows.min():
        problems.append(
            FieldProblem(
                "report.flows",
                f"{flows.min():g} and {flows.max():g} in one set cannot be: is one in other units?",
            )
        )
    if needs_pct is not None:
        needs = np.array(needs_pct, dtype=float)
        if needs.size != count:
            problems.append(
                FieldProblem(
                    "report.needs_pct", f"Give the need of all {count} cylinders, or none."
                )
            )
        elif not ((needs > 50.0) & (needs < 200.0)).all():
            bad = int(np.flatnonzero(~((needs > 50.0) & (needs < 200.0)))[0])
            problems.append(
                FieldProblem(
                    "report.needs_pct",
                    f"Cylinder {bad + 1} is given a need of {needs[bad]:g} %: it lies around 100 %.",
                )
            )
    if problems:
        raise InputRefused(problems)


def _sentences(
    level: str,
    spread: float,
    strongest: int,
    weakest: int,
    placings: Sequence[Placing],
    needs_known: bool,
) -> list[str]:
    if level == "matched":
        sentences = [f"A matched set: {spread:.1f} % from the strongest to the weakest."]
    else:
        sentences = [
            f"Injectors {strongest + 1} and {weakest + 1} differ by {spread:.1f} %"
            + (
                ": have them cleaned and measured again, or replace one."
                if level == "mismatched"
                else "."
            )
        ]
    leanest = min(placings, key=lambda p: p.mixture_pct)
    if leanest.mixture_pct < -1.0:
        sentences.append(
            f"Cylinder {leanest.cylinder} with injector {leanest.injector} runs "
            f"{-leanest.mixture_pct:.1f} % leaner than the mean."
        )
    if needs_known:
        moved = [p for p in placings if p.injector != p.cylinder]
        if moved:
            sentences.append("Placed so that the mixture differs least from cylinder to cylinder.")
    elif level != "matched":
        sentences.append(
            "Which cylinder needs more is not known: keep the weakest injector away from the "
            "cylinder that runs hottest, or give each cylinder's need."
        )
    return sentences
