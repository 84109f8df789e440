"""What is noticed about a start, and which of it comes before any table."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from ..sentences import celsius
from .acceptance import (
    DIP_BELOW_TARGET_RPM,
    FLARE_ABOVE_TARGET_RPM,
    LAMBDA_BAND,
    SETTLED_BAND_RPM,
    SETTLED_BY_S,
    WARM_C,
    slow_crank_rpm,
)
from .case import Case
from .model import STARTED, Finding, Level

LATE_S = 0.8
#: A warm mixture this far off is supply or injector data, not a table (common practice).
_DATA_WRONG = 0.20
_RESTED_LOW_V = 12.0
_VALVE_LOW_PCT, _VALVE_HIGH_PCT = 2.0, 97.0


@dataclass(frozen=True)
class Check:
    """What to do about a blocking finding, as advice without a table.

    Attributes
    ----------
    finding : str
        Key of the finding.
    sign : str
        When it is found, in words.
    do : str
        The next action on the engine.
    confidence : float
        How sure. [–]
    disproof : str
        What would prove it wrong.
    """

    finding: str
    sign: str
    do: str
    confidence: float
    disproof: str


CHECKS: dict[str, Check] = {
    check.finding: check
    for check in (
        Check(
            "no-crank",
            "the engine never turned",
            "Find out why the starter does not turn the engine: battery, cables, "
            "starter relay, interlock.",
            0.95,
            "It cranks with a known good battery.",
        ),
        Check(
            "slow-crank",
            f"cranked below 110 rpm warm, 70 rpm at {celsius(-20)}",
            "Charge or replace the battery and check the starter's cables before any table.",
            0.9,
            "It cranks as slowly with a charged battery: then oil or starter.",
        ),
        Check(
            "low-battery",
            "below 12.0 V at rest, or below 8.5 V (7.3 V in frost) while cranking",
            "Charge the battery, then repeat this start unchanged: injectors and "
            "pump were short of voltage.",
            0.8,
            "The same start with a full battery is no better.",
        ),
        Check(
            "no-sync",
            "the position of the crankshaft was never known",
            "Look at the crank and cam signals while cranking: without position there "
            "is no spark and no injection.",
            0.95,
            "The signals are clean and regular.",
        ),
        Check(
            "late-sync",
            "position known only after 0.8 s of cranking",
            "Mend the crank signal first (gap, polarity, filter, wheel setting): the "
            "time before it is known is not a fuel matter.",
            0.85,
            "Position is known at once and it still fires late.",
        ),
        Check(
            "late-pressure",
            "less than 85 % of the fuel pressure in the first second, and later than 0.8 s",
            "Lengthen the pump's prime or mend pump and check valve, then repeat "
            "this start unchanged.",
            0.85,
            "With full pressure from the first turn it still fires late.",
        ),
        Check(
            "idle-valve-limit",
            "the idle valve at its end and speed still off its target",
            "Adjust the throttle stop (warm) until the valve works in its "
            "useful range: a valve at its end is a mechanical job, not a table job.",
            0.85,
            "The valve moves away from its end and speed does not follow.",
        ),
        Check(
            "injector-data",
            "the mixture off by more than a start table explains",
            "Check injector flow, fuel pressure and dead time as entered before "
            "any table: the mixture is off by an amount no start table explains.",
            0.8,
            "Flow, pressure and dead time are verified and the mixture is still off.",
        ),
    )
}


def find(case: Case) -> tuple[Finding, ...]:
    """Return everything noticed about a start, blocking findings first."""
    order: dict[Level, int] = {"blocking": 0, "attention": 1, "note": 2}
    found = [*_before_tables(case), *_about_the_run(case), *_about_the_evidence(case)]
    return tuple(sorted(found, key=lambda finding: order[finding.level]))


def _before_tables(case: Case) -> Iterator[Finding]:
    """Yield causes under the bonnet. They block only if the start was not good."""
    f = case.figures
    serious: Level = "attention" if case.good else "blocking"
    if case.verdict == "no crank":
        yield Finding("no-crank", "blocking", "The engine never turned.")
        return
    limit = slow_crank_rpm(f.coolant_c)
    if case.verdict == "slow crank" or (f.cranking_rpm is not None and f.cranking_rpm < limit):
        speed = "slowly" if f.cranking_rpm is None else f"at {f.cranking_rpm:.0f} rpm"
        yield Finding(
            "slow-crank", serious, f"It was cranked {speed}; at least {limit:.0f} rpm is needed."
        )
    low_limit = min(8.5, max(7.3, 8.5 + 0.05 * f.coolant_c))
    rest_low = f.battery_rest_v is not None and 5.0 < f.battery_rest_v < _RESTED_LOW_V
    crank_low = f.battery_low_v is not None and f.battery_low_v < low_limit
    if rest_low or crank_low:
        at_rest = f"{f.battery_rest_v:.1f} V at rest" if f.battery_rest_v is not None else ""
        cranking = f"{f.battery_low_v:.1f} V cranking" if f.battery_low_v is not None else ""
        seen = ", ".join(part for part in (at_rest, cranking) if part)
        yield Finding("low-battery", serious, f"The battery is low: {seen}.")
    if case.verdict == "no sync":
        yield Finding("no-sync", "blocking", "The crankshaft's position was never found.")
    elif f.sync_late_s is not None and f.sync_late_s > LATE_S:
        yield Finding(
            "late-sync",
            serious,
            f"The crankshaft's position was known only after {f.sync_late_s:.1f} s of cranking.",
        )
    weak = f.pressure_share is None or f.pressure_share < 0.85
    if weak and f.pressure_late_s is not None and f.pressure_late_s > LATE_S:
        share = (
            ""
            if f.pressure_share is None
            else (f" (on average {100 * f.pressure_share:.0f} % in the first second)")
        )
        yield Finding(
            "late-pressure",
            serious,
            f"Fuel pressure took {f.pressure_late_s:.1f} s of cranking to build{share}.",
        )
    yield from _valve_limit(case)
    yield from _injector_data(case)


def _valve_limit(case: Case) -> Iterator[Finding]:
    f, off = case.figures, case.steady_off_rpm
    if f.idle_valve_pct is None or off is None or case.gross_need is not None:
        return
    opened = f.idle_valve_pct >= _VALVE_HIGH_PCT and off < -SETTLED_BAND_RPM
    closed = f.idle_valve_pct <= _VALVE_LOW_PCT and off > SETTLED_BAND_RPM
    if opened or closed:
        yield Finding(
            "idle-valve-limit",
            "blocking",
            f"The idle valve stands at {f.idle_valve_pct:.0f} % and speed is still "
            f"{abs(off):.0f} rpm {'below' if opened else 'above'} its target.",
        )


def _injector_data(case: Case) -> Iterator[Finding]:
    f = case.figures
    need = f.need_settled
    if need is None:
        return
    warm_up = case.steady_value("warm_up_enrichment")
    warm = f.coolant_c >= WARM_C
    off = abs(need - 1.0) > _DATA_WRONG and 97.0 <= warm_up <= 103.0
    no_enrichment_left = 99.0 <= warm_up < 130.0 and warm_up * need < 82.0
    if (warm and off) or (not warm and no_enrichment_left):
        yield Finding(
            "injector-data",
            "blocking",
            f"The mixture is {abs(100 * (need - 1)):.0f} % too {'lean' if need > 1 else 'rich'} "
            + ("in the warm engine." if warm else "for any warm-up enrichment to explain."),
        )


def _about_the_run(case: Case) -> Iterator[Finding]:
    f = case.figures
    if f.flare_rpm is not None and f.flare_rpm > f.target_rpm + FLARE_ABOVE_TARGET_RPM:
        yield Finding(
            "flare-high",
            "attention",
            f"It flared to {f.flare_rpm:.0f} rpm, {f.flare_rpm - f.target_rpm:.0f} above the target.",
        )
    if f.dip_rpm is not None and f.dip_rpm < f.target_rpm - DIP_BELOW_TARGET_RPM:
        yield Finding("dip-low", "attention", f"It dipped to {f.dip_rpm:.0f} rpm after the start.")
    started = case.verdict in STARTED
    if started and f.settled_after_s is not None and f.settled_after_s > SETTLED_BY_S:
        yield Finding(
            "slow-to-settle", "attention", f"It took {f.settled_after_s:.0f} s to settle."
        )
    elif started and f.settled_after_s is None and f.steady_rpm is not None:
        yield Finding(
            "slow-to-settle", "attention", "It did not settle at its target within the log."
        )
    if f.hunting_rpm is not None and f.hunting_period_s is not None:
        yield Finding(
            "hunting",
            "attention",
            f"Speed hunts by ±{f.hunting_rpm:.0f} rpm every {f.hunting_period_s:.1f} s.",
        )
    for key, need, when in (
        ("after-start", f.need_after_start, "right after the start"),
        ("settled", f.need_settled, "once settled"),
    ):
        if need is not None and abs(need - 1.0) > LAMBDA_BAND:
            word = "lean" if need > 1 else "rich"
            yield Finding(
                f"{word}-{key}",
                "attention",
                f"The mixture was {abs(100 * (need - 1)):.0f} % too {word} {when}.",
            )
    yield from _stuck(case)
    failed = [entry for entry in case.earlier()[-2:] if entry.verdict == "no fire"]
    if case.verdict == "no fire" and len(failed) == 2:
        yield Finding(
            "flooded",
            "attention",
            "Three starts in a row without firing: the plugs may be wet. Dry them before the next.",
        )


def _stuck(case: Case) -> Iterator[Finding]:
    """Yield a doubt once several changes in a row have not made the engine start."""
    recent = case.earlier()[-4:]
    if case.verdict in STARTED or len(recent) < 4:
        return
    if all(entry.verdict not in STARTED for entry in recent):
        yield Finding(
            "nothing-helps",
            "attention",
            "Five starts in a row failed whatever was changed: check injector flow as entered, fuel "
            "pressure, spark and compression before going on.",
        )


def _about_the_evidence(case: Case) -> Iterator[Finding]:
    f, setting = case.figures, case.setting
    if setting.ambient_c is not None and f.coolant_c < 60.0:
        above = f.coolant_c - setting.ambient_c
        if abs(above) > 5.0:
            yield Finding(
                "not-soaked",
                "attention",
                f"Coolant was {above:+.0f} K from ambient: not a true cold start, it teaches "
                "this temperature only.",
            )
    if setting.soak_h is not None and setting.soak_h < 6.0 and f.coolant_c < 40.0:
        yield Finding(
            "short-soak",
            "note",
            f"Only {setting.soak_h:g} h since the engine last ran: some heat may be left in it.",
        )
    started = case.verdict in ("started", "started on the pedal", "started and died")
    if started and f.need_settled is None and f.need_after_start is None:
        yield Finding(
            "no-lambda",
            "note",
            "No usable lambda: the sensor was cold or not logged, so speed alone is judged.",
        )
    if started and case.verdict != "started and died" and f.steady_rpm is None:
        yield Finding(
            "idle-not-seen", "note", "The record ends too soon to judge whether idle settles."
        )
    if case.evidence == "observation":
        yield Finding(
            "observed", "note", "Judged from your observation; a log would make it surer."
        )
