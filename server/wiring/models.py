"""Sign-offs of a wiring list and what a meter read at its wires."""

from django.conf import settings
from django.db import models

from server.config.append_only import AppendOnly
from server.jobs.models import Job


class WiringSignOff(AppendOnly):
    """A wiring list as somebody signed it; what differs later is a change."""

    job = models.ForeignKey(Job, models.CASCADE, related_name="wiring_sign_offs")
    plan = models.PositiveIntegerField(help_text="version of the plan")
    lines = models.JSONField(help_text="the list as it was")
    note = models.TextField(blank=True)
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    created_at = models.DateTimeField(auto_now_add=True)


class WireCheck(AppendOnly):
    """One wire looked at: a tick, or a reading against what was expected."""

    job = models.ForeignKey(Job, models.CASCADE, related_name="wire_checks")
    line = models.CharField(max_length=60)
    pin = models.CharField(max_length=12, blank=True)
    reading = models.FloatField(null=True)
    unit = models.CharField(max_length=4, blank=True)
    good = models.BooleanField()
    sentence = models.TextField()
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    created_at = models.DateTimeField(auto_now_add=True)
