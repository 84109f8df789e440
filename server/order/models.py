"""What is kept of a job so that the board need not work it out: the answer itself."""

from django.db import models

from server.jobs.models import Job


class JobSummary(models.Model):
    """A job as it travels, written in the transaction that changed it."""

    job = models.OneToOneField(Job, models.CASCADE, related_name="summary", primary_key=True)
    version = models.CharField(max_length=40, help_text="of the program that wrote it")
    body = models.TextField(help_text="JSON of JobOut")
    aside = models.BooleanField(default=False, help_text="put aside: off the board")
    needs = models.CharField(max_length=12, help_text="station of the next action, to filter by")
