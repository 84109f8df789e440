"""The demo user, and when a request may be taken as theirs."""

from __future__ import annotations

from ipaddress import ip_address

from django.conf import settings
from django.contrib.auth.models import User
from django.http import HttpRequest

from .who import is_forwarding

DEMO_USERNAME = "demo"


def is_from_this_machine(request: HttpRequest) -> bool:
    """Say whether a request comes from this machine itself, without a proxy between."""
    if any(is_forwarding(name.lower()) for name in request.headers):
        return False
    try:
        return ip_address(request.META.get("REMOTE_ADDR", "")).is_loopback
    except ValueError:
        return False


def demo_user(request: HttpRequest) -> User | None:
    """Return the demo user if demo mode is on and the request is from this machine."""
    if not settings.DEMO or not is_from_this_machine(request):
        return None
    return User.objects.filter(username=DEMO_USERNAME, is_active=True).first()
