"""Start traces written by hand from a handful of moments; independent of the bench engine."""

import numpy as np
from inbetrieb_core.logs import Trace


def start_trace(points, *, rate=20.0, coolant=20.0, end=None, **channels):
    """Return a trace whose speed runs in straight lines through (time, rpm) points.

    Further channels are constants, or (time, value) points of their own.
    """
    end = points[-1][0] if end is None else end
    time = np.arange(0.0, end + 1e-9, 1.0 / rate)
    built = {"time_s": time, "rpm": np.interp(time, *zip(*points, strict=True))}
    if coolant is not None:
        built["coolant_c"] = np.full(time.shape, float(coolant))
    for name, value in channels.items():
        name = "lambda" if name == "mixture" else name
        if isinstance(value, list):
            built[name] = np.interp(time, *zip(*value, strict=True))
        else:
            built[name] = np.full(time.shape, float(value))
    return Trace(built)


def ran_after(took_s, target_rpm, **more):
    """Return a start that takes so long until it runs, and then does all else well. [s, 1/min]"""
    points = [(0, 0), (2, 0), (2.15, 225), (1.9 + took_s, 230), (2.2 + took_s, 800)]
    points += [(3.0 + took_s, target_rpm + 200), (5.0 + took_s, target_rpm + 10), (45, target_rpm)]
    return start_trace(points, rate=50.0, **more)


#: A good start of an engine with a target of about 980 rpm at 20 °C.
GOOD = [
    (0, 0),
    (2, 0),
    (2.15, 220),
    (3.0, 230),
    (3.3, 700),
    (4.0, 1250),
    (6.0, 1000),
    (8.0, 985),
    (45, 975),
]
#: Channels of a wideband that wakes after ten seconds and finds the mixture right.
RIGHT_MIXTURE = {
    "mixture": [(0, 1.36), (12, 1.36), (12.5, 1.01), (60, 0.995)],
    "lambda_target": 1.0,
}
LATE = [(0, 0), (2, 0), (2.15, 220), (5.9, 230), (6.2, 700), (7.0, 1250), (9.0, 1000), (28, 975)]
NO_FIRE = [(0, 0), (2, 0), (2.15, 220), (9.0, 230), (9.3, 0), (11, 0)]
DIED = [(0, 0), (2, 0), (2.15, 220), (3.0, 230), (3.3, 600), (3.9, 900), (4.4, 0), (7, 0)]
RAN_AND_DIED = [
    (0, 0),
    (2, 0),
    (2.15, 220),
    (3.0, 230),
    (3.3, 700),
    (4.2, 1200),
    (8.0, 700),
    (9.5, 0),
    (11, 0),
]
