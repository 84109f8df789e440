"""Print the JSON Schema of a controller's file, as docs/controller-profile.schema.json holds it."""

from __future__ import annotations

import json
from typing import Any

from django.core.management.base import BaseCommand

from server.wiring.controllers import schema


class Command(BaseCommand):
    """Print the schema."""

    help = __doc__

    def handle(self, *args: Any, **options: Any) -> None:
        """Print it."""
        self.stdout.write(json.dumps(schema(), ensure_ascii=False, indent=1, sort_keys=True))
