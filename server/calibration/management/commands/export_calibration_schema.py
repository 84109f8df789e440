"""Print the JSON Schema of calibration files, as docs/calibration.schema.json holds it."""

from __future__ import annotations

import json
from typing import Any

from django.core.management.base import BaseCommand
from inbetrieb_core.tables.schema import calibration_schema


class Command(BaseCommand):
    """Print the schema."""

    help = __doc__

    def handle(self, *args: Any, **options: Any) -> None:
        """Print it."""
        self.stdout.write(json.dumps(calibration_schema(), ensure_ascii=False, indent=1, sort_keys=True))  # fmt: skip
