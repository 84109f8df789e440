"""The HTTP interface: one API, one router per app."""

from __future__ import annotations

from typing import Any

from ninja import NinjaAPI
from ninja.openapi.schema import OpenAPISchema

from server.accounts.api import router as accounts_router
from server.accounts.auth import DemoClient, SessionUser, TokenUser
from server.accounts.people_api import router as people_router
from server.archive.api import router as archive_router
from server.basemaps.api import router as base_maps_router
from server.bench.api import router as bench_router
from server.calibration.api import router as calibration_router
from server.firststart.api import router as first_start_router
from server.fuelling.api import router as fuelling_router
from server.guide.api import router as guide_router
from server.handover.api import router as handover_router
from server.hardware.exchange_api import router as exchange_router
from server.hardware.key_on_api import router as key_on_router
from server.hardware.sensors_api import router as sensors_router
from server.hardware.supply_api import router as supply_router
from server.hardware.vocabulary_api import router as hardware_router
from server.idle.api import router as idle_router
from server.intake.api import router as intake_router
from server.jobs.guests_api import router as guests_router
from server.jobs.vocabulary_api import router as vocabulary_router
from server.live.api import router as live_router
from server.logbook.logs_api import router as logs_router
from server.mornings.api import router as mornings_router
from server.order.api import router as jobs_router
from server.pulls.api import router as pulls_router
from server.tablebench.api import router as table_bench_router
from server.tablebench.transfer_api import router as transfer_router
from server.tasks.api import router as tasks_router
from server.trainer.api import router as trainer_router
from server.trials.api import router as trials_router
from server.trials.ladder_api import router as ladder_router
from server.trigger.api import router as trigger_router
from server.trigger.captures_api import router as captures_router
from server.wiring.api import router as wiring_router
from server.wiring.controllers_api import router as controllers_router

from . import problems
from .said import SentenceParser, SentenceRenderer


class DocumentedAPI(NinjaAPI):
    """An API whose every operation says what a refusal looks like, whatever its status."""

    def get_openapi_schema(self, **given: Any) -> OpenAPISchema:
        """Return the contract, with problem details as the answer where nothing else is said."""
        contract = super().get_openapi_schema(**given)
        refused = {
            "description": "Refused, with a sentence",
            "content": {
                "application/problem+json": {"schema": {"$ref": "#/components/schemas/Problem"}}
            },
        }
        for operations in contract["paths"].values():
            for operation in operations.values():
                told = {str(status): answer for status, answer in operation["responses"].items()}
                operation["responses"] = {"default": refused, **told}
        return contract


api = DocumentedAPI(
    title="Inbetrieb",
    version="1",
    description=(
        "Commissioning of programmable engine computers. Quantities carry their unit in the "
        "name. Errors are problem details (RFC 9457). An object whose sentences carry quantities "
        "has a member `said`: by member the template and the typed quantities."
    ),
    openapi_url="/openapi.json",
    docs_url=None,
    parser=SentenceParser(),
    renderer=SentenceRenderer(),
    auth=[TokenUser(), DemoClient(), SessionUser()],
)
problems.install(api)
for router in (
    accounts_router,
    people_router,
    guests_router,
    vocabulary_router,
    jobs_router,
    tasks_router,
    calibration_router,
    logs_router,
    trials_router,
    ladder_router,
    mornings_router,
    trainer_router,
    bench_router,
    exchange_router,
    hardware_router,
    sensors_router,
    key_on_router,
    supply_router,
    controllers_router,
    wiring_router,
    trigger_router,
    captures_router,
    intake_router,
    idle_router,
    first_start_router,
    base_maps_router,
    table_bench_router,
    transfer_router,
    live_router,
    fuelling_router,
    pulls_router,
    handover_router,
    archive_router,
    guide_router,
):
    api.add_router("", router)
