"""Which stations after the ladder a job was taken to: whoever keeps their records says so here."""

from __future__ import annotations

from collections.abc import Callable

from django.db.models import QuerySet

from .models import Job

Records = Callable[[Job], QuerySet]  # type: ignore[type-arg]
_records: dict[str, Records] = {}


def keeps_records(station: str, records: Records) -> None:
    """Register where the records of a station lie; called once for each."""
    _records[station] = records


def begun(job: Job) -> frozenset[str]:
    """Return the keys of the stations of which a job has records."""
    return frozenset(station for station, records in _records.items() if records(job).exists())
