"""Kinds of entry: the app that owns one registers it, says its shape, and reads and writes by it.

A kind is strict: a field it does not know is refused, not quietly left out, however deep it lies.
The shapes are plain values of the core, which knows nothing of how they travel.
"""

from __future__ import annotations

from typing import Any, Generic, TypeVar

from django.contrib.auth.models import User
from django.db.models import F, Max, QuerySet, Window
from django.db.models.functions import RowNumber
from pydantic import ConfigDict, TypeAdapter, ValidationError, create_model

from server.jobs.models import Job

from .models import Entry

T = TypeVar("T")
_REGISTERED: dict[tuple[str, str], Kind[Any]] = {}
_STRICT = ConfigDict(extra="forbid")


class Shape(Generic[T]):
    """A plain value of the core, read strictly and written as JSON.

    Parameters
    ----------
    of : type
        A dataclass, or a tuple of them. Those inside it are strict, too: plain dataclasses take
        over the configuration of the model that holds them.
    """

    def __init__(self, of: Any) -> None:
        self._holder = create_model("Held", __config__=_STRICT, value=(of, ...))
        self._plain: TypeAdapter[T] = TypeAdapter(of)

    def read(self, data: Any) -> T:
        """Return the value of JSON data.

        Raises
        ------
        ValidationError
            If a field is missing, misspelt, or no such value.
        """
        value: T = getattr(self._holder.model_validate({"value": data}), "value")  # noqa: B009
        return value

    def plain(self, value: T) -> Any:
        """Return a value as JSON data."""
        return self._plain.dump_python(value, mode="json")

    def json_schema(self) -> dict[str, Any]:
        """Return the JSON Schema of the value."""
        schema = self._holder.model_json_schema()
        definitions = schema["$defs"]
        inner = definitions.pop(schema["properties"]["value"]["$ref"].rsplit("/", 1)[1])
        return {**inner, "$defs": definitions}


def problems_of(error: ValidationError) -> list[tuple[str, str]]:
    """Return (field, what is wrong) of everything that a shape refused."""
    return [
        (".".join(str(part) for part in entry["loc"][1:]), entry["msg"]) for entry in error.errors()
    ]


class Kind(Shape[T]):
    """A registered kind of entry.

    Parameters
    ----------
    name : str
        As it is stored.
    of : type
        Its shape.
    keys : str
        How its keys begin, where entries of several shapes share a name.
    """

    def __init__(self, name: str, of: Any, keys: str = "") -> None:
        super().__init__(of)
        if (name, keys) in _REGISTERED:
            raise RuntimeError(f"the kind {name} {keys} has an owner already")
        _REGISTERED[(name, keys)] = self
        self.name, self.keys = name, keys

    def rows(self, job: Job, key: str = "") -> QuerySet[Entry]:
        """Return all versions of one entry, oldest first."""
        return Entry.objects.filter(job=job, kind=self.name, key=key).order_by("number")

    def history(self, job: Job, key: str = "") -> list[Entry]:
        """Return all versions of one entry, newest first, with who wrote them."""
        return list(self.rows(job, key).reverse().select_related("created_by"))

    def newest(self, job: Job, key: str = "") -> Entry | None:
        """Return the newest version; None if it was never entered, or was removed."""
        row = self.rows(job, key).last()
        return None if row is None or row.data is None else row

    def newest_of_each(self, job: Job) -> list[Entry]:
        """Return the newest version of every key that is entered now, the oldest written first."""
        ranked = Entry.objects.filter(job=job, kind=self.name).annotate(
            rank=Window(RowNumber(), partition_by=F("key"), order_by=F("number").desc())
        )
        rows = ranked.select_related("created_by").order_by("pk")
        return [row for row in rows if row.rank == 1 and row.data is not None]

    def rows_of_all(self, job: Job) -> QuerySet[Entry]:
        """Return all versions of all keys that are entered, oldest first."""
        return Entry.objects.filter(job=job, kind=self.name, data__isnull=False).order_by("pk")

    def value(self, job: Job, key: str = "") -> tuple[T, int] | None:
        """Return the newest value and its version; None where there is none."""
        row = self.newest(job, key)
        return None if row is None else (self.read(row.data), row.number)

    def add(self, job: Job, user: User, value: T, key: str = "") -> Entry:
        """Write the next version. Callers hold the transaction."""
        return self._write(job, user, key, self.plain(value))

    def remove(self, job: Job, user: User, key: str = "") -> Entry:
        """Write down that the entry was removed; its versions stay. Callers hold the transaction."""
        return self._write(job, user, key, None)

    def _write(self, job: Job, user: User, key: str, data: Any) -> Entry:
        last = self.rows(job, key).aggregate(n=Max("number"))["n"] or 0
        return Entry.objects.create(
            job=job, kind=self.name, key=key, number=last + 1, data=data, created_by=user
        )


def read_entry(row: Entry) -> Any:
    """Return what an entry holds, by the kind that wrote it.

    Raises
    ------
    ValueError
        If no kind has written it, or it does not read (a ValidationError is one).
    """
    owners = [kind for (name, keys), kind in _REGISTERED.items() if name == row.kind and row.key.startswith(keys)]  # fmt: skip
    if not owners:
        raise ValueError(f"no kind is called {row.kind}")
    # Of several that share a name, the one whose keys begin alike for longest.
    owner = max(owners, key=lambda kind: len(kind.keys))
    return owner.read(row.data)
