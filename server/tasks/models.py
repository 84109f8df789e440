"""Long work: what is being done, how far it is, and what came of it."""

from django.conf import settings
from django.db import models

from server.accounts.models import Workshop


class Task(models.Model):
    """One piece of long work. Its row is progress, not history: it may change until it ends."""

    workshop = models.ForeignKey(Workshop, models.CASCADE, related_name="tasks")
    kind = models.CharField(max_length=40, help_text="what is done, such as capture")
    state = models.CharField(
        max_length=10, default="waiting", help_text="waiting, running, done, failed or cancelled"
    )
    share = models.FloatField(default=0.0, help_text="0 to 1")
    sentence = models.TextField(blank=True, help_text="what is being done, or why it ended")
    result = models.JSONField(null=True)
    problem = models.JSONField(null=True, help_text="problem details where it failed")
    is_cancelled = models.BooleanField(default=False, help_text="somebody wants it to end")
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    created_at = models.DateTimeField(auto_now_add=True)
    seen_at = models.DateTimeField(auto_now=True, help_text="when it last gave a sign of life")
