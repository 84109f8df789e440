"""What a live link reads from: one small interface, so that another source changes no sheet."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Protocol, runtime_checkable

from ..quantities import FloatArray
from .controls import Controls


@dataclass(frozen=True)
class Opened:
    """What a source says of itself as it is opened.

    Attributes
    ----------
    title : str
        What it is, in a few words.
    stand_in : str
        A sentence where it is a simulation; empty for a real one.
    channels : tuple of str
        Canonical channels of its samples, ``time_s`` first.
    revision : int or None
        Of the tables in it, where it knows.
    tables : str
        How it came by them, in words.
    """

    title: str
    stand_in: str
    channels: tuple[str, ...]
    revision: int | None = None
    tables: str = ""


class Source(Protocol):
    """Samples of an engine as they come, and what can be asked of it."""

    def open(self) -> Opened:
        """Begin."""

    def samples(self, passed_s: float) -> FloatArray:
        """Return what has come since the last call, shape (samples, channels).

        Parameters
        ----------
        passed_s : float
            Time on the wall since then. [s]
        """

    def command(self, controls: Controls) -> None:
        """Set what is commanded.

        Raises
        ------
        InputRefused
            If this source cannot be told that.
        """

    def close(self) -> None:
        """End."""


@runtime_checkable
class SourceWithLight(Source, Protocol):
    """A source on whose engine a timing light can be read."""

    def light(self) -> tuple[float, float]:
        """Return what the light shows, and what is commanded. [°, °]

        Raises
        ------
        InputRefused
            If it does not run, or the timing is not locked.
        """
