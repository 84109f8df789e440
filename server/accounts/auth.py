"""How a request says whose it is: token, demo program, or session."""

from __future__ import annotations

from typing import Any

from django.contrib.auth.models import User
from django.http import HttpRequest
from ninja.security import HttpBearer, SessionAuth
from ninja.security.base import AuthBase

from .demo_user import demo_user
from .rights import refuse_if_not_allowed
from .services import user_of_token


class TokenUser(HttpBearer):
    """``Authorization: Bearer`` with a token of the user."""

    def authenticate(self, request: HttpRequest, token: str) -> User | None:
        """Return the token's user and make it the request's."""
        user = user_of_token(token)
        if user is not None:
            request.user = user
            refuse_if_not_allowed(request, user)
        return user


class DemoClient(AuthBase):
    """In demo mode, a program on this machine (not a browser) counts as the demo user.

    Browsers always send Origin or Sec-Fetch-Site with a request that writes, so a foreign
    page cannot use this way around the CSRF check.
    """

    openapi_type = "apiKey"
    openapi_name = "demo"
    openapi_in = "header"

    def __call__(self, request: HttpRequest) -> Any:
        """Return the demo user for a program on this machine, None otherwise."""
        if request.META.get("HTTP_ORIGIN") or request.META.get("HTTP_SEC_FETCH_SITE"):
            return None
        if request.META.get("HTTP_AUTHORIZATION"):
            return None
        user = demo_user(request)
        if user is not None:
            request.user = user
            refuse_if_not_allowed(request, user)
        return user


class SessionUser(SessionAuth):
    """The signed-in user of the session, with CSRF check; a token that is wrong is not passed over."""

    def __call__(self, request: HttpRequest) -> Any:
        """Return the user of the session, None where a token was sent."""
        user = None if request.META.get("HTTP_AUTHORIZATION") else super().__call__(request)
        if user is not None:
            refuse_if_not_allowed(request, user)
        return user
