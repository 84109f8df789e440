"""Rows that are written once: revisions, logs, trials and decisions."""

from __future__ import annotations

from typing import Any

from django.db import models


class AppendOnlyError(RuntimeError):
    """Somebody tried to change or delete history."""


class AppendOnlyQuerySet(models.QuerySet[Any]):
    """Refuses to change or delete rows in bulk."""

    def update(self, **kwargs: Any) -> int:
        """Refuse."""
        raise AppendOnlyError(f"{self.model.__name__} is append-only")

    def delete(self) -> tuple[int, dict[str, int]]:
        """Refuse."""
        raise AppendOnlyError(f"{self.model.__name__} is append-only")


class AppendOnly(models.Model):
    """A row that is written once and never changed; a database trigger guards it too."""

    objects = AppendOnlyQuerySet.as_manager()

    class Meta:
        abstract = True

    def save(self, *args: Any, **kwargs: Any) -> None:
        """Write the row, once."""
        if not self._state.adding:
            raise AppendOnlyError(f"{type(self).__name__} is append-only")
        super().save(*args, **kwargs)

    def delete(self, *args: Any, **kwargs: Any) -> tuple[int, dict[str, int]]:
        """Refuse."""
        raise AppendOnlyError(f"{type(self).__name__} is append-only")


def guard(table: str) -> str:
    """Return the SQL of a trigger that refuses every UPDATE of a table."""
    return (
        f"CREATE TRIGGER {table}_append_only BEFORE UPDATE ON {table} "
        f"BEGIN SELECT RAISE(ABORT, '{table} is append-only'); END;"
    )
