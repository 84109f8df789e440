"""Parts of the library as files, out and in."""

from __future__ import annotations

from dataclasses import asdict

from django.http import HttpResponse
from ninja import File, Form, Router, Schema, UploadedFile

from server.accounts.requests import SignedInRequest
from server.accounts.services import workshop_of
from server.config.problems import Problem, Refusal

from . import exchange
from .library import LibraryKind
from .models import LibraryItem

router = Router(tags=["hardware"])


class PartDiffersOut(Schema):
    """A field in which a part of a file and the kept one differ."""

    field: str
    file: str
    own: str


class PartBesideOut(Schema):
    """A part of a file beside the workshop's own of that name."""

    number: int
    kind: LibraryKind
    name: str
    source: str
    licence: str
    state: exchange.State
    differs: list[PartDiffersOut]
    own_source: str


class PartsTakenOut(Schema):
    """How many parts were kept."""

    taken: int


@router.get("/library/file", response={200: None}, operation_id="library_file")
def get_file(request: SignedInRequest) -> HttpResponse:
    """Return the workshop's own parts as one JSON file, each with its source and licence."""
    items = LibraryItem.objects.filter(workshop=workshop_of(request.user), kind__in=("sensor", "injectors", "supply")).order_by("kind", "name")  # fmt: skip
    answer = HttpResponse(exchange.written(list(items)), content_type="application/json")
    answer["Content-Disposition"] = 'attachment; filename="parts.json"'
    return answer


@router.post(
    "/library/file/look",
    response={200: list[PartBesideOut], 422: Problem},
    operation_id="library_look",
)
def look(request: SignedInRequest, file: File[UploadedFile]) -> list[PartBesideOut]:
    """Say what a file of parts holds and how it differs from the own ones; nothing is kept."""
    found = exchange.beside(request.user, _parts(file))
    return [
        PartBesideOut(
            **{**asdict(one), "differs": [PartDiffersOut(field=f, file=a, own=b) for f, a, b in one.differs]}
        )
        for one in found
    ]  # fmt: skip


@router.post(
    "/library/file/take",
    response={200: PartsTakenOut, 422: Problem},
    operation_id="library_take",
)
def take(request: SignedInRequest, file: File[UploadedFile], numbers: Form[str]) -> PartsTakenOut:
    """Keep the chosen parts of a file (their numbers as a JSON list), in place of own ones of the same name."""
    chosen = exchange.numbers_of(numbers)
    return PartsTakenOut(taken=exchange.take(request.user, _parts(file), chosen))


def _parts(file: UploadedFile) -> tuple[exchange.TravellingPart, ...]:
    if (file.size or 0) > exchange.LARGEST_BYTES:
        raise Refusal(413, "File too large", "A file of parts has up to 1 MB.")
    return exchange.read_parts(file.read())
