"""Links to look at a job, and coming by one."""

from __future__ import annotations

from datetime import date, datetime

from django.contrib.auth import login
from django.http import HttpRequest
from ninja import Field, Router, Schema, Status

from server.accounts.api import require_csrf
from server.accounts.requests import SignedInRequest
from server.config.body import RequestBody
from server.config.problems import Problem, Refusal

from . import guests
from .services import job_of

router = Router(tags=["guests"])


class GuestLinkIn(RequestBody):
    """For whom a link is, and its last day."""

    name: str = Field(max_length=200)
    ends_on: date


class GuestLinkOut(Schema):
    """A link that holds, or held; its secret is not kept."""

    id: int
    name: str
    made_by: str
    made_at: datetime
    ends_on: date
    holds: bool


class NewGuestLinkOut(Schema):
    """A new link: the path below the address of this server, shown this once."""

    path: str


class SecretIn(RequestBody):
    """The secret of a link."""

    secret: str = Field(max_length=200)


class GuestJobOut(Schema):
    """The job that a guest came for."""

    job: int


@router.get(
    "/jobs/{job_id}/guests",
    response={200: list[GuestLinkOut], 404: Problem},
    operation_id="guests_list",
)
def list_links(request: SignedInRequest, job_id: int) -> list[GuestLinkOut]:
    """Return the links to a job, the newest first."""
    return [
        GuestLinkOut(
            id=link.pk,
            name=link.name,
            made_by=link.made_by.get_username(),
            made_at=link.made_at,
            ends_on=link.ends_on,
            holds=holds,
        )
        for link, holds in guests.links_of(job_of(request.user, job_id))
    ]


@router.post(
    "/jobs/{job_id}/guests",
    response={201: NewGuestLinkOut, 404: Problem, 422: Problem},
    operation_id="guests_make",
)
def make_link(
    request: SignedInRequest, job_id: int, payload: GuestLinkIn
) -> Status[NewGuestLinkOut]:
    """Make a link by which somebody may look at the job; nothing can be changed by it."""
    job = job_of(request.user, job_id)
    _, secret = guests.make_link(job, request.user, payload.name, payload.ends_on)
    return Status(201, NewGuestLinkOut(path=f"/guest/{secret}"))


@router.delete(
    "/jobs/{job_id}/guests/{link_id}",
    response={204: None, 404: Problem},
    operation_id="guests_take_back",
)
def take_back(request: SignedInRequest, job_id: int, link_id: int) -> Status[None]:
    """Have a link hold no longer."""
    guests.take_back(job_of(request.user, job_id), link_id)
    return Status(204, None)


@router.post(
    "/session/guest",
    response={200: GuestJobOut, 403: Problem, 404: Problem},
    auth=None,
    operation_id="session_guest",
)
def come(request: HttpRequest, payload: SecretIn) -> GuestJobOut:
    """Come by a link: the session ends with it at the latest."""
    require_csrf(request)
    link = guests.link_of_secret(payload.secret)
    if link is None:
        raise Refusal(404, "Not found", "This link does not hold any more: ask for a new one.")
    login(request, link.user, backend="django.contrib.auth.backends.ModelBackend")
    return GuestJobOut(job=link.job_id)
