"""Controllers over HTTP: choosing, making from a pin list, importing and exporting."""

from __future__ import annotations

import json
import re
from collections.abc import Mapping
from typing import Any

from django.http import HttpResponse
from inbetrieb_core.charge.fading import FADE_LAWS
from inbetrieb_core.sensors import FUNCTIONS
from inbetrieb_core.wiring import (
    BRANCH_TITLES,
    CAPABILITIES,
    FORMAT,
    IDLE_VALVES,
    IGNITIONS,
    INJECTIONS,
    LETTERS,
    OUTPUT_KINDS,
    SWITCH_INPUTS,
    ControllerProfile,
    read_pin_list,
    sizes_mm2,
)
from inbetrieb_core.wiring.capability import SHARED
from ninja import File, Router, Status, UploadedFile

from server.accounts.requests import SignedInRequest
from server.config.problems import Problem

from . import controllers
from .schemas import (
    ControllerIn,
    ControllerOut,
    NamedOut,
    OutputKindOut,
    PinListIn,
    PinListOut,
    WiringVocabularyOut,
)

router = Router(tags=["controllers"])


def _named(titles: Mapping[Any, str]) -> list[NamedOut]:
    return [NamedOut(key=key, title=title) for key, title in titles.items()]


@router.get("/wiring-vocabulary", response=WiringVocabularyOut, operation_id="wiring_vocabulary")
def vocabulary(request: SignedInRequest) -> WiringVocabularyOut:
    """Return what can be fitted, and the words for it."""
    return WiringVocabularyOut(
        capabilities=_named(CAPABILITIES),
        shared=list(SHARED),
        ignitions=_named(IGNITIONS),
        injections=_named(INJECTIONS),
        idle_valves=_named(IDLE_VALVES),
        outputs=[
            OutputKindOut(key=key, title=kind.title, current_a=kind.current_a, relay=kind.relay)
            for key, kind in OUTPUT_KINDS.items()
        ],
        inputs=_named(SWITCH_INPUTS),
        sensors=[
            NamedOut(key=key, title=function.title)
            for key, function in FUNCTIONS.items()
            if key != "battery"
        ],
        branches=_named(BRANCH_TITLES),
        colours=_named(LETTERS),
        sizes_mm2=list(sizes_mm2()),
        fade_laws=_named(FADE_LAWS),
        size_source="Resistance after ISO 6722-1, current at 50 °C after DIN VDE 0298-4 (both from "
        "memory; below 1 mm² assumed). Drop for copper at 70 °C.",
    )


@router.get("/controllers", response=list[ControllerOut], operation_id="controllers_list")
def list_controllers(request: SignedInRequest) -> list[ControllerOut]:
    """Return every controller that can be chosen, the workshop's own first."""
    return [_out(key, profile) for key, profile in controllers.all_profiles(request.user).items()]


def _out(key: str, profile: ControllerProfile) -> ControllerOut:
    kind, _, number = key.partition(":")
    return ControllerOut(
        key=key, library_id=int(number) if kind == "own" else None, profile=profile
    )


@router.post(
    "/controllers", response={201: ControllerOut, 422: Problem}, operation_id="controllers_save"
)
def save_controller(request: SignedInRequest, payload: ControllerIn) -> Status[ControllerOut]:
    """Keep a controller in the workshop; one of the same name is replaced."""
    item = controllers.keep(request.user, payload.profile)
    return Status(201, _out(f"own:{item.pk}", payload.profile))


@router.post(
    "/controllers/import",
    response={201: ControllerOut, 413: Problem, 422: Problem},
    operation_id="controllers_import",
)
def import_controller(request: SignedInRequest, file: File[UploadedFile]) -> Status[ControllerOut]:
    """Keep the controller of a file in the workshop."""
    profile = controllers.read_file(file.read(controllers.LARGEST_FILE_BYTES + 1))
    item = controllers.keep(request.user, profile)
    return Status(201, _out(f"own:{item.pk}", profile))


@router.post(
    "/controllers/pin-list",
    response={200: PinListOut, 422: Problem},
    operation_id="controllers_pin_list",
)
def pin_list(request: SignedInRequest, payload: PinListIn) -> PinListOut:
    """Read a pasted pin list; saves nothing."""
    read = read_pin_list(payload.text)
    profile = ControllerProfile(
        format=FORMAT,
        name=payload.name.strip() or "Own controller",
        connectors=read.connectors,
        pins=read.pins,
    )
    return PinListOut(profile=profile, sentences=list(read.sentences))


@router.get("/controllers/schema.json", response={200: None}, operation_id="controllers_schema")
def schema(request: SignedInRequest) -> HttpResponse:
    """Return the JSON Schema of a controller's file."""
    return HttpResponse(
        json.dumps(controllers.schema(), ensure_ascii=False, indent=1),
        content_type="application/schema+json",
    )


@router.get(
    "/controllers/{key}/file",
    response={200: None, 422: Problem},
    operation_id="controllers_file",
)
def controller_file(request: SignedInRequest, key: str) -> HttpResponse:
    """Return a controller as a file."""
    profile = controllers.profile_of(request.user, key)
    response = HttpResponse(controllers.write_file(profile), content_type="application/json")
    name = re.sub(r"[^A-Za-z0-9]+", "-", profile.name).strip("-").lower() or "controller"
    response["Content-Disposition"] = f'attachment; filename="{name}.json"'
    return response
