"""Live sessions over HTTP."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any, Literal

from django.conf import settings
from django.core.handlers.asgi import ASGIRequest
from django.http import HttpRequest, StreamingHttpResponse
from inbetrieb_core.bench import (
    LIVE_FAULTS,
    STRAIGHT_VALVE,
    VALVE_KINDS,
    Fault,
    LiveSetup,
    ValveHardware,
)
from inbetrieb_core.errors import field_refused
from inbetrieb_core.idle import SweepPlan
from inbetrieb_core.live import LOADS, SPEEDS
from ninja import Field, Query, Router, Schema, Status

from server.accounts.requests import SignedInRequest
from server.bench.services import STAND_IN
from server.config.bodies import Body
from server.config.body import RequestBody
from server.config.problems import Problem
from server.jobs.models import Job
from server.jobs.services import job_of

from . import hosts, services
from .models import LiveSession
from .out import StateOut, state_out
from .stream import Feed, parcels, parcels_async

router = Router(tags=["live"])
_REFUSED = {404: Problem, 409: Problem, 422: Problem}
_MOST_FAULTS = 8


class LiveIn(Body):
    """How a session begins."""

    source: Literal["bench", "lines"] = Field(
        "bench", description="the simulated controller, or a logger that sends lines"
    )
    engine: str = Field(STAND_IN, max_length=60)
    faults: list[Fault | str] = Field(default_factory=list, max_length=_MOST_FAULTS)
    coolant_c: float | None = Field(None, description="of the simulated engine [°C]")
    ambient_c: float | None = Field(None, description="[°C]")
    speed: int = Field(1, description="1, 4 or 20 times as quick as on the wall")
    seed: int = 0
    tables: services.Tables = Field("newest", description="or the revision stamped as in the car")
    fresh: bool = Field(False, description="never run: oil pump and galleries are dry")
    valve: ValveHardware = Field(
        STRAIGHT_VALVE, description="its idle actuator; straight if not given"
    )
    stop: float = Field(1.0, description="air past the throttle stop, of what the engine has")


class CommandIn(RequestBody):
    """What is commanded: what is not given stays, null leaves it to the controller."""

    key: bool | Literal["off", "on", "start"] = False
    starter: bool = False
    throttle_pct: float = 0.0
    idle_valve_pct: float | None = Field(None, description="[%]; null: the controller's own")
    load: Annotated[str, Field(max_length=40)] | Annotated[list[str], Field(max_length=8)] = ""
    lock_timing_deg: float | None = Field(None, description="[°]; null: by the tables")
    plugs_out: bool = False
    injection: bool = True
    ignition: bool = True
    speed: int = 1
    tablet: str = Field("", max_length=60, description="which of somebody's tablets commands")
    take: bool = Field(False, description="take the key from one's own other tablet")


class SweepDriveIn(Body):
    """How the valve is stepped."""

    plan: SweepPlan = Field(default_factory=SweepPlan)
    tablet: str = Field("", max_length=60)


class RunInCountIn(RequestBody):
    """Whether the run-in is counted from now on."""

    on: bool = True


class KeepIn(RequestBody):
    """Which stretch is written down as a log."""

    start_s: float | None = Field(
        None, description="on the session's clock; the newest start if not given [s]"
    )
    end_s: float | None = Field(None, description="now if not given [s]")


class LogIdOut(Schema):
    """The log that was written; none where nothing had come."""

    log_id: int | None
    sentence: str


class LiveLightOut(Schema):
    """What a timing light shows."""

    seen_deg: float = Field(description="[°]")
    commanded_deg: float = Field(description="[°]")
    off_deg: float = Field(description="seen minus commanded, either way [°]")


class LiveFaultOut(Schema):
    """What can be wrong with the simulated engine."""

    key: str
    title: str
    unit: str
    default: float


class LiveSessionOut(Schema):
    """A session, and where it stands while it is open."""

    id: int = Field(description="its number within the job")
    title: str
    stand_in: str = Field(description="says so where it is simulated; empty for a real one")
    tables: str = Field(description="which tables the controller holds, in words")
    revision: int | None
    channels: list[str]
    created_at: datetime
    by: str
    status: Literal["open", "ended", "broken off"]
    log_id: int | None
    sentence: str = Field(description="why it ended")
    state: StateOut | None


class LiveOut(Schema):
    """The sessions of a job, and what can be commanded."""

    sessions: list[LiveSessionOut] = Field(description="newest first, at most twenty")
    loads: dict[str, str]
    speeds: list[int]
    faults: list[LiveFaultOut]
    valves: dict[str, str] = Field(description="idle actuators of the simulated engine")
    listens: bool = Field(description="whether this installation listens to a logger of one's own")


def _session_out(session: LiveSession) -> LiveSessionOut:
    end, host = services.end_of(session), hosts.host_of(session.pk)
    broken = services.is_broken_off(session)
    return LiveSessionOut(
        id=session.number, title=session.title, stand_in=session.stand_in,
        tables=session.about.get("tables", ""), revision=session.about.get("revision"),
        channels=session.channels, created_at=session.created_at, by=session.created_by.username,
        status="ended" if end else "broken off" if broken else "open",
        log_id=None if end is None else end.log_id, sentence="" if end is None else end.reason,
        state=None if host is None else state_out(host),
    )  # fmt: skip


def _session(request: SignedInRequest, job_id: int, number: int) -> LiveSession:
    return services.session_of(job_of(request.user, job_id), number)


@router.get("/jobs/{job_id}/live", response={200: LiveOut, 404: Problem}, operation_id="live_list")
def list_sessions(request: SignedInRequest, job_id: int) -> LiveOut:
    """Return the live sessions of a job."""
    job = job_of(request.user, job_id)
    return LiveOut(
        sessions=[_session_out(session) for session in services.sessions_of(job)[:20]],
        loads=LOADS, speeds=list(SPEEDS),
        faults=[LiveFaultOut(key=f.key, title=f.title, unit=f.unit, default=f.default) for f in LIVE_FAULTS.values()],
        valves={str(key): words for key, words in VALVE_KINDS.items()}, listens=bool(settings.LIVE_LINES),
    )  # fmt: skip


@router.post(
    "/jobs/{job_id}/live",
    response={201: LiveSessionOut, **_REFUSED, 503: Problem},
    operation_id="live_open",
)
def open_session(request: SignedInRequest, job_id: int, payload: LiveIn) -> Status[LiveSessionOut]:
    """Open a live session: on the simulated controller, its key off, or on a logger of one's own."""
    job: Job = job_of(request.user, job_id)
    if payload.source == "lines":
        heard = services.open_lines(job, request.user)
        return Status(201, _session_out(services.session_of(job, heard.number)))
    if payload.coolant_c is None:
        raise field_refused("coolant_c", "Say how warm the simulated engine is.")
    faults = tuple(Fault(f) if isinstance(f, str) else f for f in payload.faults)
    setup = LiveSetup(
        payload.coolant_c, payload.ambient_c, faults, payload.valve, payload.fresh, payload.stop,
        abs(payload.seed) % 2**31,
    )  # fmt: skip
    session = services.open_bench(
        job, request.user, engine=payload.engine, setup=setup, tables=payload.tables, speed=payload.speed
    )  # fmt: skip
    return Status(201, _session_out(services.session_of(job, session.number)))


@router.get(
    "/jobs/{job_id}/live/{number}",
    response={200: LiveSessionOut, 404: Problem},
    operation_id="live_get",
)
def get_session(request: SignedInRequest, job_id: int, number: int) -> LiveSessionOut:
    """Return where a session stands."""
    return _session_out(_session(request, job_id, number))


@router.get(
    "/jobs/{job_id}/live/{number}/stream",
    response={200: None, 404: Problem},
    operation_id="live_stream",
)
def stream(
    request: SignedInRequest, job_id: int, number: int, since: Annotated[int | None, Query(ge=0, le=2**31)] = None
) -> StreamingHttpResponse:  # fmt: skip
    """Send samples, state and end as server-sent events.

    Goes on at the row `since`, or where `Last-Event-ID` says.
    """
    session = _session(request, job_id, number)
    feed = Feed(session, _row_of(request) if since is None else since)
    told: Any = parcels_async(feed) if isinstance(request, ASGIRequest) else parcels(feed)
    answer = StreamingHttpResponse(told, content_type="text/event-stream")
    answer["Cache-Control"] = "no-store"
    # Neither the application nor a proxy may hold events back to make them smaller.
    answer["Content-Encoding"] = "identity"
    answer["X-Accel-Buffering"] = "no"
    return answer


def _row_of(request: HttpRequest) -> int | None:
    """Return the row where a browser that comes back goes on; None for one that comes anew."""
    text = request.headers.get("Last-Event-ID", "")
    return int(text) if text.isascii() and text.isdigit() and len(text) < 10 else None


def _given(payload: CommandIn) -> dict[str, Any]:
    """Return what a command gives, as the core names it."""
    given = {name: getattr(payload, name) for name in payload.model_fields_set - {"tablet", "take"}}
    if "load" in given:
        load = given.pop("load")
        given["loads"] = tuple([load] if isinstance(load, str) else load) if load else ()
    if isinstance(key := given.get("key"), str):
        given["key"] = key != "off"
        if key != "off":
            given["starter"] = key == "start"
    return given


@router.post(
    "/jobs/{job_id}/live/{number}/command",
    response={200: StateOut, **_REFUSED},
    operation_id="live_command",
)
def command(request: SignedInRequest, job_id: int, number: int, payload: CommandIn) -> StateOut:
    """Command key, starter, pedal, valve, loads, timing; one person at a time."""
    host = services.running(_session(request, job_id, number))
    host.command(request.user.username, payload.tablet, _given(payload), take=payload.take)
    return state_out(host)


@router.post(
    "/jobs/{job_id}/live/{number}/sweep",
    response={200: StateOut, **_REFUSED},
    operation_id="live_sweep",
)
def drive_sweep(
    request: SignedInRequest, job_id: int, number: int, payload: SweepDriveIn
) -> StateOut:
    """Step the idle valve through its range and back."""
    host = services.running(_session(request, job_id, number))
    host.sweep(request.user.username, payload.tablet, payload.plan)
    return state_out(host)


@router.post(
    "/jobs/{job_id}/live/{number}/run-in",
    response={200: StateOut, **_REFUSED},
    operation_id="live_run_in",
)
def count_run_in(
    request: SignedInRequest, job_id: int, number: int, payload: RunInCountIn
) -> StateOut:
    """Count the run-in from now on, or pause it."""
    host = services.running(_session(request, job_id, number))
    host.count_run_in(on=payload.on)
    return state_out(host)


@router.post(
    "/jobs/{job_id}/live/{number}/light",
    response={200: LiveLightOut, **_REFUSED},
    operation_id="live_light",
)
def light(request: SignedInRequest, job_id: int, number: int) -> LiveLightOut:
    """Read the timing light on the running engine once; saves nothing."""
    seen, commanded = services.running(_session(request, job_id, number)).light()
    off = round(abs(seen - commanded), 1)
    return LiveLightOut(seen_deg=seen, commanded_deg=commanded, off_deg=off)


@router.post(
    "/jobs/{job_id}/live/{number}/keep",
    response={201: LogIdOut, **_REFUSED},
    operation_id="live_keep",
)
def keep(request: SignedInRequest, job_id: int, number: int, payload: KeepIn) -> Status[LogIdOut]:
    """Write a stretch of a session down as a log while it goes on."""
    session = _session(request, job_id, number)
    start_s = services.newest_start(session) if payload.start_s is None else payload.start_s
    log = services.keep(session, request.user, start_s, payload.end_s)
    return Status(201, LogIdOut(log_id=log.pk, sentence=log.name))


@router.post(
    "/jobs/{job_id}/live/{number}/close",
    response={200: LogIdOut, 404: Problem},
    operation_id="live_close",
)
def close(request: SignedInRequest, job_id: int, number: int) -> LogIdOut:
    """End a session, also one that broke off; its log is written once."""
    end = services.close(_session(request, job_id, number), user=request.user)
    return LogIdOut(log_id=end.log_id, sentence=end.reason)
