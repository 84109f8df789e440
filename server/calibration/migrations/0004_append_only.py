"""Guard the append-only tables in the database itself."""

from django.db import migrations

from server.config.append_only import guard

TABLES = "calibration_inherited calibration_acceptedfinding calibration_transfer".split()


class Migration(migrations.Migration):
    dependencies = [("calibration", "0003_intake_and_transfer")]

    operations = [
        migrations.RunSQL(guard(table), f"DROP TRIGGER {table}_append_only") for table in TABLES
    ]
