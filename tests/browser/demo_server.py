"""A server on fresh demo data, for screenshots and timings."""

from __future__ import annotations

import contextlib
import os
import socket
import subprocess
import sys
import tempfile
import time
import urllib.request
from collections.abc import Iterator
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]


@contextlib.contextmanager
def demo_server() -> Iterator[str]:
    """Yield the address of a demo server that is stopped and forgotten afterwards."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    with tempfile.TemporaryDirectory() as folder:
        env = {
            **os.environ,
            "INBETRIEB_DEMO": "1",
            "INBETRIEB_DATA": folder,
            "DJANGO_SETTINGS_MODULE": "server.config.settings",
        }
        for command in (["migrate", "-v0"], ["load_demo"]):
            subprocess.run([sys.executable, "manage.py", *command], cwd=ROOT, env=env, check=True)
        server = subprocess.Popen(
            [sys.executable, "-m", "uvicorn", "server.config.asgi:application", "--port", str(port),
             "--no-access-log", "--log-level", "warning"],
            cwd=ROOT, env=env,
        )  # fmt: skip
        try:
            address = f"http://127.0.0.1:{port}"
            for _ in range(100):
                with contextlib.suppress(OSError):
                    urllib.request.urlopen(address + "/api/session").close()
                    break
                time.sleep(0.2)
            yield address
        finally:
            server.terminate()
            server.wait()
