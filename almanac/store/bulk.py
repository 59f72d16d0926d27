"""Many rows at once."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from sqlalchemy import insert, text
from sqlalchemy.orm import Session

from almanac.store.models.base import Base


def new_ids(session: Session, table: type[Base], count: int) -> list[int]:
    """Ids set aside from a table's sequence, so that children can be built before anything is sent."""
    query = text("SELECT nextval(pg_get_serial_sequence(:name, 'id')) FROM generate_series(1, :count)")
    return [int(value) for value in session.scalars(query, {"name": table.__tablename__, "count": count})]


def add_rows(session: Session, table: type[Base], rows: Sequence[dict[str, Any]]) -> None:
    """Insert rows; none is nothing to do."""
    if rows:
        session.execute(insert(table), rows)
