"""Bodies as they come in: no more is taken off the wire than the sender may send.

Django's own handler writes a whole body to disk before anybody is asked who sent it. Here the length
that is stated, and then the bytes that come, are held against the address and the sender first.
"""

from __future__ import annotations

from collections.abc import Awaitable, Callable, Mapping
from typing import Any

from asgiref.sync import sync_to_async
from django.conf import settings
from django.utils.module_loading import import_string

from .middleware import most_of, too_large
from .problems import Problem

Message = Mapping[str, Any]
Receive = Callable[[], Awaitable[Message]]
Send = Callable[[Message], Awaitable[None]]
Application = Callable[[dict[str, Any], Receive, Send], Awaitable[None]]


class _TooMuchError(Exception):
    """More came than was allowed."""


class BoundedBodies:
    """An application in front of another: it hears only bodies that may be sent to it.

    Parameters
    ----------
    application : callable
        The ASGI application behind it.
    """

    def __init__(self, application: Application) -> None:
        self.application = application

    async def __call__(self, scope: dict[str, Any], receive: Receive, send: Send) -> None:
        """Answer 401 or 413 instead of reading a body that is too large for who sends it."""
        if scope["type"] != "http" or scope["method"] in ("GET", "HEAD", "OPTIONS"):
            await self.application(scope, receive, send)
            return
        headers = {
            name.decode("latin-1").lower(): v.decode("latin-1") for name, v in scope["headers"]
        }
        stated = headers.get("content-length", "")
        length = int(stated) if stated.isdecimal() else None
        largest, advice = most_of(scope["path"])
        small = settings.LARGEST_BODY_OF_STRANGERS
        if length is None or length > small:
            known = import_string(settings.KNOWS_WHO)
            client = (scope.get("client") or ("",))[0]
            if not await sync_to_async(known)(headers, client):
                if length is not None:
                    await _refuse(send, 401, "Sign in", "Sign in first, then send it again.")
                    return
                largest, advice = small, "Sign in first."
        if length is not None and length > largest:
            await _refuse(send, 413, "File too large", too_large(largest, advice, length))
            return
        await self._counted(scope, receive, send, largest, advice)

    async def _counted(
        self,
        scope: dict[str, Any],
        receive: Receive,
        send: Send,
        largest: int,
        advice: str,
    ) -> None:
        """Run the application on a body whose bytes are counted while they come."""
        came, answered = 0, False

        async def counting() -> Message:
            nonlocal came
            message = await receive()
            came += len(message.get("body", b""))
            if came > largest:
                raise _TooMuchError
            return message

        async def sending(message: Message) -> None:
            nonlocal answered
            answered = True
            await send(message)

        try:
            await self.application(scope, counting, sending)
        except _TooMuchError:
            if not answered:
                await _refuse(send, 413, "File too large", too_large(largest, advice))


async def _refuse(send: Send, status: int, title: str, detail: str) -> None:
    body = Problem(title=title, status=status, detail=detail).model_dump_json().encode()
    head = [
        (b"content-type", b"application/problem+json"),
        (b"content-length", str(len(body)).encode()),
        (b"connection", b"close"),
    ]
    await send({"type": "http.response.start", "status": status, "headers": head})
    await send({"type": "http.response.body", "body": body})
