"""Errors as RFC 9457 problem details, mapped in one place."""

from __future__ import annotations

import errno
import logging
from typing import Any

from django.core.exceptions import (
    BadRequest,
    PermissionDenied,
    RequestDataTooBig,
    SuspiciousOperation,
)
from django.db import OperationalError
from django.http import Http404, HttpRequest, HttpResponse
from django.http.multipartparser import MultiPartParserError
from inbetrieb_core.errors import CoreError, FieldProblem, InputRefused, LogRefused
from ninja import NinjaAPI
from ninja.errors import AuthenticationError, HttpError, ValidationError
from pydantic import BaseModel, Field

from .said import rendered

logger = logging.getLogger(__name__)
#: So many errors of a body are looked at, and so many are told.
_LOOKED_AT, _TOLD = 200, 40


class FieldProblemOut(BaseModel):
    """One field and what is wrong with it."""

    field: str
    sentence: str


class Problem(BaseModel):
    """Problem details (RFC 9457) with a sentence a person can act on."""

    type: str = "about:blank"
    title: str
    status: int
    detail: str
    problems: list[FieldProblemOut] = Field(default_factory=list)
    extra: dict[str, Any] = Field(default_factory=dict, description="What helps to go on.")


class Refusal(Exception):
    """A refusal of the server: status, title, sentence, and what helps to go on."""

    def __init__(self, status: int, title: str, detail: str, **extra: Any) -> None:
        self.status, self.title, self.detail, self.extra = status, title, detail, extra
        super().__init__(detail)


def answer(
    status: int, title: str, detail: str, problems: tuple[FieldProblem, ...] = (), **extra: Any
) -> HttpResponse:
    """Return a problem as a response."""
    fields = [FieldProblemOut(field=p.field, sentence=p.sentence) for p in problems]
    body = Problem(title=title, status=status, detail=detail, problems=fields, extra=extra)
    return HttpResponse(
        rendered(body.model_dump_json()), status=status, content_type="application/problem+json"
    )


def _path(entry: dict[str, Any]) -> list[Any]:
    """Return where an entry is wrong, without the names of wrappers and classes."""
    outer = ("body", "data", "payload")
    return [p for p in entry["loc"] if p not in outer and not str(p).endswith("Entry")]


def _of_the_kind_meant(errors: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """Drop what is wrong with the other kinds of a part that can be of several kinds.

    A transfer may be a line, a table, a thermistor … and is tried as each of them. The kind
    that was meant is the one whose ``kind`` is right.
    """
    members: dict[tuple[Any, ...], list[dict[str, Any]]] = {}
    for entry in errors:
        at = next((i for i, p in enumerate(entry["loc"]) if str(p).endswith("Entry")), None)
        member = () if at is None else tuple(entry["loc"][: at + 1])
        members.setdefault(member, []).append(entry)
    several = [member for member in members if member]
    if len(several) < 2:
        return errors

    def is_meant(member: tuple[Any, ...]) -> bool:
        return not any(tuple(e["loc"]) in ((*member, "kind"), member) for e in members[member])

    meant = [member for member in several if is_meant(member)]
    if not meant:  # no kind at all: one sentence about it is enough
        return members.get((), []) + members[several[0]][:1]
    return members.get((), []) + [e for member in meant for e in members[member]]


def _not_stored(request: HttpRequest, error: Exception) -> HttpResponse:
    """Return what to say where something could not be written or read on the disk."""
    logger.exception("not stored in %s", request.path, exc_info=error)
    if getattr(error, "errno", None) == errno.ENOSPC or "full" in str(error):
        return answer(
            507, "Disk full", "The disk is full: nothing was written. Make room, then try again."
        )
    if "locked" in str(error):
        return answer(503, "Busy", "Somebody else is writing for long: try again in a moment.")
    return answer(
        500, "Something broke", "The server could not read or write its files; its log says why."
    )


def install(api: NinjaAPI) -> None:
    """Map every kind of error of an API to problem details."""

    @api.exception_handler(InputRefused)
    def input_refused(request: HttpRequest, error: InputRefused) -> HttpResponse:
        return answer(422, "Input refused", error.sentence, error.problems)

    @api.exception_handler(LogRefused)
    def log_refused(request: HttpRequest, error: LogRefused) -> HttpResponse:
        return answer(422, "Log refused", error.sentence, columns=list(error.columns))

    @api.exception_handler(CoreError)
    def core_refused(request: HttpRequest, error: CoreError) -> HttpResponse:
        return answer(422, "Input refused", error.sentence)

    @api.exception_handler(Refusal)
    def refused(request: HttpRequest, error: Refusal) -> HttpResponse:
        return answer(error.status, error.title, error.detail, **error.extra)

    @api.exception_handler(ValidationError)
    def not_valid(request: HttpRequest, error: ValidationError) -> HttpResponse:
        # Nobody reads a thousand of them; and to sort them out would take longer than to make them.
        first = _of_the_kind_meant(error.errors[:_LOOKED_AT])[:_TOLD]
        problems = tuple(
            FieldProblem(
                ".".join(str(part) for part in _path(entry))[:200],
                f"{'.'.join(str(p)[:60] for p in _path(entry)[-1:])}: {entry['msg'][:300]}.",
            )
            for entry in first
        )
        detail = " ".join(problem.sentence for problem in problems) or "The request is not valid."
        if (more := len(error.errors) - _LOOKED_AT) > 0:
            detail += f" And {more} more."
        return answer(422, "Input refused", detail, problems)

    @api.exception_handler(MultiPartParserError)
    @api.exception_handler(BadRequest)
    @api.exception_handler(SuspiciousOperation)
    def not_read(request: HttpRequest, error: Exception) -> HttpResponse:
        return answer(
            400, "Request refused", "The request cannot be read: its parts do not fit together."
        )

    @api.exception_handler(OSError)
    def not_stored(request: HttpRequest, error: OSError) -> HttpResponse:
        return _not_stored(request, error)

    @api.exception_handler(OperationalError)
    def not_written(request: HttpRequest, error: OperationalError) -> HttpResponse:
        return _not_stored(request, error)

    @api.exception_handler(Http404)
    def not_found(request: HttpRequest, error: Http404) -> HttpResponse:
        return answer(404, "Not found", "There is nothing here, or it is not yours.")

    @api.exception_handler(PermissionDenied)
    def denied(request: HttpRequest, error: PermissionDenied) -> HttpResponse:
        return answer(403, "Not allowed", str(error) or "You may not do this.")

    @api.exception_handler(AuthenticationError)
    def not_signed_in(request: HttpRequest, error: AuthenticationError) -> HttpResponse:
        return answer(
            401,
            "Sign in",
            "Sign in first (another tab will do, then try again here), or send a token: "
            "Authorization: Bearer …",
        )

    @api.exception_handler(RequestDataTooBig)
    def too_big(request: HttpRequest, error: RequestDataTooBig) -> HttpResponse:
        return answer(413, "Request too large", "The request is larger than this step needs.")

    @api.exception_handler(HttpError)
    def http_error(request: HttpRequest, error: HttpError) -> HttpResponse:
        if isinstance(error.__cause__, InputRefused):  # the framework wraps what its parser raises
            return answer(422, "Input refused", error.__cause__.sentence, error.__cause__.problems)
        sentence = str(error.__cause__ if isinstance(error.__cause__, CoreError) else error)
        if error.status_code == 403:  # the only one the framework raises is its CSRF check
            sentence = (
                "The request did not come from this application's own page. Reload it and retry."
            )
        return answer(error.status_code, "Request refused", sentence)

    @api.exception_handler(Exception)
    def unexpected(request: HttpRequest, error: Exception) -> HttpResponse:
        logger.exception("unexpected error in %s", request.path, exc_info=error)
        return answer(
            500,
            "Something broke",
            "The server made a mistake; nothing was changed. Its log says what happened.",
        )
