"""What is entered about a job, version by version."""

from django.conf import settings
from django.db import models

from server.config.append_only import AppendOnly
from server.jobs.models import Job


class Entry(AppendOnly):
    """One version of something entered; the newest of its kind and key counts."""

    job = models.ForeignKey(Job, models.CASCADE, related_name="entries")
    kind = models.CharField(max_length=12, help_text="name of a registered kind")
    key = models.CharField(
        max_length=40, blank=True, help_text="which of several, e.g. a sensor's function"
    )
    number = models.PositiveIntegerField()
    data = models.JSONField(null=True, help_text="as entered; null where it was removed")
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["job", "kind", "key", "number"], name="entry_number")
        ]
