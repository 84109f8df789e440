"""Trials and decisions: what was tried on the engine, written once."""

from django.conf import settings
from django.db import models

from server.calibration.models import Revision
from server.config.append_only import AppendOnly
from server.jobs.models import Job
from server.logbook.models import Log


class Trial(AppendOnly):
    """One start: what was tried, on which revision, and what the rulebook said of it."""

    job = models.ForeignKey(Job, models.CASCADE, related_name="trials")
    number = models.PositiveIntegerField()
    kind = models.CharField(max_length=20, default="start")
    log = models.ForeignKey(Log, models.PROTECT, null=True, related_name="trials")
    start_number = models.PositiveIntegerField(default=1)
    observation = models.JSONField(null=True)
    revision = models.ForeignKey(Revision, models.PROTECT)
    ambient_c = models.FloatField(null=True)
    soak_h = models.FloatField(null=True)
    attempt = models.PositiveIntegerField(default=1)
    black_smoke = models.BooleanField(default=False)
    fuel_smell = models.BooleanField(default=False)
    note = models.TextField(blank=True)
    coolant_c = models.FloatField()
    verdict = models.CharField(max_length=40)
    good = models.BooleanField()
    analysis = models.JSONField()
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "number"], name="trial_number")]


class TrialInShort(AppendOnly):
    """What a list says of a trial: no analysis is read for it."""

    trial = models.OneToOneField(Trial, models.CASCADE, primary_key=True, related_name="in_short")
    sentence = models.TextField()
    advised = models.JSONField(null=True, help_text="table and index of the cell that is advised")


class Weighing(AppendOnly):
    """Whether what a trial taught counts in the estimate; the newest row of a trial decides."""

    trial = models.ForeignKey(Trial, models.CASCADE, related_name="weighings")
    counts = models.BooleanField()
    reason = models.TextField()
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    created_at = models.DateTimeField(auto_now_add=True)


class Decision(AppendOnly):
    """What was decided on a trial's advice, once."""

    trial = models.OneToOneField(Trial, models.CASCADE, related_name="decision")
    kind = models.CharField(max_length=10, help_text="accepted or declined")
    changes = models.JSONField(default=list)
    note = models.TextField(blank=True)
    revision = models.ForeignKey(Revision, models.PROTECT, null=True)
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    created_at = models.DateTimeField(auto_now_add=True)
