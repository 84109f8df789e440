"""Logs: recordings of an engine, written once."""

from django.conf import settings
from django.db import models

from server.config.append_only import AppendOnly
from server.jobs.models import Job


class Log(AppendOnly):
    """A recording in canonical channels; samples are in its chunks."""

    job = models.ForeignKey(Job, models.CASCADE, related_name="logs")
    name = models.CharField(max_length=200)
    origin = models.CharField(max_length=10, help_text="upload, bench or live")
    about = models.JSONField(default=dict, help_text="conditions of a bench start")
    uses = models.JSONField(default=list, help_text="what became of each column of the file")
    problems = models.JSONField(default=list)
    sample_count = models.PositiveIntegerField()
    duration_s = models.FloatField()
    rate_hz = models.FloatField()
    channels = models.JSONField()
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    created_at = models.DateTimeField(auto_now_add=True)


class LogChunk(AppendOnly):
    """A stretch of one channel, or its extremes in buckets of a pyramid level."""

    log = models.ForeignKey(Log, models.CASCADE, related_name="chunks")
    channel = models.CharField(max_length=40)
    level = models.PositiveIntegerField(help_text="samples per bucket; 1 is the samples themselves")
    number = models.PositiveIntegerField()
    data = models.BinaryField(help_text="zlib of float64 (time) or float32; levels: rows min, max")

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["log", "channel", "level", "number"], name="log_chunk")
        ]


class ColumnMapping(models.Model):
    """A confirmed mapping of column heads, remembered for the next file of the same kind."""

    workshop = models.ForeignKey("accounts.Workshop", models.CASCADE)
    heads = models.CharField(max_length=64, help_text="digest of the column heads")
    mapping = models.JSONField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["workshop", "heads"], name="mapping_heads")]
