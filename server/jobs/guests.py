"""Links by which somebody outside the workshop may look at one job until a day."""

from __future__ import annotations

import hashlib
import secrets
from datetime import date, timedelta

from django.contrib.auth.models import User
from django.db.models import QuerySet
from django.shortcuts import get_object_or_404
from django.utils import timezone
from inbetrieb_core.errors import FieldProblem, InputRefused, field_refused

from server.config.writes import writing

from .models import GuestLink, Job

#: A link holds at most so long. [d]
MOST_DAYS = 366
_MOST_LINKS = 50


def holding() -> QuerySet[GuestLink]:
    """Return the links that hold today."""
    return GuestLink.objects.filter(ends_on__gte=timezone.localdate(), taken_back_at=None)


def links_of(job: Job) -> list[tuple[GuestLink, bool]]:
    """Return the links to a job, the newest first, and whether each holds."""
    held = set(holding().filter(job=job).values_list("pk", flat=True))
    links = job.guest_links.select_related("made_by").order_by("-pk")
    return [(link, link.pk in held) for link in links]


@writing()
def make_link(job: Job, by: User, name: str, ends_on: date) -> tuple[GuestLink, str]:
    """Return a new link to a job and its secret, which is shown this once.

    Raises
    ------
    InputRefused
        If it is for nobody, or ends too early or too late.
    """
    problems, name, today = [], name.strip(), timezone.localdate()
    if not 1 <= len(name) <= 40:
        problems.append(FieldProblem("name", "Say for whom it is, in 1 to 40 characters."))
    if not today <= ends_on <= today + timedelta(days=MOST_DAYS):
        said = f"It must end between today and {MOST_DAYS} days from now."
        problems.append(FieldProblem("ends_on", said))
    if problems:
        raise InputRefused(problems)
    if job.guest_links.count() >= _MOST_LINKS:
        raise field_refused("name", f"At most {_MOST_LINKS} links of a job are kept.")
    secret = secrets.token_urlsafe(24)
    guest = User.objects.create_user(username=f"{name} (guest {secrets.token_hex(3)})")
    link = GuestLink.objects.create(
        job=job, user=guest, name=name, digest=_digest_of(secret), made_by=by, ends_on=ends_on
    )
    return link, secret


@writing()
def take_back(job: Job, link_id: int) -> None:
    """Have a link of a job hold no longer, and whoever came by it with it.

    Raises
    ------
    Http404
        If there is none.
    """
    link = get_object_or_404(GuestLink, pk=link_id, job=job)
    if link.taken_back_at is None:
        link.taken_back_at = timezone.now()
        link.save(update_fields=["taken_back_at"])


def link_of_secret(secret: str) -> GuestLink | None:
    """Return the link of a secret, None if there is none that holds."""
    return holding().filter(digest=_digest_of(secret)).select_related("user").first()


def _digest_of(secret: str) -> str:
    return hashlib.sha256(secret.encode()).hexdigest()
