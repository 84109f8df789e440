"""Photographs taken at intake."""

from django.conf import settings
from django.db import models

from server.config.append_only import AppendOnly
from server.jobs.models import Job


class Photograph(AppendOnly):
    """A photograph, kept in the job; the picture itself is a file of the workshop."""

    job = models.ForeignKey(Job, models.CASCADE, related_name="photographs")
    number = models.PositiveIntegerField()
    digest = models.CharField(max_length=64, help_text="names the file")
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    caption = models.CharField(max_length=300, blank=True)
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "number"], name="photograph_number")]


class PhotographAside(AppendOnly):
    """A photograph put aside or brought back; the newest row counts, nothing is deleted."""

    photograph = models.ForeignKey(Photograph, models.CASCADE, related_name="asides")
    aside = models.BooleanField()
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    created_at = models.DateTimeField(auto_now_add=True)
