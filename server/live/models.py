"""Live sessions: opened, kept a second at a time, ended. Every row is written once."""

from django.conf import settings
from django.db import models

from server.config.append_only import AppendOnly
from server.jobs.models import Job
from server.logbook.models import Log


class LiveSession(AppendOnly):
    """A session of a job, as it was opened."""

    job = models.ForeignKey(Job, models.CASCADE, related_name="live_sessions")
    number = models.PositiveIntegerField(help_text="within the job")
    title = models.CharField(max_length=200)
    stand_in = models.CharField(
        max_length=200, blank=True, help_text="says so where it is simulated"
    )
    about = models.JSONField(default=dict, help_text="what it began with")
    channels = models.JSONField()
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "number"], name="live_number")]


class LiveChunk(AppendOnly):
    """All channels of about a second."""

    session = models.ForeignKey(LiveSession, models.CASCADE, related_name="chunks")
    first_row = models.PositiveIntegerField(help_text="rows of the session before it")
    rows = models.PositiveIntegerField()
    first_s = models.FloatField()
    last_s = models.FloatField()
    data = models.BinaryField(
        help_text="zlib of time as float64, then the other channels as float32"
    )
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["session", "first_row"], name="live_chunk_rows")
        ]


class LiveEnd(AppendOnly):
    """That a session is over, and the log that came of it."""

    session = models.OneToOneField(LiveSession, models.CASCADE, related_name="end")
    log = models.ForeignKey(Log, models.PROTECT, null=True)
    reason = models.CharField(max_length=200)
    created_at = models.DateTimeField(auto_now_add=True)
