"""The few errors the core raises. All carry a sentence a person can act on."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from .sentences import plain, quantity


class CoreError(ValueError):
    """Base of every refusal by the core; as text it is in canonical units."""

    @property
    def sentence(self) -> str:
        """The sentence with the quantities it carries, see :mod:`.sentences`."""
        return super().__str__()

    def __str__(self) -> str:
        return plain(self.sentence)


class OutOfRangeError(CoreError):
    """A quantity lies outside the range in which a formula is valid."""

    def __init__(self, name: str, value: float, lower: float, upper: float, unit: str) -> None:
        self.name, self.value, self.lower, self.upper, self.unit = name, value, lower, upper, unit
        super().__init__(
            f"{name} = {quantity(value, unit)} is outside {lower:g}..{quantity(upper, unit)}"
        )


@dataclass(frozen=True)
class FieldProblem:
    """One thing wrong with one entered field.

    Attributes
    ----------
    field : str
        Path of the field as the installer sent it, for example ``injector.flow_cm3_min``.
    sentence : str
        What is wrong and what would be right.
    """

    field: str
    sentence: str


class InputRefused(CoreError):
    """Entered data cannot be used; carries every problem at once, not only the first."""

    def __init__(self, problems: Sequence[FieldProblem]) -> None:
        self.problems = tuple(problems)
        super().__init__(" ".join(problem.sentence for problem in self.problems))


def field_refused(field: str, sentence: str) -> InputRefused:
    """Return the refusal of one field, to be raised.

    Parameters
    ----------
    field : str
        Path of the field as the installer sent it.
    sentence : str
        What is wrong and what would be right.
    """
    return InputRefused([FieldProblem(field, sentence)])


class LogRefused(CoreError):
    """A log file cannot be read; says why and, where there are any, which columns it found."""

    def __init__(self, sentence: str, columns: Sequence[str] = ()) -> None:
        self.columns = tuple(columns)
        super().__init__(sentence)
