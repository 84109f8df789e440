"""Middleware that belongs to no app."""

from __future__ import annotations

from collections.abc import Callable

from django.conf import settings
from django.http import HttpRequest, HttpResponse

from .problems import answer

_MULTIPART_ROOM = 1024 * 1024


_POLICY = "; ".join(
    (
        "default-src 'self'",
        "script-src 'self'",
        "style-src 'self' 'unsafe-inline'",
        "img-src 'self' data: blob:",
        "font-src 'self' data:",
        "connect-src 'self'",
        "object-src 'none'",
        "base-uri 'none'",
        "form-action 'self'",
        "frame-ancestors 'none'",
    )
)


class ContentPolicy:
    """Say to browsers that nothing is fetched from elsewhere, and no script stands in a page."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Add the policy to every answer."""
        response = self.get_response(request)
        response.headers.setdefault("Content-Security-Policy", _POLICY)
        return response


class RefuseHugeBodies:
    """Answer 413 by the stated length, before a body is parsed."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Refuse a request whose body is larger than anything its address takes."""
        try:
            length = int(request.META.get("CONTENT_LENGTH") or 0)
        except ValueError:
            length = 0
        largest, advice = most_of(request.path)
        if length > largest:
            return answer(413, "File too large", too_large(largest, advice, length))
        return self.get_response(request)


def most_of(path: str) -> tuple[int, str]:
    """Return the largest body that an address takes, and what to do with a larger one. [bytes]"""
    most, advice = next(
        (most, advice) for part, most, advice in settings.LARGEST_BODIES if part in path
    )
    return most + _MULTIPART_ROOM, advice


def too_large(largest: int, advice: str, length: int | None = None) -> str:
    """Return what is said of a body that is too large, where its length is known or not. [bytes]"""
    has = "This is too large" if length is None else f"The file has {_size(length)}"
    return f"{has}; up to {_size(largest)} can be read. {advice}"


def _size(length: int) -> str:
    return f"{length / 1e6:.0f} MB" if length >= 10**6 else f"{length // 1024} kB"
