"""Proposing which column is which channel, and why; nothing is dropped in silence."""

from __future__ import annotations

import functools
import re
from collections.abc import Mapping, Sequence
from dataclasses import replace

from ..delimited import LONGEST_CELL, name_and_unit
from ..errors import FieldProblem, InputRefused
from ..quantities import (
    linear_conversion,
    normalise_unit,
    recognise_unit,
)
from .column_units import MAYBE_CELSIUS, use_as
from .columns import Column, ColumnUse
from .names import CHANNELS, ChannelName
from .roles import COMMANDED, TARGET_OF, Role, role_of, speaks_of_idle, split_grown
from .words import OTHER_MEANING, normalise_name

_IMPERIAL = {"°F", "psi", "mph"}


_SPELLINGS = frozenset(spelling for channel in CHANNELS.values() for spelling in channel.spellings)
_AIR_FUEL = re.compile(r"(?i)\ba\s*/\s*f$")


def split_unit(header: str) -> tuple[str, str]:
    """Return (name, unit) of a column head such as ``Coolant [°F]`` or ``CLT_F``."""
    header = header[:LONGEST_CELL].strip().strip('"').strip()
    labelled = name_and_unit(header)
    if labelled is not None and labelled[0]:
        return labelled
    for separator in ("|", ";", ", ", " - ", "_", " ", "/"):
        name, found, unit = header.rpartition(separator)
        if separator == "/" and _AIR_FUEL.search(header):
            continue  # "A/F" is no unit F
        if found and name.strip() and recognise_unit(unit) is not None and not unit.isdigit():
            return name.strip(), unit.strip()
    return header, ""


def propose(columns: Sequence[Column]) -> tuple[ColumnUse, ...]:
    """Return the use of every column, each with its reason.

    Parameters
    ----------
    columns : sequence of Column
        All columns of the file in order.

    Returns
    -------
    tuple of ColumnUse
        One per column; no channel is used twice.
    """
    scored = [(score, n, CHANNELS[name], why) for score, n, name, why in candidates(columns)]
    taken: dict[str, Column] = {}
    uses: dict[int, ColumnUse] = {}
    by_number = {column.number: column for column in columns}
    for _, number, channel, why in scored:
        if number in uses:
            continue
        column = by_number[number]
        if channel.channel in taken:
            continue
        uses[number] = use_as(column, channel, why)
        taken[channel.channel] = column
    wanted = {number: channel for _, number, channel, _ in reversed(scored)}
    result = tuple(
        uses.get(column.number) or _ignored(column, wanted.get(column.number), taken)
        for column in columns
    )
    return _consistent(result)


def candidates(columns: Sequence[Column]) -> list[tuple[float, int, str, str]]:
    """Return (score, number of the column, channel, why) of every possible reading, best first."""
    scored = []
    for column in columns:
        for name, channel in CHANNELS.items():
            score, why = _score(column, channel)
            if score > 0.0:
                scored.append((score, column.number, name, why))
    return sorted(scored, key=lambda entry: (-entry[0], entry[1]))


def _consistent(uses: tuple[ColumnUse, ...]) -> tuple[ColumnUse, ...]:
    """Return uses in which unnamed temperatures follow a log that is otherwise imperial."""
    if not any(use.unit in _IMPERIAL for use in uses):
        return uses
    factor, offset = linear_conversion("degF", "degC")
    return tuple(
        replace(
            use,
            factor=factor,
            offset=offset,
            unit="°F",
            reason=use.reason.replace(MAYBE_CELSIUS, "read as °F like the rest of this log"),
        )
        if MAYBE_CELSIUS in use.reason
        else use
        for use in uses
    )


def from_mapping(columns: Sequence[Column], mapping: Mapping[str, object]) -> tuple[ColumnUse, ...]:
    """Return the use of every column as a person decided it.

    Parameters
    ----------
    columns : sequence of Column
        All columns of the file.
    mapping : mapping of str to (str or mapping or None)
        Column head → channel, or {channel, unit}, or None to ignore it. Columns not named
        are read as proposed where their channel is still free.

    Raises
    ------
    InputRefused
        If a column or channel is unknown or a channel is used twice.
    """
    problems: list[FieldProblem] = []
    chosen: dict[int, ColumnUse] = {}
    used: dict[str, str] = {}
    for header, target in mapping.items():
        column = next((c for c in columns if c.header == header or c.name == header), None)
        if column is None:
            problems.append(FieldProblem("mapping", f"The file has no column '{header}'."))
            continue
        unit = ""
        if isinstance(target, Mapping):
            unit, target = str(target.get("unit") or ""), target.get("channel")
        if target in (None, "", "ignore"):
            chosen[column.number] = ColumnUse(column, None, "You chose to ignore it.", decided=True)
            continue
        channel = CHANNELS.get(str(target))
        if channel is None:
            problems.append(FieldProblem("mapping", f"There is no channel '{target}'."))
            continue
        if channel.channel in used:
            problems.append(
                FieldProblem(
                    "mapping",
                    f"'{header}' and '{used[channel.channel]}' cannot both be {channel.title.lower()}.",
                )
            )
            continue
        if unit and (recognise_unit(unit) or ("", ""))[0] != channel.dimension:
            problems.append(
                FieldProblem("mapping", f"'{unit}' is not a unit of {channel.title.lower()}.")
            )
            continue
        used[channel.channel] = header
        if unit:
            column = replace(column, unit=unit, chosen=True)
        chosen[column.number] = replace(use_as(column, channel, "You chose it"), decided=True)
    if problems:
        raise InputRefused(problems)
    result = []
    for use in propose(columns):
        if use.column.number in chosen:
            result.append(chosen[use.column.number])
        elif use.channel in used:
            result.append(
                ColumnUse(
                    use.column, None, f"You gave {use.channel} to '{used[use.channel or '']}'."
                )
            )
        else:
            result.append(use)
    return tuple(result)


def _score(column: Column, channel: ChannelName) -> tuple[float, str]:
    """Return how well a column fits a channel, and why; 0 where it does not."""
    if column.clock and channel.channel != "time_s":
        return 0.0, ""
    canonical = column.name.strip().lower(), column.header.strip().lower()
    unit = recognise_unit(column.unit) if column.unit else None
    fits = unit is None or not channel.dimension or _unit_fits(unit, column.unit, channel)
    whole = normalise_name(column.header)
    if not fits and whole not in channel.spellings:  # the end of "rev min" is no unit
        return 0.0, ""
    if channel.channel in canonical:
        return 4.0, "it has the canonical name"
    name = _quantity_text(column)
    for text in (name, whole):
        if text in channel.spellings:
            return 3.0 - 0.005 * channel.spellings.index(text), _usual(column.name)
    role, rest = stated_role(column)
    if role != "plain":
        return _score_of_role(column, channel, role, rest)
    return _score_of_words(column, channel, name.split(), unit is not None)


def stated_role(column: Column) -> tuple[Role, tuple[str, ...]]:
    """Return the role that the name of a column states, and the words of its quantity.

    See :func:`.roles.role_of`.
    """
    return _role_of(_quantity_text(column))


@functools.lru_cache(maxsize=4096)
def _role_of(name: str) -> tuple[Role, tuple[str, ...]]:
    return role_of(split_grown(name.split(), _SPELLINGS))


def _quantity_text(column: Column) -> str:
    """Return the words of a name; what looked like its unit stays where nothing else names it."""
    name = normalise_name(column.name)
    return name if _role_of(name)[1] else normalise_name(column.header)


def _score_of_role(
    column: Column, channel: ChannelName, role: Role, rest: tuple[str, ...]
) -> tuple[float, str]:
    """Return how well a column fits whose name says whether it was measured or asked for."""
    words = list(rest)
    if role == "target" and channel.channel == "idle_target_rpm":
        turns = _without_idle(words) if speaks_of_idle(words) else words
        speed = _score_of_words(column, CHANNELS["rpm"], turns, True)[0]
        bare = speaks_of_idle(words) and not _without_idle(words)
        if not (speed > 0.0 or bare):
            return 0.0, ""
        if speaks_of_idle(words):
            return 2.9, "its name holds a target of idle speed"
        return 2.0, "its name holds a target of engine speed, which is that of idle"
    asked_for = next((of for of, target in TARGET_OF.items() if target == channel.channel), None)
    if role == "target" and asked_for is not None:
        score, _ = _score_of_words(column, CHANNELS[asked_for], words, False)
        return (score and score + 0.5), "its name holds a target of the mixture"
    if role == "target" and channel.channel not in COMMANDED:
        return 0.0, ""
    if role == "measured" and not words:
        return 0.0, ""  # "act" alone names nothing
    score, why = _score_of_words(column, channel, words, False)
    # What was measured goes before what was asked for, and both before a name that says neither.
    return (score and score + (0.4 if role == "measured" else 0.1)), why


def _without_idle(words: list[str]) -> list[str]:
    """Return the words of a name without those of idle; an idle speed is one of the engine."""
    return ["rpm" if word == "speed" else word for word in words if not speaks_of_idle([word])]


def _usual(name: str) -> str:
    return f"'{name}' is a usual name of it"


def _score_of_words(
    column: Column, channel: ChannelName, words: Sequence[str], unit_known: bool
) -> tuple[float, str]:
    """Return how well words fit the spellings of a channel, and why."""
    text = " ".join(words)
    if text in channel.spellings:
        return 2.5 - 0.005 * channel.spellings.index(text), _usual(column.name)
    best, why, known = 0.0, "", set(words)
    for spelling in channel.spellings:
        parts = _parts(spelling)
        if len(spelling) < 3 or not known.issuperset(parts) or not _contains(words, parts):
            continue
        rest = [word for word in words if word not in parts]
        if any(word in OTHER_MEANING for word in rest):
            continue
        score = 1.0 + len(parts) * 0.3 - 0.15 * len(rest)
        if score > best:
            best, why = score, f"its name holds '{spelling}'"
    if best > 0.0 and unit_known:
        best += 0.3
    # Nothing but a shaft turns so many times a minute; a limit or an error would say so.
    by_unit = channel.channel == "rpm" and _turns_by_unit(column)
    if best <= 0.0 and by_unit and not any(_means_else(word) for word in words):
        return 0.5, f"its unit {column.unit} is that of a shaft's speed"
    return max(0.0, best), why


@functools.cache
def _parts(spelling: str) -> tuple[str, ...]:
    return tuple(spelling.split())


def _means_else(word: str) -> bool:
    """Say whether a word, or what it has grown together with, makes a name mean something else."""
    return word in OTHER_MEANING or word.endswith(("grenze", "limit", "begrenzung", "fehler"))


def _turns_by_unit(column: Column) -> bool:
    unit = recognise_unit(column.unit) if column.unit else None
    return unit is not None and unit[0] == "speed_of_rotation"


def _unit_fits(unit: tuple[str, str], text: str, channel: ChannelName) -> bool:
    if unit[0] == channel.dimension:
        return True
    # "F", "C" or "%" are told by the name; a bare ":1" or "-" says nothing for a mixture.
    return channel.dimension == "mixture" and normalise_unit(text) in ("-", "1", ":1", "ratio", "%")


def _contains(words: Sequence[str], parts: Sequence[str]) -> bool:
    size = len(parts)
    return any(list(words[i : i + size]) == list(parts) for i in range(len(words) - size + 1))


def _ignored(column: Column, channel: ChannelName | None, taken: Mapping[str, Column]) -> ColumnUse:
    if channel is not None and channel.channel in taken:
        other = taken[channel.channel]
        same = " of the same name" if other.header == column.header else ""
        return ColumnUse(
            column, None, f"{channel.title} is already read from column {other.number + 1}{same}."
        )
    role, rest = stated_role(column)
    if role == "target":
        return ColumnUse(
            column, None, "Its name says that it was asked for, not measured; it is not read."
        )
    if role == "measured" and not rest:
        return ColumnUse(column, None, "Its name does not say what was measured.")
    return ColumnUse(column, None, "No channel of that name is known.")
