"""Who sends a request, as far as its head says: asked before its body is read."""

from __future__ import annotations

from collections.abc import Mapping
from http.cookies import CookieError, SimpleCookie
from importlib import import_module
from ipaddress import ip_address

from django.conf import settings
from django.contrib.auth import SESSION_KEY

from .services import user_of_token


def is_known(headers: Mapping[str, str], client: str) -> bool:
    """Say whether a request is signed in, by session or token, or is a demo program on this machine.

    Parameters
    ----------
    headers : mapping
        Names in lower case.
    client : str
        Address it comes from.
    """
    kind, _, token = headers.get("authorization", "").partition(" ")
    if kind.lower() == "bearer":
        return user_of_token(token.strip()) is not None
    try:
        cookies = SimpleCookie(headers.get("cookie", ""))
    except CookieError:
        return False
    if (kept := cookies.get(settings.SESSION_COOKIE_NAME)) is not None:
        session = import_module(settings.SESSION_ENGINE).SessionStore(kept.value)
        if session.get(SESSION_KEY) is not None:
            return True
    return settings.DEMO and _is_loopback(client) and not any(is_forwarding(n) for n in headers)


def is_forwarding(header: str) -> bool:
    """Say whether a header is one that a proxy adds. Names in lower case."""
    return header.startswith("x-forwarded-") or header in ("forwarded", "via", "x-real-ip")


def _is_loopback(client: str) -> bool:
    try:
        return ip_address(client).is_loopback
    except ValueError:
        return False
