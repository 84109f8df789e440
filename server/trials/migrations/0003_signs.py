"""What was seen and smelled at a start, and which attempt of the morning it was."""

from django.db import migrations, models

from server.config.append_only import guard

_DROP = "DROP TRIGGER IF EXISTS trials_trial_append_only"


class Migration(migrations.Migration):
    dependencies = [("trials", "0002_weighing")]
    operations = [
        # Adding a column rebuilds the table, and with it the guard has to be set again.
        migrations.RunSQL(_DROP, migrations.RunSQL.noop),
        migrations.AddField("trial", "attempt", models.PositiveIntegerField(default=1)),
        migrations.AddField("trial", "black_smoke", models.BooleanField(default=False)),
        migrations.AddField("trial", "fuel_smell", models.BooleanField(default=False)),
        migrations.RunSQL(guard("trials_trial"), _DROP),
    ]
