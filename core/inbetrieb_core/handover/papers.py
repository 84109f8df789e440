"""Three papers from one set of facts: for the customer, for the shop, for the next calibrator."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass
from typing import Literal

from ..provenance import KINDS
from ..sentences import celsius
from .closing import CLOSING
from .facts import JobFacts
from .figures import ORIGIN_LETTERS, Figure, Line, Look, MapSheet, Picture, Plot
from .unproven import LIKELY, Unproven, unproven

PaperKey = Literal["customer", "shop", "calibrator"]
PAPERS: dict[PaperKey, str] = {
    "customer": "For the customer",
    "shop": "For the shop",
    "calibrator": "For the next calibrator",
}
#: What is drawn of a pull, where it has it: channel, title and unit.
PULLED = (
    ("torque_nm", "Torque", "N·m"), ("power_kw", "Power", "kW"), ("map_kpa", "Manifold pressure", "kPa"),
    ("duty_pct", "Injector duty", "%"),
)  # fmt: skip
_LOOKS: tuple[Look, ...] = ("line", "broken", "faint")
#: So many pulls and photographs stand in a paper; the others are named.
_MOST_PULLS, _MOST_PICTURES = 3, 24
_MONTHS = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")


@dataclass(frozen=True)
class Grid:
    """A table of a paper: heads and rows of text."""

    heads: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]


@dataclass(frozen=True)
class Section:
    """A section: title, paragraphs, then a table, figures and photographs where it has them."""

    title: str
    paragraphs: tuple[str, ...] = ()
    grid: Grid | None = None
    figure: Figure | None = None
    plots: tuple[Plot, ...] = ()
    maps: tuple[MapSheet, ...] = ()
    pictures: tuple[Picture, ...] = ()


@dataclass(frozen=True)
class Paper:
    """A paper.

    Attributes
    ----------
    key : {"customer", "shop", "calibrator"}
    title : str
    head : str
        What is said first, on page one.
    is_proven : bool
        Whether nothing serious is unproven.
    sections : tuple of Section
    unproven : tuple of Unproven
    """

    key: PaperKey
    title: str
    head: str
    is_proven: bool
    sections: tuple[Section, ...]
    unproven: tuple[Unproven, ...]


def paper(key: PaperKey, facts: JobFacts) -> Paper:
    """Return one of the papers of a job.

    Parameters
    ----------
    key : str
        Of :data:`PAPERS`.
    facts : JobFacts
    """
    missing = unproven(facts)
    serious = [one for one in missing if one.serious]
    sections = {"customer": _customer, "shop": _shop, "calibrator": _calibrator}[key](
        facts, missing
    )
    return Paper(
        key,
        f"{facts.name}: {PAPERS[key].lower()}",
        _head(facts, serious),
        not serious,
        sections,
        missing,
    )


def _head(facts: JobFacts, serious: list[Unproven]) -> str:
    proven = sum(c.coverage == "proven" for c in facts.chances)
    of = f"Cold starts are proven at {proven} of {len(facts.chances)} check temperatures."
    if not serious:
        return f"{of} Nothing serious is left open; what was not tried is listed."
    return f"This car is not proven: {len(serious)} serious point{'s are' if len(serious) > 1 else ' is'} open. {of}"


def _missing(missing: tuple[Unproven, ...], *, most: int | None = None) -> Section:
    shown = missing if most is None else missing[:most]
    rows = tuple((("Serious: " if one.serious else "") + one.what, one.proof) for one in shown)
    more = (
        ()
        if most is None or len(missing) <= most
        else (f"{len(missing) - most} more are in the paper for the shop.",)
    )
    return Section("What is not proven", more, Grid(("What", "What would prove it"), rows))


def _coverage(facts: JobFacts) -> Section:
    figure = Figure(
        tuple(celsius(c.coolant_c) for c in facts.chances), tuple(round(c.good, 3) for c in facts.chances),
        tuple(c.coverage for c in facts.chances),
    )  # fmt: skip
    return Section(
        "Starting, by temperature", (_year(facts),), None, figure if facts.chances else None
    )


def _came_back(facts: JobFacts) -> tuple[Section, ...]:
    """Return what stands of a record since the job came back; nothing where it never did."""
    if facts.reopening is None:
        return ()
    told = tuple(f"{one.day}, {one.by}: {one.what}. {one.reason}" for one in facts.reopened)
    kept = ", ".join(facts.reopening.kept) or "nothing"
    rows = tuple(
        (one.what, one.because, "proven again" if one.again else one.proof)
        for one in facts.reopening.fallen
    )
    return (
        Section("Come back", (*told, f"Kept: {kept}."), Grid(("What fell", "With", "Since"), rows)),
    )


def _year(facts: JobFacts) -> str:
    """Return how much of a year is covered, by the typed minima."""
    if len(facts.monthly_c) != len(_MONTHS) or not facts.chances:
        return "How much of a year that is: not told, the minima of the months were not typed (mornings, station 9)."
    good = []
    for month, low in zip(_MONTHS, facts.monthly_c, strict=True):
        nearest = min(facts.chances, key=lambda c: abs(c.coolant_c - low))
        if nearest.coverage == "proven" or nearest.good >= LIKELY:
            good.append(month)
    if len(good) == len(_MONTHS):
        return "By the minima of this place its cold mornings of all twelve months are proven or likely."
    open_months = [m for m in _MONTHS if m not in good]
    return f"By the minima of this place the cold mornings of {len(good)} of 12 months are proven or likely; open: {', '.join(open_months)}."


def _customer(facts: JobFacts, missing: tuple[Unproven, ...]) -> tuple[Section, ...]:
    done = {one.key: one for one in facts.closing}
    told = done.get("spare")
    service = done.get("service")
    return (
        Section(
            "Your car",
            (
                f"{facts.engine}. Fuel: {facts.fuel}. Controller: {facts.controller}.",
                f"Calibrated by {facts.workshop} at {facts.altitude_m:.0f} m.",
            ),
        ),  # fmt: skip
        _coverage(facts),
        Section(
            "What you should know",
            (
                "Turn the key, wait until the pump is silent, then start with the foot off the pedal unless you were told otherwise.",
                told.note
                if told and told.note
                else "What to do when it will not start was not written down yet: ask before you drive off.",
                service.note
                if service and service.note
                else "The next service was not agreed yet.",
                *(f"Limit: {limit}." for limit in facts.limits),
                "Stop, switch off and call the shop at a smell of fuel, knocking, a red lamp, or when the engine "
                "runs on by itself. Never run it in a closed room, and keep hands and clothes off fans and belts.",
                "Starting fluid and a foot on the pedal are no cure: they hide what should be told.",
            ),
        ),  # fmt: skip
        _missing(tuple(one for one in missing if one.serious) or missing[:6], most=12),
    )


def _shop(facts: JobFacts, missing: tuple[Unproven, ...]) -> tuple[Section, ...]:
    starts = tuple(
        (str(s.number), s.day, celsius(s.coolant_c), s.verdict, s.sentence) for s in facts.starts
    )
    return (
        _missing(missing),
        Section(
            "The engine",
            (
                f"{facts.engine}. Fuel: {facts.fuel}. Controller: {facts.controller}. {facts.altitude_m:.0f} m.",
                facts.note,
            ),
        ),  # fmt: skip
        *_came_back(facts),
        _origins(facts),
        _coverage(facts),
        Section(
            "Gates",
            (),
            Grid(
                ("Gate", "State", "What it says"),
                tuple((g.title, "open" if g.is_open else "waits", g.sentence) for g in facts.gates),
            ),
        ),  # fmt: skip
        Section(
            "Starts",
            (f"{len(facts.starts)} starts, {sum(s.good for s in facts.starts)} good.",),
            Grid(("No.", "Day", "Coolant", "Verdict", "What was said"), starts),
            plots=_traces(facts),
        ),  # fmt: skip
        Section(
            "Pulls",
            (f"{len(facts.pulls)} pulls.",),
            Grid(
                ("No.", "Day", "Driven with", "Power", "Stop"),
                tuple(
                    (
                        str(p.number),
                        p.day,
                        p.words,
                        "" if p.power_kw is None else f"{p.power_kw:.0f} kW",
                        p.stop,
                    )
                    for p in facts.pulls
                ),
            ),
            plots=_pulled(facts),
        ),  # fmt: skip
        Section("Faults found", facts.faults or ("None was found.",)),
        Section(
            "Decisions and written reasons",
            (),
            Grid(
                ("Where", "What", "By", "Day", "Reason"),
                tuple(
                    (d.where, d.what, d.by, d.day, d.reason)
                    for d in (*facts.decisions, *facts.skipped)
                ),
            ),
        ),  # fmt: skip
        _revisions(facts),
        Section(
            "Wiring as built",
            (),
            Grid(("Function", "Pin", "Wire"), facts.wiring),
        ),  # fmt: skip
        _closing(facts),
        _photographs(facts),
    )


def _revisions(facts: JobFacts) -> Section:
    rows = tuple((str(r.number), r.day, r.by, r.origin, r.changed, r.note) for r in facts.revisions)
    return Section("Revisions", (), Grid(("No.", "Day", "By", "How", "Changed", "Note"), rows))


def _calibrator(facts: JobFacts, missing: tuple[Unproven, ...]) -> tuple[Section, ...]:
    rows = tuple(
        (t.title, t.unit, *(str(t.cells.get(kind, 0)) for kind in KINDS), t.assumed) for t in facts.tables
    )  # fmt: skip
    return (
        Section(
            "Where to go on",
            (
                f"Newest revision {facts.revision}; in the car: {'not stamped' if facts.in_car is None else facts.in_car}.",
                facts.idle or "The warm idle was not looked at.",
                f"{facts.passes} passes over the fuel map, {facts.passes_taken} taken.",
            ),
        ),  # fmt: skip
        _missing(missing),
        Section(
            "Tables and the origin of their cells",
            (),
            Grid(
                ("Table", "Unit", *(kind.replace("_", " ") for kind in KINDS), "Assumed at"), rows
            ),
        ),
        _coverage(facts),
        _revisions(facts),
        Section("Limits of full load", facts.limits or ("None was entered.",)),
        Section(
            "Start tables, and what is believed of the needs",
            (
                "In force as a line; the broken lines hold what the engine needs with 90 %. Where starts "
                "have taught nothing the band is the engine data's.",
            ),
            plots=_ladder(facts),
        ),
        Section("Pulls", () if facts.pulls else ("None was recorded.",), plots=_pulled(facts)),
        Section(
            "The tables as they stand",
            (
                "Letters say where a value comes from: "
                + ", ".join(f"{ORIGIN_LETTERS[kind]} {kind.replace('_', ' ')}" for kind in KINDS)
                + ".",
            ),
            maps=facts.maps,
        ),
    )


def _traces(facts: JobFacts) -> tuple[Plot, ...]:
    """Return how speed rose at the starts that are drawn."""
    return tuple(
        Plot(
            f"Trial {one.number}, {one.day}, {celsius(one.coolant_c)}: {one.verdict}",
            "Time",
            "s",
            "Speed",
            "rpm",
            (Line("", one.time_s, one.rpm),),
        )
        for one in facts.traces
    )


def _pulled(facts: JobFacts) -> tuple[Plot, ...]:
    """Return torque, power, pressure and injector duty of the newest pulls, for what they have of them."""
    newest = [one for one in facts.pulls if one.rpm][-_MOST_PULLS:]
    found = []
    for name, title, unit in PULLED:
        lines = tuple(
            Line(f"Pull {one.number}", one.rpm, one.values[name], _LOOKS[place % len(_LOOKS)])
            for place, one in enumerate(reversed(newest))
            if name in one.values
        )
        if lines:
            found.append(Plot(title, "Engine speed", "rpm", "", unit, lines))
    return tuple(found)


def _ladder(facts: JobFacts) -> tuple[Plot, ...]:
    """Return each start table in force with the band of what is needed."""
    return tuple(
        Plot(
            one.title,
            "Coolant",
            "°C",
            "",
            one.unit,
            (
                Line("in force", one.at_c, one.now),
                Line("needed, 90 %", one.at_c, one.low, "broken"),
                Line("", one.at_c, one.high, "broken"),
            ),
        )
        for one in facts.ladder
    )


def _photographs(facts: JobFacts) -> Section:
    shown = facts.pictures[:_MOST_PICTURES]
    rest = len(facts.pictures) - len(shown)
    more = (f"{rest} more are kept with the job.",) if rest else ()
    return Section("Photographs", more if shown else ("None is kept.",), pictures=shown)


def _origins(facts: JobFacts) -> Section:
    total: Counter[str] = Counter()
    for table in facts.tables:
        total.update(table.cells)
    whole = max(1, sum(total.values()))
    shares = ", ".join(
        f"{100 * total[kind] / whole:.0f} % {kind.replace('_', ' ')}"
        for kind in KINDS
        if total[kind]
    )
    assumed = tuple(
        (t.title, str(t.cells["assumed"]), t.assumed)
        for t in facts.tables
        if t.cells.get("assumed")
    )
    return Section(
        "Where the numbers come from",
        (f"Of {whole} cells: {shares}.",),
        Grid(("Table", "Assumed cells", "Where"), assumed),
    )


def _closing(facts: JobFacts) -> Section:
    done = {one.key: one for one in facts.closing}
    rows = []
    for check in CLOSING:
        one = done.get(check.key)
        rows.append(
            (
                check.title,
                "not done" if one is None else f"{one.by}, {one.day}",
                "" if one is None else one.note,
            )
        )
    return Section("Closing checks", (), Grid(("Check", "Done", "Found"), tuple(rows)))
