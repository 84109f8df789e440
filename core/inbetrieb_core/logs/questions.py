"""What has to be asked about a log because two readings of it are possible."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from ..quantities import recognise_unit
from .column_units import use_as
from .columns import Column, ColumnUse
from .mapping import candidates, stated_role
from .names import CHANNELS
from .roles import speaks_of_idle
from .words import normalise_name

#: Channels on which every judgement stands; a wrong one among them is never a small matter.
_JUDGED = ("rpm", "lambda", "lambda_target", "coolant_c", "map_kpa")
_TITLES = {"lambda": "measured lambda"}
#: Names that fit so much worse than the one that was taken leave no doubt.
_CLEARLY_WORSE, _USUAL_NAME = 0.8, 3.0
#: Two columns within this share of each other hold the same quantity.
_SAME_SHARE = 0.02


@dataclass(frozen=True)
class Choice:
    """One reading.

    Attributes
    ----------
    label : str
        What it means, for the person who decides.
    mapping : mapping of str to (str or None)
        Column head → channel, or None to leave it out.
    """

    label: str
    mapping: Mapping[str, str | None]


@dataclass(frozen=True)
class Question:
    """Two or more readings of which the head of a file does not tell the right one."""

    text: str
    choices: tuple[Choice, ...]


def questions_of(columns: Sequence[Column], uses: Sequence[ColumnUse]) -> tuple[Question, ...]:
    """Return what has to be asked before a log is read.

    Parameters
    ----------
    columns : sequence of Column
        All columns of the file.
    uses : sequence of ColumnUse
        What is proposed for them, or was decided; what a person decided is not asked again.

    Returns
    -------
    tuple of Question
        Empty where every column can be read in one way only.
    """
    decided = {use.column.number for use in uses if use.decided}
    return (
        *_two_for_one(columns, uses, decided),
        *_uncertain(uses, decided),
    )


def _two_for_one(
    columns: Sequence[Column], uses: Sequence[ColumnUse], decided: set[int]
) -> Iterator[Question]:
    """Yield questions about columns that could be the same channel but hold other numbers."""
    scores = {(number, name): score for score, number, name, _ in candidates(columns)}
    taken = {use.channel: use for use in uses if use.channel is not None}
    for name in _JUDGED:
        use = taken.get(name)
        if use is None or use.column.number in decided:
            continue
        best = min(scores.get((use.column.number, name), 0.0), _USUAL_NAME)
        rivals = [
            other.column
            for other in uses
            if other.channel is None
            and other.column.number not in decided
            and other.column.header != use.column.header
            and scores.get((other.column.number, name), 0.0) >= max(best - _CLEARLY_WORSE, 0.6)
            and not _same_numbers(use, other.column)
        ]
        if not rivals:
            continue
        headers = [use.column.header, *(column.header for column in rivals)]
        title = _TITLES.get(name, CHANNELS[name].title.lower())
        listed = ", ".join(f"'{header}'" for header in headers[:-1]) + f" and '{headers[-1]}'"
        yield Question(
            f"{listed} could each be the {title}, and they hold different numbers. Which is it?",
            tuple(
                Choice(
                    f"'{header}' is the {title}",
                    {each: name if each == header else None for each in headers},
                )
                for header in headers
            ),
        )


def _same_numbers(use: ColumnUse, other: Column) -> bool:
    """Say whether another column repeats the one in use, perhaps in another unit."""
    channel = CHANNELS[use.channel or ""]
    first, second = use.column.sample, other.sample
    size = min(first.size, second.size)
    if size < 5 or float(np.ptp(first[:size])) == 0.0:
        return False  # nothing moved yet, so nothing can be told
    read = use_as(other, channel)
    if use.inverse or read.inverse:
        return False
    mine = first[:size] * use.factor + use.offset
    theirs = second[:size] * read.factor + read.offset
    near = np.abs(mine - theirs) <= _SAME_SHARE * np.maximum(np.abs(mine), 1e-6)
    return bool(near.mean() > 0.9)


def _uncertain(uses: Sequence[ColumnUse], decided: set[int]) -> Iterator[Question]:
    """Yield questions about single columns whose name has two meanings in the field."""
    free = {use.channel for use in uses}
    for use in uses:
        column = use.column
        if column.number in decided:
            continue
        words = normalise_name(column.name).split()
        role, quantity = stated_role(column)
        asked_for_speed = use.channel == "idle_target_rpm" and role == "target"
        if asked_for_speed and not speaks_of_idle(quantity):
            yield _one_or_none(
                column,
                "idle_target_rpm",
                f"'{column.header}' is a speed that was asked for. Is it the idle target?",
            )
        unit = recognise_unit(column.unit) if column.unit else None
        is_temperature = unit is not None and unit[0] == "temperature"
        if words == ["act"] and is_temperature and use.channel is None and "intake_c" not in free:
            yield _one_or_none(
                column,
                "intake_c",
                f"'{column.header}' may be short for the temperature of the intake air, or "
                "for 'actual'. Is it the intake air?",
            )


def _one_or_none(column: Column, channel: str, text: str) -> Question:
    title = CHANNELS[channel].title.lower()
    return Question(
        text,
        (
            Choice(f"It is the {title}", {column.header: channel}),
            Choice("It is something else: leave it out", {column.header: None}),
        ),
    )
