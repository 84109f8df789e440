"""Who works in a workshop, and what each may do."""

from __future__ import annotations

from ninja import Field, Router, Schema, Status

from server.config.body import RequestBody
from server.config.problems import Problem

from . import services
from .models import Membership, Role
from .requests import SignedInRequest
from .rights import ROLES_SAID

router = Router(tags=["people"])


class PersonOut(Schema):
    """Somebody who works here."""

    id: int
    username: str
    role: Role
    is_you: bool


class RoleOut(Schema):
    """A role that can be given."""

    key: Role
    title: str
    said: str = Field(description="what it may do, added to the roles before it")


class PeopleOut(Schema):
    """Who works here, and the roles, the least first."""

    people: list[PersonOut]
    roles: list[RoleOut]


class PersonIn(RequestBody):
    """A new person, with a first password that they change themselves."""

    username: str = Field(max_length=200)
    password: str = Field(max_length=1000)
    role: Role


class RoleIn(RequestBody):
    """Another role."""

    role: Role


def _out(place: Membership, request: SignedInRequest) -> PersonOut:
    return PersonOut(
        id=place.pk,
        username=place.user.get_username(),
        role=Role(place.role),
        is_you=place.user_id == request.user.pk,
    )


@router.get("/people", response={200: PeopleOut, 403: Problem}, operation_id="people_list")
def list_people(request: SignedInRequest) -> PeopleOut:
    """Return who works in one's workshop."""
    return PeopleOut(
        people=[_out(place, request) for place in services.people_of(request.user)],
        roles=[
            RoleOut(key=role, title=str(role.label), said=said) for role, said in ROLES_SAID.items()
        ],
    )


@router.post(
    "/people",
    response={201: PersonOut, 403: Problem, 422: Problem},
    operation_id="people_take_in",
)
def take_in(request: SignedInRequest, payload: PersonIn) -> Status[PersonOut]:
    """Take somebody into the workshop."""
    place = services.take_in(request.user, payload.username, payload.password, payload.role)
    return Status(201, _out(place, request))


@router.post(
    "/people/{person_id}/role",
    response={200: PersonOut, 403: Problem, 404: Problem, 422: Problem},
    operation_id="people_give_role",
)
def give_role(request: SignedInRequest, person_id: int, payload: RoleIn) -> PersonOut:
    """Give a person another role."""
    return _out(services.give_role(request.user, person_id, payload.role), request)


@router.delete(
    "/people/{person_id}",
    response={204: None, 403: Problem, 404: Problem, 422: Problem},
    operation_id="people_let_go",
)
def let_go(request: SignedInRequest, person_id: int) -> Status[None]:
    """End a person's place; what they wrote keeps their name."""
    services.let_go(request.user, person_id)
    return Status(204, None)
