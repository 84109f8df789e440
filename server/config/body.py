"""What every request body has in common."""

from ninja import Schema
from pydantic import ConfigDict


class RequestBody(Schema):
    """The body of a request. Strict: a misspelt field is refused, not quietly left out."""

    model_config = ConfigDict(extra="forbid")
