"""A paper of a long job, made in the background, and what a request waits meanwhile."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable

Line = Callable[[str, str], None]
_TRIALS = 200


def printing(line: Line) -> None:
    """Print how long the paper of a job with 200 trials takes, and an empty request beside it."""
    from django.contrib.auth.models import User
    from django.test import Client

    client = Client()
    client.force_login(User.objects.get(username="demo"))
    kind = "application/json"
    job = client.get("/api/jobs").json()[0]["id"]
    count = len(client.get(f"/api/jobs/{job}/trials?limit=500").json())
    for number in range(count, _TRIALS):
        seen = {"outcome": "started", "coolant_c": 5.0 + number % 40, "cranking_s": 2.0}
        client.post(f"/api/jobs/{job}/trials", {"observation": seen}, content_type=kind)

    def empty() -> float:
        began = time.perf_counter()
        client.get("/api/session")
        return time.perf_counter() - began

    before = [empty() for _ in range(60)]
    began = time.perf_counter()
    body = {"paper": "shop", "size": "a4"}
    task = client.post(f"/api/jobs/{job}/handover/pdf", body, content_type=kind).json()
    beside = []
    while client.get(f"/api/tasks/{task['task']}").json()["state"] not in ("done", "failed"):
        beside.append(empty())
        time.sleep(0.02)
    took = time.perf_counter() - began
    line(f"paper for the shop of a job with {_TRIALS} trials", f"{took:.1f} s")
    if beside:
        p95 = statistics.quantiles(beside, n=20)[-1] if len(beside) > 1 else beside[0]
        ratio = p95 / statistics.quantiles(before, n=20)[-1]
        line("  an empty request meanwhile, p95", f"{1000 * p95:.0f} ms, {ratio:.1f} × without")
