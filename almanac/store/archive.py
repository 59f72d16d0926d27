"""The company's tables as CSV, out and in, by PostgreSQL's own COPY: what is written and read again is the same to the last digit."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import Any

from psycopg import Connection as Raw
from psycopg import sql
from sqlalchemy import Column, Connection, Table, insert, select, text

from almanac.store.models import (
    AccessToken,
    AuditEntry,
    BackupRun,
    Base,
    ListWork,
    PasswordLink,
    ProviderAttempt,
    RequestKey,
    Setting,
    ShelfBalance,
    SignInAttempt,
    User,
    UserSite,
    WebSession,
    WorkProgress,
    Written,
)
from almanac.store.models.answers import AnswerRow, Pin, ReplyRow

SETUP_CODE = "setup_code"
DERIVED = (AnswerRow, ReplyRow, Pin, WorkProgress, Written, ShelfBalance, ListWork)
"""What comes again by itself: answers and what points to them, and balances, which are sums of moves."""
OF_THE_SERVER = (SignInAttempt, WebSession, RequestKey, AccessToken, PasswordLink, ProviderAttempt, AuditEntry, BackupRun, UserSite)
WITHOUT = {model.__tablename__ for model in (*DERIVED, *OF_THE_SERVER, User)}


def company_tables() -> list[Table]:
    """Tables that hold what a company recorded, parents before children. Users are apart: they are written without their passwords."""
    return [table for table in Base.metadata.sorted_tables if table.name not in WITHOUT]


def columns_of(table: Table) -> list[Column[object]]:
    """Columns that are written; those the database works out are left out."""
    return [column for column in table.columns if column.computed is None]


def by_login(column: Column[object]) -> bool:
    """Whether a column names a user; it is written as the login."""
    return any(key.column.table.name == User.__tablename__ for key in column.foreign_keys)


def raw(connection: Connection) -> Raw[tuple[object, ...]]:
    """The driver's own connection, with moments and days written one way."""
    connection.execute(text("SET LOCAL TimeZone = 'UTC'"))
    connection.execute(text("SET LOCAL DateStyle = 'ISO, YMD'"))
    found: Raw[tuple[object, ...]] = connection.connection.driver_connection  # type: ignore[assignment]
    return found


def schema_of(connection: Connection) -> str:
    """The migration the database is at."""
    return str(connection.scalar(text("SELECT version_num FROM alembic_version")))


def copy_out(connection: Connection, table: Table) -> Iterator[bytes]:
    """A table as CSV with a header, in the order of its key; an empty cell is nothing, "" is an empty word."""
    wanted = [_read(column) for column in columns_of(table)]
    order = sql.SQL(", ").join(sql.Identifier("t", column.name) for column in table.primary_key.columns)
    query = sql.SQL("COPY (SELECT {} FROM {} t WHERE {} ORDER BY {}) TO STDOUT (FORMAT csv, HEADER)").format(
        sql.SQL(", ").join(wanted), sql.Identifier(table.name), _kept(table), order
    )
    with raw(connection).cursor() as cursor, cursor.copy(query) as copy:
        yield from (bytes(block) for block in copy)


def _read(column: Column[object]) -> sql.Composable:
    if not by_login(column):
        return sql.Identifier("t", column.name)
    return sql.SQL('(SELECT u.login FROM "user" u WHERE u.id = {}) AS {}').format(
        sql.Identifier("t", column.name), sql.Identifier(column.name)
    )


def _kept(table: Table) -> sql.Composable:
    """The code for a first user is the server's, whoever's company it is."""
    if table.name != Setting.__tablename__:
        return sql.SQL("true")
    return sql.SQL("key <> {}").format(sql.Literal(SETUP_CODE))


def copy_in(connection: Connection, table: Table, blocks: Iterable[bytes]) -> int:
    """Rows of a CSV into an empty table, ids as they are, and the count of them. Users are found by their login.

    Raises
    ------
    psycopg.Error : a row that is none, or that the record refuses
    """
    columns = columns_of(table)
    names = [sql.Identifier(column.name) for column in columns]
    target, incoming = sql.Identifier(table.name), sql.Identifier(f"incoming_{table.name}")
    with raw(connection).cursor() as cursor:
        cursor.execute(sql.SQL("CREATE TEMP TABLE {} (LIKE {}) ON COMMIT DROP").format(incoming, target))
        cursor.execute(sql.SQL("SELECT attname FROM pg_attribute WHERE attrelid = {}::regclass AND attnotnull AND attnum > 0").format(
            sql.Literal(f"incoming_{table.name}")
        ))  # fmt: skip
        for (name,) in cursor.fetchall():
            cursor.execute(sql.SQL("ALTER TABLE {} ALTER COLUMN {} DROP NOT NULL").format(incoming, sql.Identifier(str(name))))
        for column in columns:
            if by_login(column):
                cursor.execute(sql.SQL("ALTER TABLE {} ALTER COLUMN {} TYPE text").format(incoming, sql.Identifier(column.name)))
        with cursor.copy(sql.SQL("COPY {} ({}) FROM STDIN (FORMAT csv, HEADER match)").format(incoming, sql.SQL(", ").join(names))) as copy:
            for block in blocks:
                copy.write(block)
        cursor.execute(
            sql.SQL("INSERT INTO {} ({}) SELECT {} FROM {} t").format(
                target, sql.SQL(", ").join(names), sql.SQL(", ").join(_written(column) for column in columns), incoming
            )
        )
        count = cursor.rowcount
        cursor.execute(sql.SQL("DROP TABLE {}").format(incoming))
    return count


def _written(column: Column[object]) -> sql.Composable:
    if not by_login(column):
        return sql.Identifier("t", column.name)
    return sql.SQL('(SELECT u.id FROM "user" u WHERE u.login = {})').format(sql.Identifier("t", column.name))


def go_on_counting(connection: Connection, table: Table) -> None:
    """The next id of a table comes after those it holds."""
    if "id" in table.columns:
        named = f'"{table.name}"'
        query = f"SELECT setval(pg_get_serial_sequence(:named, 'id'), (SELECT coalesce(max(id), 0) + 1 FROM {named}), false)"
        connection.execute(text(query), {"named": named})


def rows_of(connection: Connection, table: Table) -> int:
    """How many rows of a table would be written."""
    with raw(connection).cursor() as cursor:
        cursor.execute(sql.SQL("SELECT count(*) FROM {} t WHERE {}").format(sql.Identifier(table.name), _kept(table)))
        row = cursor.fetchone()
    return int(str(row[0])) if row else 0


def take_settings_away(connection: Connection) -> list[dict[str, Any]]:
    """Leave out what an empty company began with, and return the code for its first user, to be put back under a new id."""
    kept = [dict(row) for row in connection.execute(select(Setting.__table__).where(Setting.key == SETUP_CODE)).mappings()]
    connection.execute(text("SELECT set_config('almanac.taken_back', 'list', true)"))
    connection.execute(text("DELETE FROM setting"))
    connection.execute(text("SELECT set_config('almanac.taken_back', '', true)"))
    return kept


def put_back(connection: Connection, settings: list[dict[str, Any]]) -> None:
    """Settings that were taken away, under new ids."""
    rows = [{name: value for name, value in row.items() if name != "id"} for row in settings]
    if rows:
        connection.execute(insert(Setting), rows)
