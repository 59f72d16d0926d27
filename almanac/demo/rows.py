"""Rows of a generated company, table by table, ready to be copied into an empty database."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from datetime import UTC, date, datetime
from typing import Any


def at(day: date, hour: int = 9) -> datetime:
    """A moment on a day, for records that carry one."""
    return datetime(day.year, day.month, day.day, hour, tzinfo=UTC)


@dataclass
class Rows:
    """Rows by table name; each row is a mapping from column to value, with ids handed out per table."""

    tables: dict[str, list[dict[str, Any]]] = field(default_factory=dict)

    def add(self, table: str, **values: object) -> int:
        """Append a row with the next id of its table and return that id."""
        rows = self.tables.setdefault(table, [])
        identifier = len(rows) + 1
        rows.append({"id": identifier, **values})
        return identifier

    def link(self, table: str, **values: object) -> None:
        """Append a row of a table without an id of its own."""
        self.tables.setdefault(table, []).append(values)

    def __iter__(self) -> Iterator[tuple[str, list[dict[str, Any]]]]:
        return iter(self.tables.items())
