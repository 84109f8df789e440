"""Training seasons: the hidden scenario of a job, and every step that was taken, written once."""

from django.conf import settings
from django.db import models

from server.config.append_only import AppendOnly
from server.jobs.models import Job
from server.trials.models import Trial


class Season(AppendOnly):
    """A job whose engine is simulated, with virtual days."""

    job = models.OneToOneField(Job, models.CASCADE, related_name="season")
    scenario = models.JSONField()
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    created_at = models.DateTimeField(auto_now_add=True)


class Step(AppendOnly):
    """One step of a season: a start, a look under the bonnet, or a night."""

    season = models.ForeignKey(Season, models.CASCADE, related_name="steps")
    number = models.PositiveIntegerField()
    day = models.PositiveIntegerField()
    kind = models.CharField(max_length=10, help_text="cold, half-warm, hot, look or night")
    trial = models.OneToOneField(Trial, models.PROTECT, null=True, related_name="season_step")
    cause = models.CharField(max_length=40, blank=True)
    found = models.CharField(max_length=40, blank=True, help_text="the fault that was mended")
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["season", "number"], name="season_step")]


class Ending(AppendOnly):
    """The end of a season: what the engine was, and how hands stand against each other."""

    season = models.OneToOneField(Season, models.CASCADE, related_name="ending")
    report = models.JSONField()
    created_at = models.DateTimeField(auto_now_add=True)
