"""Middleware that belongs to no app."""

from __future__ import annotations

from collections.abc import Callable

from django.conf import settings
from django.http import HttpRequest, HttpResponse

from .problems import answer

_MULTIPART_ROOM = 1024 * 1024


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
        largest, advice = next(
            (most, advice) for part, most, advice in settings.LARGEST_BODIES if part in request.path
        )
        if length > largest + _MULTIPART_ROOM:
            detail = (
                f"The file has {length / 1e6:.0f} MB; up to {largest / 1e6:.0f} MB can be read. "
                f"{advice}"
            )
            return answer(413, "File too large", detail)
        return self.get_response(request)
