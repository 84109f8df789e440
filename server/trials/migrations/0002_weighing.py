"""Which trials count in the estimate: rows that are written once."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models

from server.config.append_only import guard


class Migration(migrations.Migration):
    dependencies = [
        ("trials", "0001_moved_here"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]
    operations = [
        migrations.CreateModel(
            name="Weighing",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("counts", models.BooleanField()),
                ("reason", models.TextField()),
                ("created_at", models.DateTimeField(auto_now_add=True)),
                ("created_by", models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, to=settings.AUTH_USER_MODEL)),
                ("trial", models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="weighings", to="trials.trial")),
            ],
            options={"abstract": False},
        ),
        migrations.RunSQL(guard("trials_weighing"), "DROP TRIGGER trials_weighing_append_only"),
    ]
