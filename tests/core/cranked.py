"""A cranked engine by its gas torque: overlapping strokes, a starter with a falling torque line, friction.

Written for the tests alone, by the equation of motion: nothing of the judgement is in it. Slider crank and
polytropic compression as in any textbook of engines (Heywood, ch. 2 and 4, from memory).
"""

import math

import numpy as np
from inbetrieb_core.triggers import Capture

ROD_RATIO, POLYTROPIC = 3.3, 1.25


def volume(angle_deg, ratio):
    """Return cylinder volume ÷ displacement at a crank angle from top dead centre."""
    x = np.radians(angle_deg)
    s = np.sin(x)
    travel = 0.5 * (1.0 + ROD_RATIO - np.cos(x) - np.sqrt(ROD_RATIO**2 - s**2))
    return 1.0 / (ratio - 1.0) + travel


def cranked(
    wheel,
    chambers,
    strength,
    *,
    ratio=9.5,
    litres=0.5,
    rpm=190.0,
    inertia=None,
    top_deg=90.0,
    turns=14.0,
    seed=0,
    jitter_us=20.0,
):
    """Return a capture of an engine on its starter; `strength` is each cylinder's share of full pressure,
    in the order in which they fire, cylinder 1 at `top_deg` behind the wheel's zero."""
    draw = np.random.default_rng(seed)
    inertia = inertia or 0.3 + 0.02 * chambers
    step = 720.0 / chambers
    fine = np.arange(-360.0, 360.0, 0.5)
    v = volume(fine, ratio)
    closed = np.abs(fine) < 145.0
    bottom = volume(145.0, ratio)
    pressure = np.where(closed, 98.0 * (bottom / v) ** POLYTROPIC, 98.0) - 98.0  # kPa above outside
    slope = np.gradient(v, np.radians(fine)) * litres  # l/rad
    torque = pressure * slope  # kPa·l = J/rad: pushes away from top dead centre
    strength = np.asarray(strength, dtype=float)
    stall = 60.0 * chambers * litres / 2.0 * (1.0 + 0.15 * draw.normal())
    drag = 0.35 * stall
    free = rpm * 2.0 * math.pi / 60.0 * stall / (stall - drag)
    dt_deg = 0.5
    n = int(turns * 360.0 / dt_deg)
    where = np.arange(n) * dt_deg
    total = np.zeros(n)
    for i in range(chambers):
        at = (where - top_deg - i * step + 360.0) % 720.0 - 360.0
        total += strength[i] * np.interp(at, fine, torque)
    energy, omega = np.empty(n), 0.6 * free
    for k in range(n):
        pull = stall * max(0.0, 1.0 - omega / free) - drag + total[k]
        omega = math.sqrt(max(omega**2 + 2.0 * pull / inertia * math.radians(dt_deg), 4.0))
        energy[k] = omega
    time = np.concatenate([[0.0], np.cumsum(math.radians(dt_deg) / energy[:-1])])
    edges, base = [], 0.0
    while base < where[-1]:
        edges += [base + a for a in wheel.edges_deg if base + a < where[-1]]
        base += wheel.turn_deg
    cams = [
        b + a
        for b in np.arange(0.0, where[-1], 720.0)
        for a in wheel.cam_edges_deg
        if b + a < where[-1]
    ]
    noise = lambda count: 1e-6 * jitter_us * draw.normal(size=count)  # noqa: E731
    crank = np.sort(np.interp(edges, where, time) + noise(len(edges)))
    cam = np.sort(np.interp(cams, where, time) + noise(len(cams))) if cams else np.empty(0)
    return Capture(crank, cam)
