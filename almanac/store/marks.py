"""Marks that move on with what was written: two readers that see the same mark see the same rows.

A mark adds up the writers seen so far and their places in order. What one reader sees holds all that another saw before, save its
own unfinished writing; places in order never come twice.
"""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

from sqlalchemy import text
from sqlalchemy.orm import Session

Mark = tuple[int, int]
LIFE_MARKS = """
SELECT topic, sum(writers)::bigint AS writers, sum(at)::bigint AS places FROM written WHERE topic = ANY(:topics) GROUP BY topic
"""
MARKS_AS_ONE = """
SELECT jsonb_object_agg(topic, jsonb_build_array(writers, places))
FROM (SELECT topic, sum(writers) AS writers, sum(at) AS places FROM written WHERE topic !~ '/' GROUP BY topic) m
"""
DATABASE = "SELECT oid::bigint FROM pg_database WHERE datname = current_database()"
OWN = "SELECT EXISTS (SELECT 1 FROM written WHERE writer = pg_current_xact_id_if_assigned()::text::bigint)"
LIVES = "lives/"
GATHER = """
WITH gathered AS (
    DELETE FROM written WHERE writer <> 0 RETURNING topic, writers, at
)
INSERT INTO written (topic, writer, writers, at)
SELECT topic, 0, sum(writers)::bigint, sum(at)::bigint FROM gathered GROUP BY topic
ON CONFLICT (topic, writer) DO UPDATE SET writers = written.writers + EXCLUDED.writers, at = written.at + EXCLUDED.at
"""
"""What a transaction that still runs wrote is not seen, so it is left alone."""
MANY = 500


@dataclass(frozen=True)
class Marks:
    """The mark of every table that was ever written, and the number of the database: copies of one another are told apart by it."""

    database: int
    of_table: dict[str, Mark]


def table_marks(session: Session) -> Marks:
    """How the marks of all tables stand."""
    database, marks = session.execute(text(f"SELECT ({DATABASE}), ({MARKS_AS_ONE})")).one()
    return Marks(database, {topic: (int(writers), int(places)) for topic, (writers, places) in (marks or {}).items()})


def life_marks(session: Session, parts: Collection[int]) -> dict[int, Mark]:
    """The mark of what the lives of each part are read from; one of zeros where nothing was ever written."""
    topics = {f"{LIVES}{part}": part for part in parts}
    rows = session.execute(text(LIFE_MARKS), {"topics": list(topics)})
    found = {topics[topic]: (int(writers), int(places)) for topic, writers, places in rows}
    return {part: found.get(part, (0, 0)) for part in parts}


def database_number(session: Session) -> int:
    """Tells databases apart that one process, or copies of one another, might mix up."""
    return int(session.scalar(text(DATABASE)) or 0)


def wrote(session: Session) -> bool:
    """Whether this transaction wrote anything that answers rest on."""
    return bool(session.scalar(text(OWN)))


def gather_marks(session: Session, *, many: int = MANY) -> int:
    """Put rows of finished writers together where there are many; no mark changes. Returns how many rows there were."""
    rows = int(session.scalar(text("SELECT count(*) FROM written")) or 0)
    if rows > many:
        session.execute(text(GATHER))
    return rows
