"""The request as endpoints see it: the API has refused everybody who is not signed in."""

from django.contrib.auth.models import User
from django.http import HttpRequest


class SignedInRequest(HttpRequest):
    """A request of a signed-in user."""

    user: User
