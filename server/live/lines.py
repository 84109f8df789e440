"""A source that listens to a logger of somebody's own: lines of JSON from a local socket or a file being written."""

from __future__ import annotations

import os
import socket
import stat
import time
from pathlib import Path

import numpy as np
from inbetrieb_core.errors import LogRefused, field_refused
from inbetrieb_core.live import Controls, Opened, channels_of, rows_of_lines
from inbetrieb_core.live.lines import LONGEST_LINE
from inbetrieb_core.quantities import FloatArray

#: How long the first line is waited for; most that is read at once. [s, bytes]
_WAITS_S, _BLOCK = 4.0, 1 << 18


class LineSource:
    """Lines of JSON from a place that the installation names; it only sends.

    Parameters
    ----------
    place : Path
        A unix socket, or a file that is being written; a file is followed from its end on.
    """

    def __init__(self, place: Path) -> None:
        self._place = place
        self._socket: socket.socket | None = None
        self._file: int | None = None
        self._rest = b""
        self._channels: tuple[str, ...] = ()
        self._first: list[bytes] = []

    def open(self) -> Opened:
        """Begin.

        Raises
        ------
        LogRefused
            If nothing is there, or nothing comes.
        """
        try:
            self._connect()
        except OSError as error:
            raise LogRefused("No logger sends where this installation listens.") from error
        ends = time.monotonic() + _WAITS_S
        while not (lines := self._lines()):
            if time.monotonic() > ends:
                self.close()
                raise LogRefused("The logger is there and sends nothing.")
            time.sleep(0.05)
        try:
            self._channels = channels_of(lines[0])
        except LogRefused:
            self.close()
            raise
        self._first = lines
        return Opened(
            "A logger of one's own",
            "",
            self._channels,
            None,
            "as the engine holds them; not read back",
        )

    def _connect(self) -> None:
        if stat.S_ISSOCK(self._place.stat().st_mode):
            self._socket = socket.socket(socket.AF_UNIX, socket.SOCK_STREAM)
            self._socket.settimeout(_WAITS_S)
            self._socket.connect(str(self._place))
            self._socket.setblocking(False)
            return
        self._file = os.open(self._place, os.O_RDONLY | os.O_NONBLOCK)
        os.lseek(self._file, 0, os.SEEK_END)

    def samples(self, passed_s: float) -> FloatArray:
        """Return what has come since the last call, shape (samples, channels). (`passed_s` [s] does not matter)"""
        lines, self._first = [*self._first, *self._lines()], []
        return rows_of_lines(lines, self._channels) if lines else np.empty((0, len(self._channels)))

    def _lines(self) -> list[bytes]:
        *lines, self._rest = (self._rest + self._read()).split(b"\n")
        if len(self._rest) > LONGEST_LINE:
            self._rest = b""  # a line without an end is none
        return [line for line in lines if line.strip()]

    def _read(self) -> bytes:
        try:
            if self._socket is not None:
                return self._socket.recv(_BLOCK)
            return b"" if self._file is None else os.read(self._file, _BLOCK)
        except (BlockingIOError, InterruptedError):
            return b""

    def command(self, controls: Controls) -> None:
        """Refuse whatever is commanded: nothing is sent back.

        Raises
        ------
        InputRefused
            If anything is.
        """
        if controls != Controls():
            raise field_refused(
                "key", "This source only sends: key, pedal and switches are at the car."
            )

    def close(self) -> None:
        """End."""
        if self._socket is not None:
            self._socket.close()
        if self._file is not None:
            os.close(self._file)
        self._socket = self._file = None
