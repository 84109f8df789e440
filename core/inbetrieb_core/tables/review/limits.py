"""Rules for limits, settings and boost: what protects the engine, and what would hide a fault."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from ...sentences import kilopascal
from ...trade import BOOST_VALVE_LEAST_PCT, BOOST_VALVE_MOST_PCT, LOOP_AUTHORITY_PCT
from ..calibration import Calibration
from .findings import ReviewContext, ReviewFinding, finding

#: An authority that hides any fault (common practice, no source). [%]
_FAR_TOO_MUCH_PCT = 25.0
#: Cut this far above the intended boost protects nothing. [kPa]
_CUT_TOO_HIGH_KPA = 50.0
#: A target this far above what the charger can make is asked for too early. [kPa]
_EARLY_KPA = 12.0


def authority(calibration: Calibration, context: ReviewContext) -> Iterator[ReviewFinding]:
    """Yield a mixture loop that may correct too much."""
    value = calibration.setting("closed_loop_authority")
    if value is not None and value > LOOP_AUTHORITY_PCT + 0.5:
        yield finding(
            "authority", calibration["closed_loop_authority"], [()],
            "stop" if value > _FAR_TOO_MUCH_PCT else "attention",
            f"±{value:g} %: more than ±{LOOP_AUTHORITY_PCT:g} % hides faults and drags healthy cells along.",
            value,
        )  # fmt: skip


def rev_limits(calibration: Calibration, context: ReviewContext) -> Iterator[ReviewFinding]:
    """Yield a rev limit above the engine's own."""
    if "rev_limit" not in calibration or context.spec is None:
        return
    table, own = calibration["rev_limit"], context.spec.rev_limit_rpm
    cells = [(int(i),) for i in np.flatnonzero(table.values > own + 1.0)]
    if cells:
        worst = float(table.values.max())
        yield finding(
            "rev_limit", table, cells, "stop",
            f"{worst:.0f} rpm is above the engine's own limit of {own:.0f} rpm.", worst - own,
        )  # fmt: skip


def overrun(calibration: Calibration, context: ReviewContext) -> Iterator[ReviewFinding]:
    """Yield an overrun cut whose fuel comes back below idle speed, or not before it cuts again."""
    resume, cut = (calibration.setting(k) for k in ("overrun_resume_rpm", "overrun_cut_rpm"))
    idle = calibration.at_coolant("idle_target", 85.0)
    if resume is not None and resume < idle + 100.0:
        yield finding(
            "overrun", calibration["overrun_resume_rpm"], [()], "attention",
            f"fuel is back at {resume:.0f} rpm with a warm idle of {idle:.0f}: it will stall when "
            "declutched.", idle + 100.0 - resume,
        )  # fmt: skip
    if resume is not None and cut is not None and cut <= resume:
        yield finding(
            "overrun", calibration["overrun_cut_rpm"], [()], "attention",
            f"cuts from {cut:.0f} rpm and comes back at {resume:.0f}: it will buck.", resume - cut,
        )  # fmt: skip


def boost_cut(calibration: Calibration, context: ReviewContext) -> Iterator[ReviewFinding]:
    """Yield a boost cut that does not fit the intended boost."""
    cut = calibration.setting("boost_cut")
    if cut is None:
        return
    table = calibration["boost_cut"]
    intended = (
        None if context.spec is None or context.spec.boost_kpa <= 0.0 else context.spec.top_map_kpa
    )
    asked = (
        float(calibration["boost_target"].values.max()) if "boost_target" in calibration else None
    )
    if asked is not None and asked > cut:
        waits = context.spec is not None and context.spec.wastegate_kpa is None
        yield finding(
            "boost_cut", table, [()], "note" if waits else "attention",
            f"cuts at {kilopascal(cut)}, below the target of {kilopascal(asked)}: "
            + ("right until wastegate pressure is measured." if waits
               else "it will hit the cut on every pull."), asked - cut,
        )  # fmt: skip
    if intended is not None and cut > intended + _CUT_TOO_HIGH_KPA:
        yield finding(
            "boost_cut", table, [()], "stop",
            f"{kilopascal(cut)} for an intended {kilopascal(intended)} protects nothing.", cut - intended,
        )  # fmt: skip


def boost_valve(calibration: Calibration, context: ReviewContext) -> Iterator[ReviewFinding]:
    """Yield boost duty where the usual valve does nothing, as settings for another kind of valve do."""
    if "boost_duty" not in calibration:
        return
    table = calibration["boost_duty"]
    dead = (table.values > 0.0) & (table.values < BOOST_VALVE_LEAST_PCT)
    for bad, what in (
        (dead, f"between 0 and {BOOST_VALVE_LEAST_PCT:g} % the usual valve does nothing"),
        (
            table.values > BOOST_VALVE_MOST_PCT,
            f"above {BOOST_VALVE_MOST_PCT:g} % the usual valve does nothing more",
        ),
    ):
        cells = [tuple(c) for c in np.argwhere(bad).tolist()]
        if cells:
            yield finding(
                "boost_valve", table, cells, "attention",
                f"{what}; these may be settings for another kind of valve.", float(len(cells)),
            )  # fmt: skip


def early_boost(calibration: Calibration, context: ReviewContext) -> Iterator[ReviewFinding]:
    """Yield boost targets before the charger can make them."""
    if "boost_target" not in calibration or context.expected is None:
        return
    if "boost_target" not in context.expected:
        return
    table = calibration["boost_target"]
    early = table.values - context.expected["boost_target"].values
    speeds = np.array(table.axes[0].points)[:, None]
    full = context.expected["boost_target"].values.max(axis=0)[None, :]
    rising = np.broadcast_to(context.expected["boost_target"].values < full - 1.0, early.shape)
    cells = [tuple(c) for c in np.argwhere(rising & (early > _EARLY_KPA) & (speeds > 0.0)).tolist()]
    if cells:
        worst = float(early[rising].max())
        yield finding(
            "early_boost", table, cells, "attention",
            f"up to {kilopascal(worst)} more than the charger can make at this speed: the loop winds up and "
            "overshoots.", worst,
        )  # fmt: skip


def unwired_inputs(calibration: Calibration, context: ReviewContext) -> Iterator[ReviewFinding]:
    """Yield inputs that are switched on in the controller and not wired."""
    if context.wired_inputs is None:
        return
    missing = [name for name in context.configured_inputs if name not in context.wired_inputs]
    for name in missing:
        yield ReviewFinding(
            "unwired_input", "", (), "attention",
            f"{name[:1].upper()}{name[1:]} is switched on in the controller and not wired: it reads its default, "
            "and what depends on it goes wrong.", 1.0, name,
        )  # fmt: skip
