"""Middleware that belongs to no app."""

from __future__ import annotations

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse
from inbetrieb_core.logs import LARGEST_BYTES
from inbetrieb_core.triggers import LARGEST_CAPTURE_BYTES

from .problems import answer

_MULTIPART_ROOM = 1024 * 1024


class RefuseHugeBodies:
    """Answer 413 by the stated length, before a body is parsed."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Refuse a request whose body is larger than any log, or any capture, may be."""
        try:
            length = int(request.META.get("CONTENT_LENGTH") or 0)
        except ValueError:
            length = 0
        is_capture = "/captures" in request.path
        largest = LARGEST_CAPTURE_BYTES if is_capture else LARGEST_BYTES
        if length > largest + _MULTIPART_ROOM:
            detail = (
                f"The file has {length / 1e6:.0f} MB; up to {largest / 1e6:.0f} MB can be read. "
                + (
                    "Capture a shorter stretch."
                    if is_capture
                    else "Cut the log to the part around the start."
                )
            )
            return answer(413, "File too large", detail)
        return self.get_response(request)
