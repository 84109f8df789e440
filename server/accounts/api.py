"""Signing in and out, and tokens."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated

from django.conf import settings
from django.contrib.auth import authenticate, login, logout, update_session_auth_hash
from django.http import HttpRequest, HttpResponse
from django.middleware.csrf import get_token
from inbetrieb_core.errors import InputRefused
from ninja import Field, Router, Schema, Status
from ninja.utils import check_csrf

from server.config.body import RequestBody
from server.config.problems import Problem, Refusal

from . import rights, services, throttle
from .requests import SignedInRequest

router = Router(tags=["accounts"])


class SessionOut(Schema):
    """Who is signed in."""

    username: str | None
    workshop: str | None
    may_record: bool = Field(description="whether what is seen may be written down")
    may_release: bool = Field(description="whether tables, plans and gates may be changed")
    may_rule: bool = Field(description="whether it may be said who works here")
    bounds: str = Field(description="what is said to somebody who may not do everything")
    demo: bool = Field(description="Whether the server runs in demo mode.")
    registration: bool = Field(description="whether anybody may make a workshop of their own")


class SignInIn(RequestBody):
    """Name and password."""

    username: str
    password: str


class RegisterIn(SignInIn):
    """A new user with a workshop of their own."""

    workshop: str = ""


class TokenIn(RequestBody):
    """What the token is for, and how long it holds."""

    name: str = Field("token", max_length=80)
    days: Annotated[int, Field(ge=1, le=730)] | None = Field(
        None, description=f"how long it holds; {services.TOKEN_DAYS} where not given [d]"
    )


class TokenOut(Schema):
    """A new token, shown this once."""

    token: str


class KnownTokenOut(Schema):
    """A token that holds, or held; the token itself is not kept."""

    id: int
    name: str
    created_at: datetime
    expires_at: datetime | None


class PasswordIn(RequestBody):
    """Another password."""

    old: str = Field(max_length=1000)
    new: str = Field(max_length=1000)


def session_out(request: HttpRequest) -> SessionOut:
    get_token(request)
    user = request.user if request.user.is_authenticated else None
    role = None if user is None else rights.role_of(user)
    return SessionOut(
        username=None if user is None else user.get_username(),
        workshop=None if user is None else services.workshop_name(user),
        may_record=rights.may_record(role),
        may_release=rights.may_release(role),
        may_rule=rights.may_rule(role),
        bounds="" if user is None else rights.bounds_said(role),
        demo=settings.DEMO,
        registration=settings.REGISTRATION_OPEN,
    )


def require_csrf(request: HttpRequest) -> None:
    """Refuse a sign-in that another site's page sent."""
    if check_csrf(request) is not None:
        raise Refusal(403, "Not allowed", "Open the sign-in page again and retry.")


@router.get("/session", response=SessionOut, auth=None, operation_id="session_get")
def get_session(request: HttpRequest) -> SessionOut:
    """Return who is signed in."""
    return session_out(request)


@router.post(
    "/session",
    response={200: SessionOut, 403: Problem, 422: Problem, 429: Problem},
    auth=None,
    operation_id="session_create",
)
def sign_in(request: HttpRequest, payload: SignInIn) -> SessionOut:
    """Sign in with name and password."""
    require_csrf(request)
    throttle.refuse_if_too_often(request, payload.username)
    user = authenticate(request, username=payload.username, password=payload.password)
    if user is None:
        throttle.note_wrong(request, payload.username)
        raise Refusal(422, "Sign-in refused", "Name and password do not match.")
    throttle.note_right(request, payload.username)
    services.ensure_workshop(user)
    login(request, user)
    return session_out(request)


@router.delete("/session", response={204: None}, operation_id="session_delete")
def sign_out(request: HttpRequest, response: HttpResponse) -> Status[None]:
    """Sign out."""
    logout(request)
    response.set_cookie("signed_out", "1", samesite="Lax")
    return Status(204, None)


@router.post(
    "/users",
    response={201: SessionOut, 403: Problem, 422: Problem},
    auth=None,
    operation_id="users_create",
)
def register(request: HttpRequest, payload: RegisterIn) -> Status[SessionOut]:
    """Create a user with a workshop of their own and sign in."""
    require_csrf(request)
    if not settings.REGISTRATION_OPEN:
        raise Refusal(403, "Not open", "Workshops are made by whoever runs this server: ask there.")
    user = services.register(
        username=payload.username, password=payload.password, workshop=payload.workshop
    )
    login(request, user, backend="django.contrib.auth.backends.ModelBackend")
    return Status(201, session_out(request))


@router.post("/tokens", response={201: TokenOut, 401: Problem}, operation_id="tokens_create")
def create_token(request: SignedInRequest, payload: TokenIn) -> Status[TokenOut]:
    """Issue a token for programs."""
    token = services.issue_token(request.user, payload.name, payload.days)
    return Status(201, TokenOut(token=token))


@router.get("/tokens", response=list[KnownTokenOut], operation_id="tokens_list")
def list_tokens(request: SignedInRequest) -> list[KnownTokenOut]:
    """Return one's tokens, the newest first."""
    return [
        KnownTokenOut(
            id=token.pk, name=token.name, created_at=token.created_at, expires_at=token.expires_at
        )
        for token in services.tokens_of(request.user)
    ]


@router.delete(
    "/tokens/{token_id}", response={204: None, 404: Problem}, operation_id="tokens_delete"
)
def revoke_token(request: SignedInRequest, token_id: int) -> Status[None]:
    """Have a token hold no longer."""
    services.revoke_token(request.user, token_id)
    return Status(204, None)


@router.post(
    "/session/password",
    response={204: None, 422: Problem, 429: Problem},
    operation_id="session_password",
)
def change_password(request: SignedInRequest, payload: PasswordIn) -> Status[None]:
    """Change one's password; whoever else is signed in by the old one no longer is."""
    throttle.refuse_if_too_often(request, request.user.get_username())
    try:
        services.change_password(request.user, payload.old, payload.new)
    except InputRefused as error:
        if any(problem.field == "old" for problem in error.problems):
            throttle.note_wrong(request, request.user.get_username())
        raise
    update_session_auth_hash(request, request.user)
    return Status(204, None)
