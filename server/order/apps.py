"""The app of the order of work keeps a summary of every job beside what it follows from."""

from typing import Any

from django.apps import AppConfig
from django.db import connections
from django.db.models.signals import post_migrate, post_save


class OrderConfig(AppConfig):
    """Keeps summaries: with every write, and anew after an upgrade."""

    name = "server.order"

    def ready(self) -> None:
        """Say what follows from a write."""
        from server.config.writes import follows

        from . import summaries

        follows.append(summaries.keep)
        post_save.connect(_noted, dispatch_uid="order")
        post_migrate.connect(_upgraded, sender=self)
        post_migrate.connect(_guarded, sender=self)


def _noted(sender: Any, instance: Any, **_: Any) -> None:
    """Note which jobs a saved row belongs to."""
    from server.config.writes import touch

    from . import summaries

    for job_id in summaries.jobs_touched_by(instance):
        touch(job_id)


def _upgraded(using: str, **_: Any) -> None:
    """Write the summaries anew that another version of the program wrote."""
    from . import summaries

    summaries.renew(using)


def _guarded(using: str, **_: Any) -> None:
    """Have the database guard what is written once, also after a table was made anew."""
    from server.config.append_only import stand_guard

    stand_guard(using)
    # Put aside, a job is out of the way; deleted, its history would be gone.
    with connections[using].cursor() as cursor:
        cursor.execute(
            "CREATE TRIGGER IF NOT EXISTS jobs_job_kept BEFORE DELETE ON jobs_job "
            "BEGIN SELECT RAISE(ABORT, 'jobs_job is append-only: put the job aside'); END;"
        )
