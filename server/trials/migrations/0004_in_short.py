"""What a list says of a trial stands beside it, also for those that are there."""

import django.db.models.deletion
from django.db import migrations, models


def advised_in(analysis, coolant_c):
    """Return what the first advice is about; of its cells the nearest to the start."""
    advice = next(iter(analysis.get("advice") or []), None)
    if advice is None:
        return None
    cells = [cell for cell in advice["changes"] if cell["at"]]
    near = min(cells, key=lambda cell: abs(cell["at"][0] - coolant_c), default=None)
    return {"table": advice["table"], "index": [] if near is None else near["index"]}


def tell(apps, schema_editor):
    trials = apps.get_model("trials", "Trial").objects.using(schema_editor.connection.alias)
    short = apps.get_model("trials", "TrialInShort")
    shorts = short.objects.using(schema_editor.connection.alias)
    # In bulk: what follows from a single save is for the program as it is now.
    shorts.bulk_create(
        (
            short(
                trial_id=trial.pk,
                sentence=trial.analysis.get("sentence", ""),
                advised=advised_in(trial.analysis, trial.coolant_c),
            )
            for trial in trials.only("analysis", "coolant_c").iterator(chunk_size=50)
        ),
        batch_size=200,
    )


class Migration(migrations.Migration):
    dependencies = [("trials", "0003_signs")]

    operations = [
        migrations.CreateModel(
            name="TrialInShort",
            fields=[
                (
                    "trial",
                    models.OneToOneField(
                        on_delete=django.db.models.deletion.CASCADE,
                        primary_key=True,
                        related_name="in_short",
                        serialize=False,
                        to="trials.trial",
                    ),
                ),
                ("sentence", models.TextField()),
                (
                    "advised",
                    models.JSONField(
                        help_text="table and index of the cell that is advised", null=True
                    ),
                ),
            ],
            options={"abstract": False},
        ),
        migrations.RunPython(tell, migrations.RunPython.noop),
    ]
