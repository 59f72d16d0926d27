"""Lives of parts one by one, as columns: one pass over the tenures, a part's lives in one array a column, in PostgreSQL's binary form."""

from __future__ import annotations

from collections.abc import Collection
from datetime import date, datetime
from typing import Any

import numpy as np
from psycopg import postgres
from psycopg.abc import Buffer
from psycopg.adapt import Loader
from psycopg.pq import Format
from sqlalchemy.orm import Session

from almanac.core.life.accepted import NO_LOT, Accepted, OwnLot, accepted
from almanac.core.life.life_data import DUTIES, FINDINGS, NOT_KNOWN, Lives
from almanac.store.evidence import CURRENT_REVISION, EVER, FAR_DAYS, LATEST_REVISION, LIVED
from almanac.store.observed import note

EPOCH = date(2000, 1, 1)
"""Days on the calendar are counted from it."""
ARRAY_HEADER_BYTES = 20
ELEMENT = np.dtype([("size", ">i4"), ("value", ">i4")])
COLUMNS = (
    "part",
    "model",
    "duty",
    "site",
    "finding",
    "fresh",
    "entry_age",
    "exit_age",
    "age_days",
    "good_age",
    "in_service",
    "retire_day",
    "age_span",
    "with_machine",
    "last_day",
    "made",
)
UNSEEN = f"COALESCE(NULL::integer, {NOT_KNOWN})"
MADE = f"COALESCE((SELECT u.made_on FROM tenure w JOIN unit u ON u.id = w.unit_id WHERE w.id = tenure_id) - DATE '{EPOCH}', {NOT_KNOWN})"
"""The day a unit was made, read where a lot of its part was accepted as a pool of its own."""
LIVES = f"""
SELECT part_id::integer, model_id::integer, array_position(%(duties)s::text[], duty::text) - 1, site_id::integer,
       COALESCE(array_position(%(findings)s::text[], finding::text) - 1, 0), fresh::integer, entry_age::integer, exit_age::integer,
       age_days::integer, COALESCE(good_age, {NOT_KNOWN})::integer, in_service::integer, COALESCE(retire_day, {NOT_KNOWN})::integer,
       age_span::integer, with_machine::integer, (last_on - DATE '{EPOCH}')::integer, {UNSEEN}
FROM ({LIVED}) lived
"""
NAMED = {"as_of": "%(as_of)s::date", "known_at": "%(known_at)s::timestamptz", "far_days": "%(far_days)s::integer"}


def read_lives(
    session: Session, parts: Collection[int], *, as_of: date, known_at: datetime | None = None, decided: Accepted = (), made: bool = False
) -> Lives:
    """Every life of some parts.

    Parameters
    ----------
    as_of : the day ages are counted to · known_at : only what was recorded by then, everything by default
    decided : alarms that were accepted, as they bear on lives · made : whether the day each was made is wanted in any case

    Returns
    -------
    Lives : in no order
    """
    inner = LIVED.format(revision=CURRENT_REVISION if known_at is None else LATEST_REVISION)
    inner = inner.replace("WHERE t.recorded_at", "WHERE t.part_id = ANY(%(parts)s::integer[]) AND t.recorded_at")
    for name, written in NAMED.items():
        inner = inner.replace(f":{name}", written)
    columns = ", ".join(f"array_agg({name})" for name in COLUMNS)
    statement = f"SELECT {columns} FROM ({LIVES.replace(LIVED, inner)}) AS one ({', '.join(COLUMNS)}) GROUP BY part"
    bound = {
        "parts": sorted(parts),
        "as_of": as_of,
        "known_at": known_at or EVER,
        "far_days": FAR_DAYS,
        "duties": list(DUTIES),
        "findings": ["", *(str(finding) for finding in FINDINGS[1:])],
    }
    if made or any(isinstance(one, OwnLot) for one in decided):
        statement = statement.replace(UNSEEN, MADE)
    return accepted(_columns(_fetched(session, statement, bound)), decided)


def note_lives() -> None:
    """Note what lives are read from, where they are known already."""
    note(LIVES.format(revision=CURRENT_REVISION))


class _Column(Loader):
    """An array of integers of which none is missing: after its header each is its size, four bytes, and itself, four bytes."""

    format = Format.BINARY

    def load(self, data: Buffer) -> Any:
        return np.frombuffer(data, ELEMENT, offset=ARRAY_HEADER_BYTES)["value"]


def _fetched(session: Session, statement: str, bound: dict[str, Any]) -> list[tuple[Any, ...]]:
    session.flush()
    note(statement)
    driver: Any = session.connection().connection.driver_connection
    with driver.cursor(binary=True) as cursor:
        cursor.adapters.register_loader(postgres.types["int4"].array_oid, _Column)
        found: list[tuple[Any, ...]] = cursor.execute(statement, bound).fetchall()
        return found


def _columns(rows: list[tuple[Any, ...]]) -> Lives:
    if not rows:
        return Lives(*(np.zeros(0, np.int64) for _ in (*COLUMNS, "lot")))
    columns = [np.concatenate(column).astype(np.int64) for column in zip(*rows, strict=True)]
    return Lives(*(*columns, np.full(columns[0].size, NO_LOT, dtype=np.int64)))
