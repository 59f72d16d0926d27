"""Many rows at once: a few are inserted, many are copied."""

from __future__ import annotations

import json
from collections.abc import Collection, Sequence
from typing import Any

import psycopg
from sqlalchemy import ARRAY, Column, ColumnElement, Connection, Integer, Table, Text, any_, insert, literal, text
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import InstrumentedAttribute, Session
from sqlalchemy.sql.schema import ScalarElementColumnDefault

from almanac.store.models.base import Base

FEW = 100
"""Rows are inserted one by one, and each wakes the triggers of its table; above so many they are copied, which wakes them once."""


def new_ids(session: Session, table: type[Base], count: int) -> list[int]:
    """Ids set aside from a table's sequence, so that children can be built before anything is sent."""
    query = text("SELECT nextval(pg_get_serial_sequence(:name, 'id')) FROM generate_series(1, :count)")
    return [int(value) for value in session.scalars(query, {"name": table.__tablename__, "count": count})]


def among(column: ColumnElement[Any] | InstrumentedAttribute[Any], values: Collection[Any]) -> ColumnElement[bool]:
    """Whether a column is one of many numbers or texts, sent as one array: a statement takes no more than 65,535 values by themselves."""
    found = list(values)
    return column == any_(literal(found, ARRAY(Text() if found and isinstance(found[0], str) else Integer())))


def add_rows(session: Session, table: type[Base], rows: Sequence[dict[str, Any]]) -> None:
    """Add rows that name the same columns; none is nothing to do."""
    if len(rows) > FEW:
        session.flush()
        copy_rows(session.connection(), Base.metadata.tables[table.__tablename__], rows)
    elif rows:
        session.execute(insert(table), rows)


def copy_rows(connection: Connection, table: Table, rows: Sequence[dict[str, Any]]) -> None:
    """Copy rows that name the same columns into a table; those they do not name take their defaults.

    Raises
    ------
    IntegrityError : one that the table's rules refuse
    """
    columns = [column for column in table.columns if column.name in rows[0] or _default(column) is not None]
    documents = {column.name for column in columns if isinstance(column.type, JSONB)}
    usual = {column.name: _default(column) for column in columns if column.name not in rows[0]}
    driver = connection.connection.driver_connection
    assert driver is not None
    names = [column.name for column in columns]
    quoted = ", ".join(f'"{name}"' for name in names)
    statement = f'COPY "{table.name}" ({quoted}) FROM STDIN'
    try:
        with driver.cursor() as cursor, cursor.copy(statement) as copy:
            for row in rows:
                whole = {**usual, **row}
                copy.write_row([_document(whole[name]) if name in documents else whole[name] for name in names])
    except psycopg.IntegrityError as error:
        raise IntegrityError(statement, None, error) from error


def _default(column: Column[Any]) -> Any:
    """What SQLAlchemy would fill in; None where that is the database's affair."""
    return column.default.arg if isinstance(column.default, ScalarElementColumnDefault) else None


def _document(value: Any) -> str | None:
    return None if value is None else json.dumps(value)
