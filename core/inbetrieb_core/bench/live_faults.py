"""What can be wrong with the engine of a live session, beside what a start can have."""

from __future__ import annotations

from dataclasses import replace

from .faults import FAULTS, FaultKind

NEVER_FILLS = 1e9


#: Key to kind: those of a start, and those that only show while somebody watches.
LIVE_FAULTS: dict[str, FaultKind] = {
    **FAULTS,
    **{
        kind.key: kind
        for kind in (
            FaultKind(
                "no_oil_pressure", "The oil pump does not draw", "turns until it does", NEVER_FILLS, 1.0, NEVER_FILLS,
                lambda t, s: replace(t, oil_fills_turns=s),
            ),
            FaultKind(
                "low_oil_pressure", "Oil pressure low", "kPa at most", 60.0, 5.0, 400.0,
                lambda t, s: replace(t, oil_relief_kpa=s),
            ),
            FaultKind(
                "charging", "Alternator wrong", "V it charges with", 16.2, 10.0, 18.0,
                lambda t, s: replace(t, charging_v=s),
            ),
            FaultKind(
                "leak_down", "Fuel pressure leaks away at rest", "s until two thirds are gone", 40.0, 2.0, 3600.0,
                lambda t, s: replace(t, rail_leak_s=s),
            ),
            FaultKind(
                "base_timing", "Base timing off", "° early, below 0 late", -8.0, -30.0, 30.0,
                lambda t, s: replace(t, timing_offset_deg=s),
            ),
            FaultKind(
                "bogus_wideband", "Wideband sends one value whatever burns", "lambda", 1.0, 0.5, 2.0,
                lambda t, s: replace(t, stuck_lambda=s),
            ),
            FaultKind(
                "sticking_return", "Throttle comes back to another place each time", "% apart", 1.5, 0.1, 10.0,
                lambda t, s: replace(t, return_spread_pct=s),
            ),
            FaultKind(
                "map_sensor", "Manifold pressure sensor reads low", "kPa too low", 5.0, -30.0, 30.0,
                lambda t, s: replace(t, map_reads_low_kpa=s),
            ),
            FaultKind(
                "air_leak", "Air past the throttle", "g/s at standard conditions", 1.5, 0.0, 20.0,
                lambda t, s: replace(t, leak_gps=s),
            ),
            FaultKind(
                "port_leak", "Air at the port of one cylinder", "g/s at standard conditions", 0.4, 0.0, 5.0,
                lambda t, s: replace(t, port_leak_gps=s),
            ),
        )
    },
}  # fmt: skip
