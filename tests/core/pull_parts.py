"""Pulls, limits and feeds that the tests of station 12 share."""

import math

import numpy as np
from inbetrieb_core.bench import NAMED
from inbetrieb_core.pulls import Feed, Member, PullLimits, PullRecord

ENGINE = NAMED["port_four"]
FEED = Feed(1.0, 2.0, 300.0, 101.0, True)
LIMITS = PullLimits(200.0, 0.95, 950.0, 3.0, 88.0, 25.0, 80.0, 7000.0)
RPM = np.arange(2000.0, 6600.0, 100.0)


def record(torque, rpm=RPM, kind="measured", doubts=(), **channels):
    """Return a pull of curves."""
    values = {"torque_nm": torque, **channels}
    return PullRecord(
        tuple(rpm.tolist()),
        {k: tuple(float(v) for v in np.broadcast_to(c, rpm.shape)) for k, c in values.items()},
        kind, 8.0, "log", tuple(doubts),
    )  # fmt: skip


def curve(scale=1.0, rpm=RPM):
    return scale * (150.0 - 40.0 * ((rpm - 4200.0) / 2400.0) ** 2)


def series(draw, letters, effect=0.0, spread=0.006, drift=0.0, **more):
    """Return members: levels of their own (Student's t, no normal), rough noise along speed, drift by order."""
    found = []
    for place, letter in enumerate(letters):
        level = (
            spread * draw.standard_t(8) / math.sqrt(8 / 6)
            + drift * place
            + effect * (letter == "B")
        )
        noise = np.cumsum(draw.normal(0.0, 0.0012, len(RPM)))
        pull = record(curve() * np.exp(level + noise - noise.mean()), **more)
        found.append(Member(pull, letter == "B", place + 1.0, {"gear": "4"}, 3))
    return found
