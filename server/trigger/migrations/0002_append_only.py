"""Guard the append-only tables in the database itself."""

from django.db import migrations

from server.config.append_only import guard

TABLES = "trigger_edgecapture trigger_outputtest".split()


class Migration(migrations.Migration):
    dependencies = [("trigger", "0001_initial")]

    operations = [
        migrations.RunSQL(guard(table), f"DROP TRIGGER {table}_append_only") for table in TABLES
    ]
