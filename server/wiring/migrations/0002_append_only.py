"""Guard the append-only tables in the database itself."""

from django.db import migrations

from server.config.append_only import guard

TABLES = "wiring_wiringsignoff wiring_wirecheck".split()


class Migration(migrations.Migration):
    dependencies = [("wiring", "0001_initial")]

    operations = [
        migrations.RunSQL(guard(table), f"DROP TRIGGER {table}_append_only") for table in TABLES
    ]
