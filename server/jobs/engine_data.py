"""Engine data of a job: as stored, as entered, and as the core computes with them."""

from __future__ import annotations

import functools
import json
from typing import Any

from inbetrieb_core.engine import EngineEntry, EngineSpec, engine_of
from pydantic import TypeAdapter

from .models import Job

_ENTRY = TypeAdapter(EngineEntry)


def plain_engine(entry: EngineEntry) -> dict[str, Any]:
    """Return engine data as they are stored."""
    plain: dict[str, Any] = _ENTRY.dump_python(entry, mode="json")
    return plain


def entered_engine(plain: Any) -> EngineEntry:
    """Return engine data from JSON."""
    return _ENTRY.validate_python(plain)


def entry_of_job(job: Job) -> EngineEntry:
    """Return the engine data of a job as they were entered."""
    return entered_engine(job.engine)


@functools.lru_cache(maxsize=256)
def _spec(text: str) -> EngineSpec:
    return engine_of(_ENTRY.validate_json(text))


def spec_of(job: Job) -> EngineSpec:
    """Return the core's engine of a job; kept, because nearly every request asks for it."""
    return _spec(json.dumps(job.engine))
