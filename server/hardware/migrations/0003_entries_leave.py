"""Entries become an app of their own: the table keeps its rows and takes the new app's name."""

from django.db import migrations

from server.config.append_only import guard


class Migration(migrations.Migration):
    dependencies = [("hardware", "0002_append_only")]
    operations = [
        migrations.RunSQL(
            "DROP TRIGGER hardware_hardwareentry_append_only", guard("hardware_hardwareentry")
        ),
        migrations.SeparateDatabaseAndState(
            database_operations=[migrations.AlterModelTable("HardwareEntry", "entries_entry")],
            state_operations=[migrations.DeleteModel("HardwareEntry")],
        ),
        migrations.RunSQL(guard("entries_entry"), "DROP TRIGGER entries_entry_append_only"),
    ]
