"""Proposing which column is which channel, and why; nothing is dropped in silence."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..errors import FieldProblem, InputRefused
from ..quantities import (
    FloatArray,
    linear_conversion,
    normalise_unit,
    recognise_unit,
    written_unit,
)
from ..trade import PETROL_GAUGE_AFR
from .names import CHANNELS, OTHER_MEANING, ChannelName, normalise_name
from .roles import COMMANDED, TARGET_OF, Role, role_of, speaks_of_idle, split_grown

_IMPERIAL = {"°F", "psi", "mph"}
_MAYBE_CELSIUS = "read as °C; say so if it is °F"


@dataclass(frozen=True)
class Column:
    """A column of a file.

    Attributes
    ----------
    number : int
        Position, from 0.
    header : str
        Text of the head as written.
    name : str
        Head without its unit.
    unit : str
        Unit text from the head or a units row; may be empty.
    sample : ndarray
        Some finite values, for judging units by their size.
    clock : bool
        Whether the cells are clock times such as 10:32:07.5.
    chosen : bool
        Whether a person chose the unit.
    """

    number: int
    header: str
    name: str
    unit: str
    sample: FloatArray
    clock: bool = False
    chosen: bool = False


@dataclass(frozen=True)
class ColumnUse:
    """What becomes of a column.

    Attributes
    ----------
    column : Column
        The column.
    channel : str or None
        Canonical channel; None if it is ignored.
    factor, offset : float
        Canonical value = cell · factor + offset.
    inverse : bool
        Whether the cell is a fuel–air equivalence ratio, so that lambda is its inverse.
    unit : str
        Unit in which the cells are read, as people write it; empty for none.
    reason : str
        Why it is read so, or why it is ignored.
    decided : bool
        Whether a person said so.
    """

    column: Column
    channel: str | None
    reason: str
    factor: float = 1.0
    offset: float = 0.0
    inverse: bool = False
    unit: str = ""
    decided: bool = False


_SPELLINGS = frozenset(spelling for channel in CHANNELS.values() for spelling in channel.spellings)
_AIR_FUEL = re.compile(r"(?i)\ba\s*/\s*f$")
_BRACKETED = re.compile(r"^(.*?)\s*[\[({]([^\])}]*)[\])}]\s*$")


def split_unit(header: str) -> tuple[str, str]:
    """Return (name, unit) of a column head such as ``Coolant [°F]`` or ``CLT_F``."""
    header = header.strip().strip('"').strip()
    match = _BRACKETED.match(header)
    if match and match.group(1).strip():
        return match.group(1).strip(), match.group(2).strip()
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
            reason=use.reason.replace(_MAYBE_CELSIUS, "read as °F like the rest of this log"),
        )
        if _MAYBE_CELSIUS in use.reason
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
    name = _quantity_text(column, whole)
    for text in (name, whole):
        if text in channel.spellings:
            return 3.0 - 0.005 * channel.spellings.index(text), _usual(column.name)
    role, rest = role_of(split_grown(name.split(), _SPELLINGS))
    if role != "plain":
        return _score_of_role(column, channel, role, rest)
    return _score_of_words(column, channel, name.split(), unit is not None)


def _quantity_text(column: Column, whole: str) -> str:
    """Return the words of a name; what looked like its unit stays where nothing else names it."""
    name = normalise_name(column.name)
    return name if role_of(split_grown(name.split(), _SPELLINGS))[1] else whole


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
    best, why = 0.0, ""
    for spelling in channel.spellings:
        parts = spelling.split()
        if len(spelling) < 3 or not _contains(words, parts):
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
    name = _quantity_text(column, normalise_name(column.header))
    role, rest = role_of(split_grown(name.split(), _SPELLINGS))
    if role == "target":
        return ColumnUse(
            column, None, "Its name says that it was asked for, not measured; it is not read."
        )
    if role == "measured" and not rest:
        return ColumnUse(column, None, "Its name does not say what was measured.")
    return ColumnUse(column, None, "No channel of that name is known.")


def use_as(column: Column, channel: ChannelName, why: str = "") -> ColumnUse:
    """Return how a column is read as a channel, its unit stated or judged by its values."""
    if not channel.dimension:
        return ColumnUse(column, channel.channel, f"{channel.title}: {why}.")
    if column.clock:
        return ColumnUse(column, channel.channel, f"{channel.title}: {why}; clock times read.")
    unit, reason = _unit_of(column, channel)
    if channel.dimension == "mixture":
        return replace(
            _mixture_use(column, channel, unit, f"{channel.title}: {why}; {reason}."),
            unit=written_unit(unit),
        )
    factor, offset = linear_conversion(unit, channel.unit)
    if channel.channel == "lambda_correction_pct":
        base, note = _correction_base(column)
        offset, reason = offset - base, reason + note
    text = f"{channel.title}: {why}; {reason}."
    return ColumnUse(column, channel.channel, text, factor, offset, unit=written_unit(unit))


def _mixture_use(column: Column, channel: ChannelName, unit: str, reason: str) -> ColumnUse:
    if unit == "air_fuel_ratio":
        return ColumnUse(column, channel.channel, reason, factor=1.0 / PETROL_GAUGE_AFR)
    return ColumnUse(column, channel.channel, reason, inverse=unit == "equivalence_ratio")


def _unit_of(column: Column, channel: ChannelName) -> tuple[str, str]:
    """Return the unit of a column, stated or judged by the size of its values, and why."""
    stated = recognise_unit(column.unit) if column.unit else None
    if stated is not None and stated[0] == channel.dimension:
        if channel.dimension == "mixture" and not column.chosen:
            return _check_mixture(column, stated[1])
        how = "chosen" if column.chosen else "stated"
        return stated[1], f"unit {column.unit.strip()} {how}"
    guess = _GUESSES.get(channel.dimension)
    if guess is None or not column.sample.size:
        return channel.unit, "no unit stated, read in the usual one"
    unit, reason = guess(column, channel)
    return unit, f"no unit stated, {reason}"


def _check_mixture(column: Column, unit: str) -> tuple[str, str]:
    """Return the mixture unit, corrected where the values cannot be what the head says."""
    middle = float(np.median(column.sample)) if column.sample.size else 1.0
    if unit == "lambda" and middle > 4.0:
        return "air_fuel_ratio", "named lambda but the size of an air–fuel ratio; 14.7 taken as 1"
    if unit == "air_fuel_ratio" and middle < 3.0:
        return "lambda", "named air–fuel ratio but the size of lambda"
    if unit == "air_fuel_ratio":
        return unit, "air–fuel ratio on the petrol scale, 14.7 taken as lambda 1"
    return unit, f"unit {column.unit.strip()} stated"


def _guess_mixture(column: Column, channel: ChannelName) -> tuple[str, str]:
    middle = float(np.median(column.sample))
    if middle > 4.0:
        return "air_fuel_ratio", "the size of an air–fuel ratio; 14.7 taken as lambda 1"
    if any(
        word in normalise_name(column.name).split()
        for word in ("phi", "equivalence", "eq", "richesse")
    ):
        return "equivalence_ratio", "named as an equivalence ratio"
    return "lambda", "the size of lambda"


def _guess_temperature(column: Column, channel: ChannelName) -> tuple[str, str]:
    low, high = float(np.min(column.sample)), float(np.max(column.sample))
    if low > 200.0 and high < 420.0:
        return "kelvin", f"values {low:.0f} to {high:.0f} can only be kelvin"
    if high > 130.0:
        return "degF", f"values up to {high:.0f} can only be °F"
    return "degC", _MAYBE_CELSIUS


def _guess_pressure(column: Column, channel: ChannelName) -> tuple[str, str]:
    high = float(np.max(column.sample))
    limits: tuple[tuple[float, str], ...]
    if channel.channel == "map_kpa":
        limits = ((4.5, "bar"), (26.0, "psi"), (32.0, "inHg"), (600.0, "kPa"), (6000.0, "millibar"))
    else:
        limits = ((12.0, "bar"), (120.0, "psi"), (1200.0, "kPa"), (12_000.0, "millibar"))
    for limit, unit in limits:
        if high <= limit:
            return unit, f"values up to {high:g} look like {unit}"
    return "Pa", f"values up to {high:g} look like Pa"


def _guess_time(column: Column, channel: ChannelName) -> tuple[str, str]:
    values = column.sample
    name = normalise_name(column.name).split()
    if channel.channel == "pulse_ms":
        if float(np.max(values)) > 200.0:
            return "us", "values above 200 look like microseconds"
        return "ms", "read as milliseconds"
    if "ms" in name or "millis" in name or "milliseconds" in name:
        return "ms", "named in milliseconds"
    steps = np.diff(values)
    step = float(np.median(steps[steps > 0])) if (steps > 0).any() else 1.0
    if step > 4000.0:
        return "us", f"steps of {step:g} look like microseconds"
    if step >= 5.0:
        return "ms", f"steps of {step:g} look like milliseconds"
    return "s", f"steps of {step:g} look like seconds"


def _guess_share(column: Column, channel: ChannelName) -> tuple[str, str]:
    return "percent", "read as percent"


def _correction_base(column: Column) -> tuple[float, str]:
    """Return what a correction column reads without correction: 0, or 100 in some logs. [%]"""
    middle = float(np.median(column.sample)) if column.sample.size else 0.0
    return (100.0, "; values about 100 taken as no correction") if 70 < middle < 130 else (0.0, "")


def _guess_voltage(column: Column, channel: ChannelName) -> tuple[str, str]:
    if float(np.median(column.sample)) > 1000.0:
        return "mV", "the size of millivolts"
    return "V", "read as volts"


_GUESSES = {
    "mixture": _guess_mixture,
    "temperature": _guess_temperature,
    "pressure": _guess_pressure,
    "time": _guess_time,
    "share": _guess_share,
    "voltage": _guess_voltage,
}
