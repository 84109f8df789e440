"""How the state of a session travels: the same over a request and as an event."""

from __future__ import annotations

import json
from typing import Any

from inbetrieb_core.live import Controls
from inbetrieb_core.runsheet import RunIn, Watched
from ninja import Field, Schema

from server.config.said import rendered

from .hosts import Host
from .state import SweepState


class StateOut(Schema):
    """Where a session under way stands."""

    time_s: float = Field(description="of its newest sample [s]")
    rows: int
    kept: int = Field(description="rows that are in the database")
    lag_s: float = Field(description="age of the newest sample as this was made [s]")
    silent_s: float = Field(description="nothing came for so long with the key on [s]")
    controls: Controls
    held_by: str = Field(description="who holds the key; empty for nobody")
    tablet: str
    problems: list[str]
    watch: list[Watched]
    readings: dict[str, float | None] = Field(
        description="of the run sheet, by the key of the reading; null as long as it cannot be read"
    )
    run_in: RunIn | None
    sweep: SweepState | None


def state_out(host: Host) -> StateOut:
    """Return where a session stands."""
    state = host.state()
    members = {name: getattr(state, name) for name in StateOut.model_fields}
    return StateOut.model_validate(members)


def state_told(host: Host) -> Any:
    """Return the same as plain data, its sentences with their quantities."""
    return json.loads(rendered(state_out(host).model_dump_json()))
