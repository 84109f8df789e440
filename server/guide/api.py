"""The guide over HTTP."""

from __future__ import annotations

from django.http import HttpResponse
from ninja import Router

from server.accounts.requests import SignedInRequest
from server.config.problems import Problem, Refusal

from .documents import Guide, guide, picture_of

router = Router(tags=["guide"])


@router.get("/guide", response={200: Guide}, operation_id="guide_get")
def get_guide(request: SignedInRequest) -> Guide:
    """Return the order of work, the glossary, and how everything is computed."""
    return guide()


@router.get(
    "/guide/pictures/{name}", response={200: None, 404: Problem}, operation_id="guide_picture"
)
def get_picture(request: SignedInRequest, name: str) -> HttpResponse:
    """Return a picture of the guide."""
    path = picture_of(name)
    if path is None:
        raise Refusal(404, "Not found", "The guide has no such picture.")
    return HttpResponse(path.read_bytes(), content_type="image/png")
