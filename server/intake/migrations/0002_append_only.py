"""Guard the append-only tables in the database itself."""

from django.db import migrations

from server.config.append_only import guard

TABLES = "intake_photograph intake_photographaside".split()


class Migration(migrations.Migration):
    dependencies = [("intake", "0001_initial")]

    operations = [
        migrations.RunSQL(guard(table), f"DROP TRIGGER {table}_append_only") for table in TABLES
    ]
