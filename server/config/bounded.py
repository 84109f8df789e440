"""Reading a stranger's file apart: in a process of its own, with so much time and memory and no more.

Workbooks, archives and pictures can be a thousand times larger inside than out, and the libraries that
read them have no bounds of their own. What takes too much is ended, and the server never feels it.
"""

from __future__ import annotations

import os
import pickle
import resource
import subprocess
import sys
from collections.abc import Callable
from importlib import import_module
from typing import Any, TypeVar, cast

from django.conf import settings
from inbetrieb_core.errors import CoreError, InputRefused

T = TypeVar("T")

#: What a file may take beside the program itself. [s, MB]
SECONDS, MEGABYTES = 20, 600
_TOO_MUCH = "Reading it takes more time or memory than any file of its kind: it was given up."
#: How the process ends where memory did not suffice.
_NO_MEMORY = 3


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
    asked = pickle.dumps((function.__module__, function.__qualname__, arguments))
    try:
        answer = subprocess.run(
            [sys.executable, "-m", "server.config.bounded", str(seconds), str(megabytes)],
            input=asked,
            capture_output=True,
            timeout=2 * seconds,
            cwd=settings.ROOT,
            env={**os.environ, "OMP_NUM_THREADS": "1", "OPENBLAS_NUM_THREADS": "1"},
            check=False,
        )
    except subprocess.TimeoutExpired as error:
        raise CoreError(_TOO_MUCH) from error
    if answer.returncode < 0 or answer.returncode == _NO_MEMORY:  # ended by a signal, or full
        raise CoreError(_TOO_MUCH)
    if answer.returncode:
        raise RuntimeError(answer.stderr.decode(errors="replace")[-2000:])
    kind, result = pickle.loads(answer.stdout)
    if kind == "fields":
        raise InputRefused(result)
    if kind == "refused":
        raise CoreError(result)
    return cast(T, result)


def _work(seconds: int, megabytes: int) -> None:
    module, name, arguments = pickle.loads(sys.stdin.buffer.read())
    function = getattr(import_module(module), name)
    out, sys.stdout = sys.stdout, sys.stderr
    resource.setrlimit(resource.RLIMIT_CPU, (seconds, seconds))
    most = megabytes * 10**6
    resource.setrlimit(resource.RLIMIT_DATA, (most, most))
    answer: tuple[str, Any]
    try:
        answer = ("done", function(*arguments))
    except InputRefused as error:
        answer = ("fields", error.problems)
    except CoreError as error:
        answer = ("refused", error.sentence)
    except MemoryError:
        sys.exit(_NO_MEMORY)
    out.buffer.write(pickle.dumps(answer))


if __name__ == "__main__":
    _work(int(sys.argv[1]), int(sys.argv[2]))
