"""Signing in and out, and tokens."""

from __future__ import annotations

from django.conf import settings
from django.contrib.auth import authenticate, login, logout
from django.http import HttpRequest, HttpResponse
from django.middleware.csrf import get_token
from ninja import Field, Router, Schema, Status
from ninja.utils import check_csrf

from server.config.body import RequestBody
from server.config.problems import Problem, Refusal

from . import services
from .requests import SignedInRequest

router = Router(tags=["accounts"])


class SessionOut(Schema):
    """Who is signed in."""

    username: str | None
    workshop: str | None
    demo: bool = Field(description="Whether the server runs in demo mode.")


class SignInIn(RequestBody):
    """Name and password."""

    username: str
    password: str


class RegisterIn(SignInIn):
    """A new user with a workshop of their own."""

    workshop: str = ""


class TokenIn(RequestBody):
    """What the token is for."""

    name: str = "token"


class TokenOut(Schema):
    """A new token, shown this once."""

    token: str


def _session(request: HttpRequest) -> SessionOut:
    get_token(request)
    if not request.user.is_authenticated:
        return SessionOut(username=None, workshop=None, demo=settings.DEMO)
    workshop = services.workshop_of(request.user)
    return SessionOut(
        username=request.user.get_username(), workshop=workshop.name, demo=settings.DEMO
    )


def _require_csrf(request: HttpRequest) -> None:
    """Refuse a sign-in that another site's page sent."""
    if check_csrf(request) is not None:
        raise Refusal(403, "Not allowed", "Open the sign-in page again and retry.")


@router.get("/session", response=SessionOut, auth=None, operation_id="session_get")
def get_session(request: HttpRequest) -> SessionOut:
    """Return who is signed in."""
    return _session(request)


@router.post(
    "/session",
    response={200: SessionOut, 403: Problem, 422: Problem},
    auth=None,
    operation_id="session_create",
)
def sign_in(request: HttpRequest, payload: SignInIn) -> SessionOut:
    """Sign in with name and password."""
    _require_csrf(request)
    user = authenticate(request, username=payload.username, password=payload.password)
    if user is None:
        raise Refusal(422, "Sign-in refused", "Name and password do not match.")
    login(request, user)
    return _session(request)


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
    _require_csrf(request)
    user = services.register(
        username=payload.username, password=payload.password, workshop=payload.workshop
    )
    login(request, user, backend="django.contrib.auth.backends.ModelBackend")
    return Status(201, _session(request))


@router.post("/tokens", response={201: TokenOut, 401: Problem}, operation_id="tokens_create")
def create_token(request: SignedInRequest, payload: TokenIn) -> Status[TokenOut]:
    """Issue a token for programs."""
    return Status(201, TokenOut(token=services.issue_token(request.user, payload.name)))
