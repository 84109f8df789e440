"""Rows that are written once: revisions, logs, trials and decisions."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from django.apps import apps
from django.db import connections, models


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
    """A row that is written once and never changed; triggers of the database guard it too."""

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


def guards_of(model: type[models.Model]) -> Iterator[str]:
    """Yield the SQL of the triggers that keep the rows of a model as they were written.

    One refuses to change a row, one to delete it, and one to write another in its place: what
    INSERT OR REPLACE would quietly delete is a row with the same key or the same unique fields.
    """
    meta = model._meta
    table = meta.db_table
    yield guard(table).replace("CREATE TRIGGER", "CREATE TRIGGER IF NOT EXISTS")
    yield (
        f"CREATE TRIGGER IF NOT EXISTS {table}_kept BEFORE DELETE ON {table} "
        f"BEGIN SELECT RAISE(ABORT, '{table} is append-only'); END;"
    )
    column_of = {field.name: field.column for field in meta.local_fields}
    keys = [[meta.pk.column]]
    keys += [
        [field.column] for field in meta.local_fields if field.unique and not field.primary_key
    ]
    for constraint in meta.constraints:
        if isinstance(constraint, models.UniqueConstraint) and constraint.condition is None:
            keys.append([column_of[name] for name in constraint.fields])
    same = " OR ".join(
        "(" + " AND ".join(f"{column} = NEW.{column}" for column in columns) + ")"
        for columns in keys
    )
    yield (
        f"CREATE TRIGGER IF NOT EXISTS {table}_in_place BEFORE INSERT ON {table} "
        f"WHEN EXISTS (SELECT 1 FROM {table} WHERE {same}) "
        f"BEGIN SELECT RAISE(ABORT, 'UNIQUE constraint failed: {table} is append-only'); END;"
    )


def stand_guard(using: str = "default", **_: Any) -> None:
    """Have the database guard every table whose rows are written once."""
    with connections[using].cursor() as cursor:
        for model in apps.get_models():
            if issubclass(model, AppendOnly):
                for sql in guards_of(model):
                    cursor.execute(sql)
