"""Request bodies that refuse what they do not know."""

from __future__ import annotations

from ninja import Schema
from pydantic import ConfigDict


class Body(Schema):
    """A request body in which a misspelt field is refused, not quietly left out.

    Plain values of the core inside it are as strict: they take this configuration over.
    """

    model_config = ConfigDict(extra="forbid")
