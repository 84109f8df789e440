"""Who works here: workshops, their members, and tokens for programs."""

from __future__ import annotations

import hashlib
import secrets

from django.conf import settings
from django.db import models


class Workshop(models.Model):
    """A shop, or a person alone; every job belongs to one."""

    name = models.CharField(max_length=120)


class Role(models.TextChoices):
    """What a person may do in their workshop; see :mod:`.rights`."""

    OWNER = "owner", "Owner"
    MEMBER = "member", "Member"
    APPRENTICE = "apprentice", "Apprentice"


class Membership(models.Model):
    """A user's place in exactly one workshop."""

    role = models.CharField(max_length=12, choices=Role)
    user = models.OneToOneField(settings.AUTH_USER_MODEL, models.CASCADE, related_name="membership")
    workshop = models.ForeignKey(Workshop, models.CASCADE, related_name="memberships")


class ApiToken(models.Model):
    """A token of one user; only its digest is kept."""

    user = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="api_tokens")
    name = models.CharField(max_length=80)
    digest = models.CharField(max_length=64, unique=True)
    created_at = models.DateTimeField(auto_now_add=True)
    expires_at = models.DateTimeField(null=True, help_text="never, in tokens of earlier versions")

    @staticmethod
    def digest_of(token: str) -> str:
        """Return the digest under which a token is kept."""
        return hashlib.sha256(token.encode()).hexdigest()

    @staticmethod
    def new_token() -> str:
        """Return a new random token."""
        return secrets.token_urlsafe(32)
