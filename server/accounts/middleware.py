"""Signing the demo user in."""

from __future__ import annotations

from collections.abc import Callable

from django.contrib.auth import login
from django.http import HttpRequest, HttpResponse

from .demo_user import demo_user


class SignInDemoUser:
    """In demo mode, on loopback only, sign the demo user in when the page is opened."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Sign in before the page or the session is asked for; the API itself never does."""
        page = not request.path.startswith(("/api/", "/static/")) or request.path == "/api/session"
        # Somebody who signed out on purpose stays signed out until the browser closes.
        left = request.COOKIES.get("signed_out") == "1"
        if page and request.method == "GET" and not left and not request.user.is_authenticated:
            user = demo_user(request)
            if user is not None:
                login(request, user, backend="django.contrib.auth.backends.ModelBackend")
        return self.get_response(request)
