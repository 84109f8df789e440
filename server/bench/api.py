"""The bench engine over HTTP."""

from __future__ import annotations

from typing import Annotated

from inbetrieb_core.bench import (
    DRIVE_FAULTS,
    EDGE_FAULTS,
    FAULTS,
    NAMED,
    SENSOR_FAULTS,
    EdgeFaultKind,
    Fault,
    FaultKind,
    IdleLoops,
    IdleTrouble,
    SensorFaultKind,
    StartConditions,
    ValveHardware,
)
from inbetrieb_core.triggers import LightReading
from ninja import Field, Router, Schema, Status

from server.accounts.requests import SignedInRequest
from server.config.bodies import Body
from server.config.body import RequestBody
from server.config.problems import Problem
from server.hardware.key_on_api import CircumstancesIn, circumstances_of
from server.jobs.engine_data import spec_of
from server.jobs.models import Job
from server.jobs.services import job_of
from server.logbook.logs_api import LogOut, log_out
from server.logbook.models import Log
from server.tasks.api import TaskOut, accepted
from server.tasks.services import start
from server.trigger.captures_api import CaptureOut, capture_out
from server.trigger.services import trigger_of

from . import services

router = Router(tags=["bench"])


class BenchStartIn(RequestBody):
    """How to crank the bench engine."""

    coolant_c: float = Field(description="[°C]")
    ambient_c: float | None = Field(None, description="[°C]")
    engine: str = Field(
        services.STAND_IN, description="stand_in is built from the job's engine data"
    )
    faults: list[Fault | str] = Field(default_factory=list)
    seed: int | None = Field(
        None, description="of noise and misfires; another each time if not given"
    )
    rate_hz: float = Field(25.0, description="logging rate [1/s]")
    crank_limit_s: float = Field(8.0, description="when the driver gives up [s]")
    run_s: Annotated[float, Field(le=600.0, description="logged time after it runs [s]")] = 45.0
    pedal_pct: float = Field(0.0, description="throttle held while cranking [%]")
    revision: int | None = Field(
        None, description="tables in the controller; the newest if not given"
    )


class BenchLogOut(LogOut):
    """The log of a bench start."""

    log_id: int = Field(description="the same as id, to be sent with a trial")


class BenchEngineOut(Schema):
    """A simulated engine."""

    key: str
    title: str
    description: str


class FaultKindOut(Schema):
    """A kind of fault."""

    key: str
    title: str
    unit: str
    default: float
    lower: float
    upper: float


class BenchOut(Schema):
    """What the bench offers."""

    engines: list[BenchEngineOut]
    faults: list[FaultKindOut]
    sensor_faults: list[FaultKindOut] = Field(description="for the key-on check")
    edge_faults: list[FaultKindOut] = Field(description="for the edge capture")
    drive_faults: list[FaultKindOut] = Field(description="what shows in a warm drive")


class BenchKeyOnIn(RequestBody):
    """How to switch the simulated controller on."""

    circumstances: CircumstancesIn = CircumstancesIn.model_validate({})
    faults: list[Fault | str] = Field(default_factory=list, description="of sensor_faults")
    seed: int | None = None


class BenchHeldIn(RequestBody):
    """How to hold the warm bench engine."""

    engine: str = services.STAND_IN
    faults: list[Fault | str] = Field(default_factory=list)
    seed: int | None = None
    idle_only: bool = Field(False, description="one point instead of a spread over load")


class BenchCaptureIn(RequestBody):
    """How to crank the bench engine for a capture of its edges."""

    engine: str = services.STAND_IN
    coolant_c: float = Field(15.0, description="[°C]")
    crank_s: float = Field(6.0, description="how long the key is held [s]")
    faults: list[Fault | str] = Field(default_factory=list, description="of edge_faults")
    seed: int | None = None


class BenchIdleIn(Body):
    """What the warm simulated engine does, and what is hidden in it."""

    run: services.IdleRun = "idle"
    valve: ValveHardware = Field(default_factory=ValveHardware)
    loops: IdleLoops = Field(default_factory=IdleLoops)
    trouble: IdleTrouble = Field(default_factory=IdleTrouble)
    spread_pct: float = Field(0.1, description="how far the throttle comes to rest apart [%]")
    seed: int = 0


class BenchDriveIn(Body):
    """How the warm simulated engine is driven, and what is hidden in it."""

    engine: str = services.STAND_IN
    faults: list[Fault | str] = Field(
        default_factory=list, max_length=8, description="of a live session"
    )
    minutes: float = Field(6.0, ge=1.0, le=30.0, description="[min]")
    seed: int = Field(0, description="of the drive and its noise")
    pedal_steps: bool = Field(
        False, description="steps of the pedal at held speeds, the mixture loop off: for transients"
    )


class BenchLightIn(RequestBody):
    """Where the timing light is read."""

    rpm: float = Field(description="[1/min]")
    commanded_deg: float = Field(description="locked advance [°]")
    seed: int = 0


@router.get("/bench", response=BenchOut, operation_id="bench_get")
def get_bench(request: SignedInRequest) -> BenchOut:
    """Return the simulated engines and the faults they can have."""
    own = BenchEngineOut(
        key=services.STAND_IN,
        title="An engine like this job's",
        description="Built from the entered data, with differences nobody has told you.",
    )
    named = [
        BenchEngineOut(key=e.key, title=e.title, description=e.description) for e in NAMED.values()
    ]
    return BenchOut(
        engines=[own, *named],
        faults=[_kind_out(kind) for kind in FAULTS.values()],
        sensor_faults=[_kind_out(kind) for kind in SENSOR_FAULTS.values()],
        edge_faults=[_kind_out(kind) for kind in EDGE_FAULTS.values()],
        drive_faults=[_kind_out(kind) for kind in DRIVE_FAULTS.values()],
    )


def _kind_out(kind: FaultKind | SensorFaultKind | EdgeFaultKind) -> FaultKindOut:
    return FaultKindOut(
        key=kind.key,
        title=kind.title,
        unit=kind.unit,
        default=kind.default,
        lower=kind.lower,
        upper=kind.upper,
    )


def _faults(given: list[Fault | str]) -> list[Fault]:
    return [
        Fault(entry) if isinstance(entry, str) else Fault(entry.kind, entry.size) for entry in given
    ]


def _seed(job: Job, given: int | None) -> int:
    """Return the seed given, or another one for every log of a job."""
    return Log.objects.filter(job=job).count() + 1 if given is None else abs(given)


@router.post(
    "/jobs/{job_id}/bench/starts",
    response={201: BenchLogOut, 404: Problem, 422: Problem},
    operation_id="bench_start_create",
)
def crank(request: SignedInRequest, job_id: int, payload: BenchStartIn) -> Status[BenchLogOut]:
    """Crank the bench engine with the job's tables; the result is a log."""
    job = job_of(request.user, job_id)
    conditions = StartConditions(
        payload.coolant_c,
        payload.ambient_c,
        _seed(job, payload.seed),
        payload.rate_hz,
        payload.crank_limit_s,
        payload.run_s,
        payload.pedal_pct,
    )
    log = services.add_bench_start(
        job,
        request.user,
        engine=payload.engine,
        conditions=conditions,
        faults=_faults(payload.faults),
        revision=payload.revision,
    )
    return Status(201, BenchLogOut(log_id=log.pk, **log_out(log, {}).model_dump()))


@router.post(
    "/jobs/{job_id}/bench/key-on",
    response={201: BenchLogOut, 404: Problem, 422: Problem},
    operation_id="bench_key_on_create",
)
def key_on(request: SignedInRequest, job_id: int, payload: BenchKeyOnIn) -> Status[BenchLogOut]:
    """Switch the simulated controller on with the job's sensors; the result is a log."""
    job = job_of(request.user, job_id)
    log = services.add_bench_key_on(
        job,
        request.user,
        circumstances=circumstances_of(job, payload.circumstances),
        faults=_faults(payload.faults),
        seed=_seed(job, payload.seed),
    )
    return Status(201, BenchLogOut(log_id=log.pk, **log_out(log, {}).model_dump()))


@router.post(
    "/jobs/{job_id}/bench/idle",
    response={201: BenchLogOut, 404: Problem, 422: Problem},
    operation_id="bench_idle_create",
)
def idle(request: SignedInRequest, job_id: int, payload: BenchIdleIn) -> Status[BenchLogOut]:
    """Let the warm simulated engine idle, be swept or be blipped; the result is a log."""
    job = job_of(request.user, job_id)
    log = services.add_bench_idle(
        job, request.user, run=payload.run, valve=payload.valve, loops=payload.loops,
        trouble=payload.trouble, spread_pct=payload.spread_pct, seed=payload.seed,
    )  # fmt: skip
    return Status(201, BenchLogOut(log_id=log.pk, **log_out(log, {}).model_dump()))


@router.post(
    "/jobs/{job_id}/bench/held",
    response={201: BenchLogOut, 404: Problem, 422: Problem},
    operation_id="bench_held_create",
)
def held(request: SignedInRequest, job_id: int, payload: BenchHeldIn) -> Status[BenchLogOut]:
    """Hold the warm bench engine at steady points; the result is a log."""
    job = job_of(request.user, job_id)
    log = services.add_bench_held(
        job,
        request.user,
        engine=payload.engine,
        faults=_faults(payload.faults),
        seed=_seed(job, payload.seed),
        idle_only=payload.idle_only,
    )
    return Status(201, BenchLogOut(log_id=log.pk, **log_out(log, {}).model_dump()))


@router.post(
    "/jobs/{job_id}/bench/drive",
    response={202: TaskOut, 404: Problem, 422: Problem},
    operation_id="bench_drive_create",
)
def drive(request: SignedInRequest, job_id: int, payload: BenchDriveIn) -> Status[TaskOut]:
    """Drive the warm simulated engine through speeds and loads; the task's result holds the log."""
    job, user = job_of(request.user, job_id), request.user
    services.bench_engine(spec_of(job), payload.engine, job)
    faults = _faults(payload.faults)
    task = start(
        job.workshop, user, "drive",
        lambda progress: {"log_id": services.add_bench_drive(
            job, user, engine=payload.engine, faults=faults, minutes=payload.minutes, seed=abs(payload.seed) % 2**31,
            pedal_steps=payload.pedal_steps, progress=progress,
        ).pk},
    )  # fmt: skip
    return accepted(task)


@router.post(
    "/jobs/{job_id}/bench/captures",
    response={201: CaptureOut, 404: Problem, 422: Problem},
    operation_id="bench_capture_create",
)
def capture(request: SignedInRequest, job_id: int, payload: BenchCaptureIn) -> Status[CaptureOut]:
    """Crank the bench engine, nothing firing, and capture the edges of crank and cam."""
    job = job_of(request.user, job_id)
    seed = job.captures.count() + 1 if payload.seed is None else abs(payload.seed)
    row = services.add_bench_capture(
        job,
        request.user,
        engine=payload.engine,
        coolant_c=payload.coolant_c,
        crank_s=payload.crank_s,
        faults=_faults(payload.faults),
        seed=seed % 2**31,
    )
    return Status(201, capture_out(trigger_of(job)[0], row))


@router.post(
    "/jobs/{job_id}/bench/light",
    response={200: LightReading, 404: Problem, 422: Problem},
    operation_id="bench_light",
)
def light(request: SignedInRequest, job_id: int, payload: BenchLightIn) -> LightReading:
    """Read the timing light on the bench engine once; saves nothing."""
    job = job_of(request.user, job_id)
    return services.read_bench_light(
        job, payload.rpm, payload.commanded_deg, abs(payload.seed) % 2**31
    )
