"""Parts that a workshop keeps, and key-on checks."""

from django.conf import settings
from django.db import models

from server.accounts.models import Workshop
from server.config.append_only import AppendOnly
from server.jobs.models import Job


class LibraryItem(models.Model):
    """A part that a workshop keeps for its next job."""

    workshop = models.ForeignKey(Workshop, models.CASCADE, related_name="library")
    kind = models.CharField(max_length=12, help_text="sensor, injectors or supply")
    key = models.CharField(max_length=40, blank=True, help_text="function of a sensor")
    name = models.CharField(max_length=120)
    data = models.JSONField()
    source = models.CharField(
        max_length=400, blank=True, help_text="where a part of a file comes from"
    )
    licence = models.CharField(
        max_length=400, blank=True, help_text="under which it may be passed on"
    )
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=["workshop", "kind", "key", "name"], name="library_item_name"
            )
        ]


class KeyOnCheck(AppendOnly):
    """One check of all sensors with the key on and the engine at rest."""

    job = models.ForeignKey(Job, models.CASCADE, related_name="key_on_checks")
    number = models.PositiveIntegerField()
    log = models.ForeignKey("logbook.Log", models.PROTECT, null=True)
    readings = models.JSONField()
    circumstances = models.JSONField()
    versions = models.JSONField(help_text="function -> number of the sensor as it was")
    state = models.CharField(max_length=12, help_text="pass, suspicious or fail")
    result = models.JSONField()
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["job", "number"], name="key_on_check_number")
        ]


class KeyOnOverride(AppendOnly):
    """Why work goes on although a check failed; kept in the record."""

    check_made = models.OneToOneField(KeyOnCheck, models.CASCADE, related_name="override")
    reason = models.TextField()
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    created_at = models.DateTimeField(auto_now_add=True)
