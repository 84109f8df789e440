"""The simulated controller while the starter turns the bench engine: edges of crank and cam."""

from __future__ import annotations

import io
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..engine import EngineSpec
from ..errors import field_refused
from ..sentences import celsius
from ..tables import Calibration
from ..triggers import PATTERNS, LightReading, TriggerEntry, check_readings
from .conditions import StartConditions
from .edges import EdgeConditions, simulate_edges
from .engines import BenchEngine
from .faults import Fault, sized
from .simulate import simulate_start

_JITTER_US = 25.0
_HIGH_FOR_S = 2e-4
#: The bench engine never fires with this fault: sync comes later than the driver's patience.
_NEVER_SYNC_S = 30.0
_TURNING_RPM = 40.0
_SMOOTHED_SAMPLES = 25


@dataclass(frozen=True)
class EdgeFaultKind:
    """A fault of trigger or engine that a capture shows: key, title, unit, and its sizes."""

    key: str
    title: str
    unit: str
    default: float
    lower: float
    upper: float


EDGE_FAULTS: dict[str, EdgeFaultKind] = {
    kind.key: kind
    for kind in (
        EdgeFaultKind("swapped", "Wires of the crank sensor swapped", "", 1.0, 0.0, 1.0),
        EdgeFaultKind("weak_signal", "Weak signal, teeth are missed", "%", 3.0, 0.5, 20.0),
        EdgeFaultKind("interference", "Interference, edges that are none", "%", 3.0, 0.5, 20.0),
        EdgeFaultKind("other_wheel", "Another wheel than entered", "", 1.0, 0.0, 1.0),
        EdgeFaultKind("no_cam", "No cam signal", "", 1.0, 0.0, 1.0),
        EdgeFaultKind("low_compression", "Second cylinder in firing order is low", "%", 65.0, 30.0, 95.0),
    )
}  # fmt: skip


def true_offset_deg(seed: int) -> float:
    """Return where top dead centre of the bench engine really is: near what a builder enters. [°]

    Parameters
    ----------
    seed : int
        Of the engine.
    """
    random = np.random.default_rng([seed, 0x7D])
    return round(90.0 + float(random.uniform(-7.0, 7.0)), 1)


def true_delay_us(seed: int) -> float:
    """Return by how much the bench engine's spark is late. [µs]

    Parameters
    ----------
    seed : int
        Of the engine.
    """
    return round(float(np.random.default_rng([seed, 0x7E]).uniform(0.0, 90.0)), 0)


def simulate_cranking(
    engine: BenchEngine,
    spec: EngineSpec,
    calibration: Calibration,
    entry: TriggerEntry,
    *,
    coolant_c: float = 15.0,
    crank_s: float = 6.0,
    faults: Sequence[Fault] = (),
    engine_seed: int = 0,
    seed: int = 0,
) -> bytes:
    """Return the edges of a cranked bench engine as a capture file.

    Parameters
    ----------
    engine : BenchEngine
        Whose starter, battery and friction decide the speed.
    spec : EngineSpec
        As entered.
    calibration : Calibration
        The job's tables.
    entry : TriggerEntry
        The trigger as entered; a fault fits another.
    coolant_c : float
        Of engine and oil. [°C]
    crank_s : float
        How long the key is held, 2 to 15. [s]
    faults : sequence of Fault
        Of :data:`EDGE_FAULTS`.
    engine_seed, seed : int
        Of the engine and of the noise.

    Raises
    ------
    InputRefused
        If a fault is unknown or a figure out of bounds.
    """
    if not (2.0 <= crank_s <= 15.0 and -40.0 <= coolant_c <= 120.0):
        raise field_refused(
            "crank_s", f"Crank for 2 to 15 s, at {celsius(-40, bare=True)} to {celsius(120)}."
        )
    sizes = {kind.key: size for kind, size in sized(faults, EDGE_FAULTS) if size > 0.0}
    run = simulate_start(
        engine, spec, calibration,
        StartConditions(coolant_c, coolant_c, seed, 25.0, crank_s, 1.0, 0.0),
        [Fault("lost_sync", _NEVER_SYNC_S)],
    )  # fmt: skip
    rpm, time_s = run.channels["rpm"], run.channels["time_s"]
    turning = rpm > _TURNING_RPM
    rpm, time_s = rpm[turning], time_s[turning]
    if rpm.size < 8:
        raise field_refused("coolant_c", "The starter does not turn the engine.")
    rpm = _smoothed(rpm)
    turned = np.concatenate([[0.0], np.cumsum(6.0 * rpm[:-1] * np.diff(time_s))])
    wheel = entry.wheel()
    if "other_wheel" in sizes:
        wheel = next(w for w in PATTERNS.values() if len(w.edges_deg) != len(wheel.edges_deg))
    if "no_cam" in sizes:
        wheel = replace(wheel, cam_edges_deg=())
    compressions = round(spec.firings_per_turn * 2)
    weak = [1.0] * compressions
    if "low_compression" in sizes and compressions > 1:
        weak[1] = sizes["low_compression"] / 100.0
    conditions = EdgeConditions(
        rpm=float(rpm.mean()),
        chambers=compressions,
        ripple=min(0.32, max(0.12, 0.95 / compressions)),
        turns=float(turned[-1]) / 360.0,
        jitter_us=_JITTER_US,
        lost_share=sizes.get("weak_signal", 0.0) / 100.0,
        extra_share=sizes.get("interference", 0.0) / 100.0,
        swapped="swapped" in sizes,
        weak=tuple(weak),
        top_deg=true_offset_deg(engine_seed),
        profile=tuple(zip(turned.tolist(), rpm.tolist(), strict=True)),
        seed=seed,
    )
    capture = simulate_edges(wheel, conditions)
    return _as_file(capture.crank_s, capture.cam_s)


def _smoothed(rpm: np.ndarray) -> np.ndarray:
    """Return the speed without what single compressions do to it; those are added with the edges."""
    width = min(_SMOOTHED_SAMPLES, rpm.size)
    padded = np.pad(rpm, (width // 2, width - 1 - width // 2), mode="edge")
    return np.convolve(padded, np.full(width, 1.0 / width), mode="valid")


def _as_file(crank_s: np.ndarray, cam_s: np.ndarray) -> bytes:
    events = [(t, "crank", 1) for t in crank_s] + [(t + _HIGH_FOR_S, "crank", 0) for t in crank_s]
    events += [(t, "cam", 1) for t in cam_s] + [(t + _HIGH_FOR_S, "cam", 0) for t in cam_s]
    out = io.StringIO()
    out.write("time_us,channel,level\n")
    for at, channel, level in sorted(events):
        out.write(f"{1e6 * at:.1f},{channel},{level}\n")
    return out.getvalue().encode()


def simulate_light(
    entry: TriggerEntry, rpm: float, commanded_deg: float, *, engine_seed: int, seed: int
) -> LightReading:
    """Return one reading of a timing light on the bench engine, read to the nearest half degree.

    Parameters
    ----------
    entry : TriggerEntry
        With the offset in force.
    rpm, commanded_deg : float
        Speed and locked advance. [1/min, °]
    engine_seed, seed : int
        Of the engine and of the reading.

    Raises
    ------
    InputRefused
        If speed or advance cannot be.
    """
    check_readings([LightReading(rpm, commanded_deg, commanded_deg)], entry.offset_deg)
    random = np.random.default_rng([seed, 0x7F])
    off = entry.offset_deg - true_offset_deg(engine_seed)
    off = off if entry.raising_advances else -off
    seen = commanded_deg + off - 6e-6 * true_delay_us(engine_seed) * rpm + random.uniform(-0.7, 0.7)
    return LightReading(rpm, commanded_deg, round(2.0 * float(seen)) / 2.0)
