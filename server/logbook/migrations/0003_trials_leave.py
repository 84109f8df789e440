"""Trials become an app of their own: the tables keep their rows and take the new app's name."""

from django.db import migrations

from server.config.append_only import guard

MOVED = {"Trial": "trial", "Decision": "decision"}


class Migration(migrations.Migration):
    dependencies = [("logbook", "0002_append_only")]
    operations = [
        *[
            migrations.RunSQL(
                f"DROP TRIGGER logbook_{name}_append_only", guard(f"logbook_{name}")
            )
            for name in MOVED.values()
        ],
        migrations.SeparateDatabaseAndState(
            database_operations=[
                migrations.AlterModelTable(model, f"trials_{name}") for model, name in MOVED.items()
            ],
            state_operations=[migrations.DeleteModel("Decision"), migrations.DeleteModel("Trial")],
        ),
        *[
            migrations.RunSQL(guard(f"trials_{name}"), f"DROP TRIGGER trials_{name}_append_only")
            for name in MOVED.values()
        ],
    ]
