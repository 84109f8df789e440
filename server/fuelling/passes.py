"""Passes that were written down, and what was taken of them."""

from __future__ import annotations

import json
from hashlib import sha256

from server.config.problems import Refusal
from server.entries.models import Entry
from server.jobs.models import Job

from .kinds import PASS, TAKEN, PassTaken


def pass_of(job: Job, number: int) -> Entry:
    """Return one pass of a job.

    Raises
    ------
    Refusal
        404 without it.
    """
    row = PASS.rows(job).filter(number=number).first()
    if row is None:
        raise Refusal(404, "Not found", "There is no such pass over the map.")
    return row


def takings_of(job: Job) -> dict[int, list[PassTaken]]:
    """Return what was taken of each pass."""
    found: dict[int, list[PassTaken]] = {}
    for row in TAKEN.rows(job):
        taken = TAKEN.read(row.data)
        found.setdefault(taken.number, []).append(taken)
    return found


def engine_digest(job: Job) -> str:
    """Return a digest of the engine data in force."""
    return sha256(json.dumps(job.engine, sort_keys=True).encode()).hexdigest()[:16]
