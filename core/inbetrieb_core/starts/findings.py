"""What is noticed about a start, and which of it comes before any table."""

from __future__ import annotations

import math
from collections.abc import Iterator

from ..causes import TABLES, Diagnosis
from ..sentences import celsius, quantity
from .acceptance import (
    DIP_BELOW_TARGET_RPM,
    FLARE_ABOVE_TARGET_RPM,
    LAMBDA_BAND,
    POINT_WORDS,
    SETTLED_BY_S,
)
from .case import Case
from .model import Finding, Level
from .outcomes import RAN, STARTED
from .steady_readings import idling, wider_in_ordinary_air

#: From this probability on a cause that does not lead is told, too.
_TOLD_FROM = 0.12
#: Standing less than this leaves heat in an engine, unless it is a warm restart anyway. [h, °C]
_SOAKED_H, _RESTART_C = 6.0, 40.0
#: By how much fuel is richer or leaner than in ordinary air, or an idle valve wider, before that is told. [ln]
_THINNER_TOLD, _WIDER_TOLD = 0.03, 0.03


def find(case: Case, diagnosis: Diagnosis) -> tuple[Finding, ...]:
    """Return everything noticed about a start, blocking findings first."""
    order: dict[Level, int] = {"blocking": 0, "attention": 1, "note": 2}
    found = [
        *_about_the_causes(case, diagnosis),
        *_about_the_run(case),
        *_about_acceptance(case),
        *_about_the_evidence(case),
    ]
    return tuple(sorted(found, key=lambda finding: order[finding.level]))


def _about_the_causes(case: Case, diagnosis: Diagnosis) -> Iterator[Finding]:
    """Yield causes under the bonnet. They block only if the start was not good."""
    for entry in diagnosis.ranked:
        if entry.key == TABLES or not entry.evidence:
            continue
        leads = entry.key == diagnosis.leading and not case.acceptance.accepted
        # The others stand beside it, ranked; of an accepted start nothing else tells them.
        if not leads and not (case.acceptance.accepted and entry.probability > _TOLD_FROM):
            continue
        level: Level = "blocking" if leads else "attention"
        yield Finding(entry.key, level, entry.evidence[0])


def _about_acceptance(case: Case) -> Iterator[Finding]:
    """Yield what to do so that a start that nothing speaks against can be proven."""
    acceptance = case.acceptance
    if acceptance.failed or case.verdict != "started" or not acceptance.unseen:
        return
    listed = " and ".join(POINT_WORDS[point] for point in acceptance.unseen)
    yield Finding(
        "not-proven",
        "attention",
        f"To prove it, {listed} has to be seen: log the start and a minute of idle with the wideband, "
        "the pedal at rest.",
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
    if case.observed.cranked_anew:
        times = "once" if case.observed.cranked_anew == 1 else f"{case.observed.cranked_anew} times"
        yield Finding(
            "cranked-anew",
            "attention",
            f"It ran, then fell so low that the controller gave cranking fuel again, {times}: after-start "
            "enrichment begins anew each time.",
        )
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


def stood_long_enough(coolant_c: float, soak_h: float | None) -> bool:
    """Return whether a start is the one its coolant says: a cold engine may still have heat in it.

    Parameters
    ----------
    coolant_c : float
        [°C]
    soak_h : float or None
        Since the engine last ran; None is not told, and speaks neither for nor against it. [h]
    """
    return soak_h is None or soak_h >= _SOAKED_H or coolant_c >= _RESTART_C


def _about_the_air_of_an_idle(case: Case) -> Iterator[Finding]:
    """Yield what other than ordinary air did to the last reading of idle air."""
    read = list(idling(case))[-1:]
    for stretch, valve, _ in read:
        wider = wider_in_ordinary_air(case.setting.spec, stretch, valve)
        if stretch.intake_c is None or abs(wider) <= _WIDER_TOLD:
            continue
        air, more, way = ("cold", "more", "wider") if wider > 0.0 else ("warm", "less", "narrower")
        yield Finding(
            "idle-in-other-air",
            "note",
            f"It idled in {air} air ({celsius(stretch.intake_c)} at {celsius(stretch.coolant_c)} coolant), "
            f"of which the idle valve passes {more}: what it needs in ordinary air is reckoned "
            f"{quantity(100.0 * abs(math.expm1(wider)), '%', 0)} {way} than it stood.",
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
    if not stood_long_enough(f.coolant_c, setting.soak_h):
        yield Finding(
            "short-soak",
            "note",
            f"Only {setting.soak_h:g} h since the engine last ran: some heat may be left in it.",
        )
    thinner = case.thinner
    if f.intake_c is not None and abs(thinner) > _THINNER_TOLD:
        warm, as_much = ("warm", "richer") if thinner > 0.0 else ("cold", "leaner")
        yield Finding(
            "air-not-ordinary",
            "note",
            f"Intake air was {warm} for this coolant ({celsius(f.intake_c)}): the same cranking fuel was "
            f"{quantity(100.0 * abs(math.expm1(thinner)), '%', 0)} {as_much} than it is in ordinary air, and is "
            "reckoned so.",
        )
    yield from _about_the_air_of_an_idle(case)
    started = case.verdict in RAN
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
