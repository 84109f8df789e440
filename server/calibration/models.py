"""Revisions: saved states of a whole calibration, never changed afterwards."""

from typing import Literal

from django.conf import settings
from django.db import models

from server.config.append_only import AppendOnly
from server.jobs.models import Job

#: How a revision came about; the published contract and the screen know exactly these.
Origin = Literal[
    "generated", "edit", "accept", "restore", "import", "injectors", "dwell",
    "inherited", "base_maps", "carried", "axes",
]  # fmt: skip


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


class Inherited(AppendOnly):
    """What was found in a controller: which tables of a revision came from files or pastes."""

    job = models.ForeignKey(Job, models.CASCADE, related_name="inherited")
    revision = models.OneToOneField(Revision, models.CASCADE, related_name="inherited")
    tables = models.JSONField(help_text="keys of the tables that were found")
    sources = models.JSONField(help_text="name, understood and passed over of each file or paste")
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    created_at = models.DateTimeField(auto_now_add=True)


class AcceptedFinding(AppendOnly):
    """Why a finding in a table is right all the same; it counts as long as the cells stay."""

    job = models.ForeignKey(Job, models.CASCADE, related_name="accepted_findings")
    identifier = models.CharField(max_length=160)
    cells = models.JSONField(help_text="table, indices and the values they had")
    reason = models.TextField()
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    created_at = models.DateTimeField(auto_now_add=True)


class Transfer(AppendOnly):
    """A revision that somebody typed or loaded into the controller: it is in the car."""

    job = models.ForeignKey(Job, models.CASCADE, related_name="transfers")
    revision = models.ForeignKey(Revision, models.PROTECT, related_name="transfers")
    how = models.CharField(max_length=10, help_text="typed or loaded")
    lines = models.PositiveIntegerField(help_text="values that were typed")
    note = models.TextField(blank=True)
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    created_at = models.DateTimeField(auto_now_add=True)
