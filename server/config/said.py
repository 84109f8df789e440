"""Sentences on their way out: canonical text, and beside it the template and the quantities.

An object with a sentence that carries quantities gets a member `said`: for each such member of the
object its template and quantities (for a list of sentences a list, null where one carries none).
Whoever wants canonical units reads the text; the screen fills the template in the job's units.
"""

from __future__ import annotations

import json
from dataclasses import asdict
from typing import Any

from django.http import HttpRequest
from inbetrieb_core.sentences import has_quantities, plain, typed
from ninja.errors import HttpError
from ninja.parser import Parser
from ninja.renderers import JSONRenderer

from .at_the_door import read_json

#: How a mark looks in JSON, escaped or not.
_SIGNS = ("\\ue000", "\ue000")


def with_said(data: Any) -> Any:
    """Return JSON data with canonical sentences, and `said` where they carry quantities."""
    if isinstance(data, dict):
        return _object(data)
    if isinstance(data, list):
        return [with_said(entry) for entry in data]
    return plain(data) if isinstance(data, str) else data


def _object(data: dict[str, Any]) -> dict[str, Any]:
    said: dict[str, Any] = {}
    for key, value in data.items():
        if isinstance(value, str) and has_quantities(value):
            said[key] = asdict(typed(value))
        elif isinstance(value, list) and any(
            isinstance(entry, str) and has_quantities(entry) for entry in value
        ):
            said[key] = [
                asdict(typed(entry)) if isinstance(entry, str) and has_quantities(entry) else None
                for entry in value
            ]
    result = {key: with_said(value) for key, value in data.items()}
    return {**result, "said": said} if said else result


def rendered(text: str) -> str:
    """Return JSON text with its sentences as they travel."""
    if not any(sign in text for sign in _SIGNS):
        return text
    return json.dumps(with_said(json.loads(text)), ensure_ascii=False, separators=(",", ":"))


def without_said(data: Any) -> Any:
    """Return JSON data without `said`: what was fetched may be sent back as it is."""
    if isinstance(data, dict):
        return {
            key: without_said(value)
            for key, value in data.items()
            if not (key == "said" and isinstance(value, dict))
        }
    return [without_said(entry) for entry in data] if isinstance(data, list) else data


class SentenceParser(Parser):
    """Reads request bodies; the typed form of a sentence is not part of what is sent back."""

    def parse_body(self, request: HttpRequest) -> Any:
        """Return the JSON data of a body."""
        data = read_json(request.body)
        if not isinstance(data, dict):
            raise HttpError(400, "The body of a request is a JSON object.")
        return without_said(data) if b'"said"' in request.body else data


class SentenceRenderer(JSONRenderer):
    """Renders answers, with sentences as they travel."""

    def render(self, request: HttpRequest, data: Any, *, response_status: int) -> Any:
        """Return the JSON text of an answer."""
        return rendered(super().render(request, data, response_status=response_status))
