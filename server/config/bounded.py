"""Reading a stranger's file apart: in a process of its own, with so much time and memory and no more.

Workbooks, archives and pictures can be a thousand times larger inside than out, and the libraries that
read them have no bounds of their own. What takes too much is ended, and the server never feels it.

Those libraries take seconds to import. One process, the reader, has them ready; it reads nothing itself, but forks
for each file, and ends when it has had nothing to do for a while.
"""

from __future__ import annotations

import contextlib
import os
import pickle
import resource
import signal
import socket
import subprocess
import sys
import threading
import traceback
from collections.abc import Callable
from importlib import import_module
from typing import Any, NoReturn, TypeVar, cast

from django.conf import settings
from inbetrieb_core.errors import CoreError, InputRefused

T = TypeVar("T")

#: What a file may take; of the memory the libraries have some 200. [s, MB]
SECONDS, MEGABYTES = 20, 600
_TOO_MUCH = "Reading it takes more time or memory than any file of its kind: it was given up."
#: What reads files, and what that imports when it is first used.
_READY = (
    "inbetrieb_core.logs", "inbetrieb_core.tables.file_sets", "server.intake.pictures",
    "asammdf", "can", "cantools", "gpxpy", "openpyxl", "pynmea2",
)  # fmt: skip
#: The reader ends after so long without a file. [s]
_IDLE_S = 600
#: And takes no longer than this to start on a slow machine. [s]
_STARTS_S = 60
_PIECE = 1 << 20


def bounded(
    function: Callable[..., T],
    *arguments: Any,
    seconds: int = SECONDS,
    megabytes: int = MEGABYTES,
) -> T:
    """Return what a function returns, run in a process of its own.

    Parameters
    ----------
    function : callable
        Of a module; it and its arguments can be pickled.
    arguments
        Given to it.
    seconds : int
        Of processor time, and a little more of any time. [s]
    megabytes : int
        Of memory that it writes to. [MB]

    Raises
    ------
    CoreError
        If it takes more, or what the function refuses itself.
    RuntimeError
        If the function fails in any other way.
    """
    asked = (function.__module__, function.__qualname__, arguments, seconds, megabytes)
    with _fork() as child:
        # The child ends itself; this is for one that cannot.
        child.settimeout(2 * seconds + 10)
        try:
            child.sendall(pickle.dumps(asked))
            child.shutdown(socket.SHUT_WR)
            answer = _all_of(child)
        except OSError as error:  # it ended while it was asked, or told nothing for too long
            raise CoreError(_TOO_MUCH) from error
    if not answer:  # ended by a signal
        raise CoreError(_TOO_MUCH)
    kind, result = pickle.loads(answer)
    if kind == "fields":
        raise InputRefused(result)
    if kind == "refused":
        raise CoreError(result)
    if kind == "failed":
        raise RuntimeError(result)
    return cast(T, result)


def _all_of(end: socket.socket) -> bytes:
    return b"".join(iter(lambda: end.recv(_PIECE), b""))


# --- the server's side ---------------------------------------------------------------------
class _Reader:
    """The process that forks, as this one knows it: the end of a line to it, and whose it is."""

    line: socket.socket | None = None
    process: subprocess.Popen[bytes] | None = None
    of = 0
    lock = threading.Lock()


def _fork() -> socket.socket:
    """Return the line to a new child of the reader, which is started if there is none.

    Raises
    ------
    RuntimeError
        If the reader does not start.
    """
    for _ in range(2):
        with _Reader.lock:
            if _Reader.line is None or _Reader.of != os.getpid():
                _start()
            child = _asked_for(cast(socket.socket, _Reader.line))
            if child is not None:
                return child
            _Reader.line = None  # it had nothing to do for long, or was ended
    raise RuntimeError("the reader of files does not start")


def _asked_for(line: socket.socket) -> socket.socket | None:
    """Return the line to a child that said it is there; None where the reader ended before it forked."""
    ours, its = socket.socketpair()
    ours.settimeout(_STARTS_S)
    try:
        with its:
            socket.send_fds(line, [b"f"], [its.fileno()])
        if ours.recv(1):
            return ours
    except OSError:
        pass
    ours.close()
    return None


def _start() -> None:
    ours, its = socket.socketpair()
    with its:
        _Reader.process = subprocess.Popen(
            [sys.executable, "-m", "server.config.bounded", str(its.fileno())],
            stdin=subprocess.DEVNULL,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
            pass_fds=[its.fileno()],
            cwd=settings.ROOT,
            env={**os.environ, "OMP_NUM_THREADS": "1", "OPENBLAS_NUM_THREADS": "1"},
        )
    _Reader.line, _Reader.of = ours, os.getpid()


# --- the reader's side ---------------------------------------------------------------------
def _serve(line: socket.socket) -> None:
    """Fork for whoever asks, until nobody does or the server has ended."""
    for name in _READY:
        import_module(name)
    signal.signal(signal.SIGCHLD, signal.SIG_IGN)  # children leave nothing behind
    line.settimeout(_IDLE_S)
    with contextlib.suppress(TimeoutError):
        while True:
            asked, lines, _, _ = socket.recv_fds(line, 1, 1)
            if not asked:
                return
            with socket.socket(fileno=lines[0]) as own:
                if os.fork() == 0:
                    line.close()
                    _read(own)


def _read(line: socket.socket) -> NoReturn:
    """Do what is asked, answer, and end."""
    try:
        line.sendall(b"r")
        module, name, arguments, seconds, megabytes = pickle.loads(_all_of(line))
        function = getattr(import_module(module), name)
        signal.alarm(2 * seconds)
        resource.setrlimit(resource.RLIMIT_CPU, (seconds, seconds))
        most = megabytes * 10**6
        resource.setrlimit(resource.RLIMIT_DATA, (most, most))
        line.sendall(pickle.dumps(_answer(function, arguments)))
    finally:
        os._exit(0)


def _answer(function: Callable[..., Any], arguments: tuple[Any, ...]) -> tuple[str, Any]:
    try:
        return "done", function(*arguments)
    except InputRefused as error:
        return "fields", error.problems
    except CoreError as error:
        return "refused", error.sentence
    except MemoryError:
        return "refused", _TOO_MUCH
    except Exception:  # a mistake of the program, told where it is looked for
        return "failed", traceback.format_exc()[-2000:]


if __name__ == "__main__":
    _serve(socket.socket(fileno=int(sys.argv[1])))
