"""Lives of parts one by one, as columns: one pass over the tenures, fetched in PostgreSQL's binary form."""

from __future__ import annotations

from collections.abc import Collection
from datetime import date, datetime
from io import BytesIO
from typing import Any

import numpy as np
from sqlalchemy.orm import Session

from almanac.core.life.life_data import DUTIES, FINDINGS, NOT_KNOWN, Lives
from almanac.store.evidence import CURRENT_REVISION, EVER, FAR_DAYS, LATEST_REVISION, LIVED
from almanac.store.observed import note

HEADER_BYTES, TRAILER_BYTES = 19, 2
COLUMNS = ("part", "model", "duty", "site", "finding", "fresh", "entry_age", "exit_age", "age_days", "good_age", "in_service", "retire_day")
LIVES = f"""
SELECT part_id, model_id, array_position(%(duties)s::text[], duty::text) - 1, site_id,
       COALESCE(array_position(%(findings)s::text[], finding::text) - 1, 0), fresh::integer, entry_age::integer, exit_age::integer,
       age_days::integer, COALESCE(good_age, {NOT_KNOWN})::integer, in_service::integer, COALESCE(retire_day, {NOT_KNOWN})::integer
FROM ({LIVED}) lived
"""
NAMED = {"as_of": "%(as_of)s::date", "known_at": "%(known_at)s::timestamptz", "far_days": "%(far_days)s::integer"}


def read_lives(session: Session, parts: Collection[int], *, as_of: date, known_at: datetime | None = None) -> Lives:
    """Every life of some parts.

    Parameters
    ----------
    as_of : the day ages are counted to · known_at : only what was recorded by then, everything by default

    Returns
    -------
    Lives : in no order
    """
    inner = LIVED.format(revision=CURRENT_REVISION if known_at is None else LATEST_REVISION)
    inner = inner.replace("WHERE t.recorded_at", "WHERE t.part_id = ANY(%(parts)s::integer[]) AND t.recorded_at")
    for name, written in NAMED.items():
        inner = inner.replace(f":{name}", written)
    statement = f"COPY ({LIVES.replace(LIVED, inner)}) TO STDOUT (FORMAT BINARY)"
    bound = {
        "parts": sorted(parts),
        "as_of": as_of,
        "known_at": known_at or EVER,
        "far_days": FAR_DAYS,
        "duties": list(DUTIES),
        "findings": ["", *(str(finding) for finding in FINDINGS[1:])],
    }
    return _columns(_copied(session, statement, bound))


def note_lives() -> None:
    """Note what lives are read from, where they are known already."""
    note(LIVES.format(revision=CURRENT_REVISION))


def _copied(session: Session, statement: str, bound: dict[str, Any]) -> bytes:
    session.flush()
    note(statement)
    driver: Any = session.connection().connection.driver_connection
    held = BytesIO()
    with driver.cursor() as cursor, cursor.copy(statement, bound) as copy:
        for piece in copy:
            held.write(piece)
    return held.getvalue()


def _columns(data: bytes) -> Lives:
    """Rows of twelve numbers that are all there have one length: each is its size, four bytes, and itself, four bytes."""
    row = np.dtype([("fields", ">i2"), *((f"{name}{end}", ">i4") for name in COLUMNS for end in ("_size", ""))])
    rows = np.frombuffer(data, row, (len(data) - HEADER_BYTES - TRAILER_BYTES) // row.itemsize, HEADER_BYTES)
    return Lives(*(rows[name].astype(np.int64) for name in COLUMNS))
