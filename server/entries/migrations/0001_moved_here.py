"""Entries were rows of the hardware app; the table moves here with its rows and its guard."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    initial = True
    dependencies = [
        ("jobs", "0001_initial"),
        ("hardware", "0003_entries_leave"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]
    operations = [
        migrations.SeparateDatabaseAndState(
            state_operations=[
                migrations.CreateModel(
                    name="Entry",
                    fields=[
                        ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                        ("kind", models.CharField(help_text="name of a registered kind", max_length=12)),
                        ("key", models.CharField(blank=True, help_text="which of several, e.g. a sensor's function", max_length=40)),
                        ("number", models.PositiveIntegerField()),
                        ("data", models.JSONField(help_text="as entered; null where it was removed", null=True)),
                        ("created_at", models.DateTimeField(auto_now_add=True)),
                        ("created_by", models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, to=settings.AUTH_USER_MODEL)),
                        ("job", models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="entries", to="jobs.job")),
                    ],
                    options={
                        "constraints": [models.UniqueConstraint(fields=("job", "kind", "key", "number"), name="entry_number")],
                    },
                ),
            ]
        )
    ]
