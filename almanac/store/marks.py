"""Marks that move on with what was written: two readers that see the same mark see the same rows."""

from __future__ import annotations

from sqlalchemy import text
from sqlalchemy.orm import Session

LIVES = """
SELECT (SELECT oid::bigint FROM pg_database WHERE datname = current_database()), count(*), COALESCE(sum(at), 0)::bigint FROM lives_mark
"""


def lives_mark(session: Session) -> tuple[int, int, int]:
    """The mark of all that lives and ages are read from: the database, its writers seen so far, and their places in order added up.

    What one reader sees holds all that another saw before, save its own unfinished writing; places in order never come twice.
    """
    database, writers, places = session.execute(text(LIVES)).one()
    return database, writers, places
