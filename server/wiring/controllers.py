"""Controller profiles: those that ship, the workshop's own, and their files."""

from __future__ import annotations

import functools
import json
from pathlib import Path
from typing import Any

from django.contrib.auth.models import User
from inbetrieb_core.errors import CoreError, FieldProblem, InputRefused, field_refused
from inbetrieb_core.json_text import json_of
from inbetrieb_core.wiring import ControllerProfile
from pydantic import ValidationError

from server.accounts.services import workshop_of
from server.config.problems import Refusal
from server.config.writes import writing
from server.entries.kinds import problems_of
from server.hardware.models import LibraryItem

from .kinds import CONTROLLER

_FOLDER = Path(__file__).parent / "controllers"
LARGEST_FILE_BYTES = 1_000_000
_MOST_OWN = 200


@functools.cache
def shipped() -> dict[str, ControllerProfile]:
    """Return the profiles that ship, by key."""
    return {
        f"shipped:{path.stem}": CONTROLLER.read(json.loads(path.read_bytes())).check()
        for path in sorted(_FOLDER.glob("*.json"), key=lambda p: p.stat().st_size)
    }


def own_items(user: User) -> list[LibraryItem]:
    """Return the profiles of the user's workshop."""
    rows = LibraryItem.objects.filter(workshop__memberships__user=user, kind="controller")
    return list(rows.order_by("name"))


def all_profiles(user: User) -> dict[str, ControllerProfile]:
    """Return every profile that a user may choose, the workshop's own first."""
    own = {f"own:{i.pk}": CONTROLLER.read(i.data) for i in own_items(user)}
    return {**own, **shipped()}


def profile_of(user: User, key: str) -> ControllerProfile:
    """Return one profile.

    Raises
    ------
    InputRefused
        If there is none of that key.
    """
    if key in shipped():
        return shipped()[key]
    for item in own_items(user):
        if key == f"own:{item.pk}":
            return CONTROLLER.read(item.data)
    raise field_refused("controller", f"There is no controller '{key[:40]}'.")


@writing()
def keep(user: User, profile: ControllerProfile) -> LibraryItem:
    """Keep a profile in the workshop; one of the same name is replaced.

    Plans hold a copy of their controller and do not change with it.

    Raises
    ------
    InputRefused
        If the profile makes no sense.
    """
    profile.check()
    workshop = workshop_of(user)
    if LibraryItem.objects.filter(workshop=workshop, kind="controller").count() >= _MOST_OWN:
        raise field_refused("name", f"At most {_MOST_OWN} controllers are kept; drop one first.")
    item, _ = LibraryItem.objects.update_or_create(
        workshop=workshop,
        kind="controller",
        key="",
        name=profile.name.strip()[:120],
        defaults={"data": CONTROLLER.plain(profile)},
    )
    return item


def read_file(data: bytes) -> ControllerProfile:
    """Return the profile of a file.

    Raises
    ------
    Refusal
        413 if it is too large.
    CoreError
        If it is no JSON of this format; with a sentence for each field that cannot be.
    """
    if len(data) > LARGEST_FILE_BYTES:
        raise Refusal(413, "File too large", "A controller profile has less than 1 MB.")
    try:
        plain: Any = json_of(data.decode("utf-8-sig"))
    except ValueError as error:
        raise CoreError("The file cannot be read as JSON.") from error
    if not isinstance(plain, dict) or plain.get("format") != "inbetrieb-controller/1":
        raise CoreError('The file does not say "format": "inbetrieb-controller/1".')
    try:
        return CONTROLLER.read(plain).check()
    except ValidationError as error:
        raise InputRefused(
            [FieldProblem(at, f"{at}: {wrong}.") for at, wrong in problems_of(error)[:40]]
        ) from error


def write_file(profile: ControllerProfile) -> bytes:
    """Return a profile as a file."""
    plain = CONTROLLER.plain(profile)
    return json.dumps(plain, ensure_ascii=False, indent=1).encode()


def schema() -> dict[str, Any]:
    """Return the JSON Schema of a profile's file."""
    made = CONTROLLER.json_schema()
    made["$schema"] = "https://json-schema.org/draft/2020-12/schema"
    made["title"] = "Controller profile, inbetrieb-controller/1"
    return made
