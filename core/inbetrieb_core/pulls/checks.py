"""What is proven before the first pull, and looked at after the first ones."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

When = Literal["before", "after"]


@dataclass(frozen=True)
class PullCheck:
    """A check: before or after the first pulls, what to do, and why."""

    key: str
    when: When
    title: str
    text: str


#: In their order; common practice, no source.
CHECKS: tuple[PullCheck, ...] = (
    PullCheck("rev_limit", "before", "Rev limit acts", "Set it 1500 rpm lower, drive into it at light load, see it cut, set it back."),
    PullCheck("boost_cut", "before", "Boost cut acts", "Set it just above the air pressure, drive into it, see it cut, set it back above the wastegate's own pressure. Without boost: tick it as none."),
    PullCheck("lean_cut", "before", "Lean cut acts", "Set its lambda richer than what is driven, under light load, see it cut, set it back."),
    PullCheck("exhaust", "before", "Exhaust temperature has its limit", "Where a probe is fitted it reads at idle, rises with load and has a limit that acts."),
    PullCheck("ignition", "before", "Ignition holds under boost", "Plug gap and dwell as for the pressure; a break-up is a stumble with lambda reading lean, at the same pressure every time."),
    PullCheck("tied", "before", "Tied down, guarded, extracted", "Straps, wheels in line, nobody beside rollers or couplings, exhaust extracted, hearing protected, extinguisher at hand, somebody at the kill switch."),
    PullCheck("fuel", "before", "Fuel for the whole series", "Tank more than half full, one fuel for all pulls; water injection on and its tank full, or off in all of them."),
    PullCheck("bolts", "after", "Everything that was ever loosened", "Wheels, driveshafts, exhaust joints, turbocharger bolts, oil drain, coolant hoses, charge pipes, wiring near heat."),
    PullCheck("fluids", "after", "Oil, coolant, leaks", "Levels, smell of fuel, drops under the car, oil in the charge pipes."),
    PullCheck("plugs", "after", "Plugs", "One from each end: colour, gap, specks of metal, cracked insulator."),
    PullCheck("log", "after", "The log read once over", "Knock, lambda, pressure, duty, temperatures: every stop of the pull board looked at before the next pull."),
)  # fmt: skip


@dataclass(frozen=True)
class BrakePoint:
    """A point on a brake: speed, throttle, how long to hold. [1/min, %, s]"""

    rpm: float
    throttle_pct: float
    hold_s: float


def load_points(
    from_rpm: float, to_rpm: float, step_rpm: float, throttles: tuple[float, ...]
) -> tuple[BrakePoint, ...]:
    """Return a plan of load points, from light to heavy, up and down the speeds so that heat does not run with speed.

    Parameters
    ----------
    from_rpm, to_rpm, step_rpm : float
        Speeds. [1/min]
    throttles : tuple of float
        [%]
    """
    count = max(1, round((to_rpm - from_rpm) / max(step_rpm, 100.0)))
    speeds = [from_rpm + i * (to_rpm - from_rpm) / count for i in range(count + 1)]
    points = []
    for number, throttle in enumerate(sorted(throttles)):
        for rpm in speeds if number % 2 == 0 else reversed(speeds):
            points.append(BrakePoint(round(rpm, -1), throttle, 6.0 if throttle >= 60.0 else 10.0))
    return tuple(points)
