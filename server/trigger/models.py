"""Captured edges and output tests."""

from django.conf import settings
from django.db import models

from server.config.append_only import AppendOnly
from server.jobs.models import Job


class EdgeCapture(AppendOnly):
    """Edges of crank and cam, decoded against the trigger as it was entered."""

    job = models.ForeignKey(Job, models.CASCADE, related_name="captures")
    number = models.PositiveIntegerField()
    name = models.CharField(max_length=200)
    origin = models.CharField(max_length=10, help_text="upload or bench")
    about = models.JSONField(default=dict, help_text="conditions of the bench engine")
    trigger = models.JSONField(help_text="TriggerEntry as it was")
    reading = models.JSONField(help_text="channels, unit, sentences of the file")
    verdict = models.CharField(max_length=12)
    result = models.JSONField(help_text="sentence, speed, cam, compression, counts")
    edges = models.BinaryField(help_text="zlib of npz: crank_s, cam_s, and what was followed")
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "number"], name="capture_number")]


class OutputTest(AppendOnly):
    """One coil or injector commanded once."""

    job = models.ForeignKey(Job, models.CASCADE, related_name="output_tests")
    output = models.CharField(max_length=40, help_text="key of its function")
    heard = models.CharField(max_length=10, help_text="works, nothing or other")
    dip_v = models.FloatField(null=True, help_text="of the battery [V]")
    passed = models.BooleanField()
    sentence = models.TextField()
    note = models.TextField(blank=True)
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    created_at = models.DateTimeField(auto_now_add=True)
