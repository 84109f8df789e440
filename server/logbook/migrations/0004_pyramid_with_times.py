"""Pyramids that know when their buckets were logged, in place of those that took even sampling for granted."""

import zlib

import numpy as np
from django.db import migrations

from server.logbook.samples import pyramid_of


def rebuild(apps, schema_editor):
    """Write the pyramid of every log anew from its samples."""
    log_chunk = apps.get_model("logbook", "LogChunk")
    chunks = log_chunk.objects.using(schema_editor.connection.alias)
    chunks.filter(level__gt=1).delete()
    for log_id, channel in chunks.values_list("log_id", "channel").distinct().order_by():
        kind = np.float64 if channel == "time_s" else np.float32
        parts = chunks.filter(log_id=log_id, channel=channel).order_by("number")
        samples = [np.frombuffer(zlib.decompress(part.data), dtype=kind) for part in parts]
        chunks.bulk_create(
            [
                log_chunk(log_id=log_id, channel=channel, level=level, number=number, data=data)
                for level, number, data in pyramid_of(channel, np.concatenate(samples).astype(float))
            ],
            batch_size=200,
        )


class Migration(migrations.Migration):
    dependencies = [("logbook", "0003_trials_leave")]

    operations = [migrations.RunPython(rebuild, migrations.RunPython.noop)]
