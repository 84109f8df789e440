"""Revisions: saved states of a whole calibration, never changed afterwards."""

from typing import Literal

from django.conf import settings
from django.db import models

from server.config.append_only import AppendOnly
from server.jobs.models import Job

#: How a revision came about; the published contract and the screen know exactly these.
Origin = Literal["generated", "edit", "accept", "restore", "import", "injectors", "dwell"]


class Revision(AppendOnly):
    """One saved state. `tables` is the core's plain form as JSON text."""

    job = models.ForeignKey(Job, models.CASCADE, related_name="revisions")
    number = models.PositiveIntegerField()
    based_on = models.PositiveIntegerField(null=True)
    origin = models.CharField(max_length=20, help_text="generated, edit, accept, restore, import")
    note = models.TextField(blank=True)
    tables = models.TextField()
    changed = models.JSONField(default=dict, help_text="changed cells per table against based_on")
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "number"], name="revision_number")]
