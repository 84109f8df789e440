"""Jobs: one vehicle being commissioned."""

from django.conf import settings
from django.db import models

from server.accounts.models import Workshop


class Job(models.Model):
    """One vehicle. Its engine data are those in force; every change of them is a version of
    the injectors or the supply and, where a table follows, a revision. Units may change."""

    workshop = models.ForeignKey(Workshop, models.CASCADE, related_name="jobs")
    name = models.CharField(max_length=120)
    note = models.TextField(blank=True)
    engine = models.JSONField(help_text="EngineIn as entered")
    units = models.JSONField(default=dict, help_text="display unit of each dimension")
    override_reason = models.TextField(blank=True)
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    created_at = models.DateTimeField(auto_now_add=True)


class GuestLink(models.Model):
    """A way to look at one job until a day, for somebody outside the workshop."""

    job = models.ForeignKey(Job, models.CASCADE, related_name="guest_links")
    user = models.OneToOneField(settings.AUTH_USER_MODEL, models.PROTECT, related_name="guest_link")
    name = models.CharField(max_length=40, help_text="for whom")
    digest = models.CharField(max_length=64, unique=True, help_text="of the link; it is not kept")
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)
    ends_on = models.DateField(help_text="the last day on which it holds")
    taken_back_at = models.DateTimeField(null=True)
