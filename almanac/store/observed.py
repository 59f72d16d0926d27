"""Which tables were read: noted from the statements themselves, so that no list of what an answer depends on is kept by hand."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from typing import Any

from sqlalchemy import Engine, event

from almanac.store.models import Base

TABLES = frozenset(Base.metadata.tables)
WORD = re.compile(r"[a-z_]+")
_NOTED: ContextVar[set[str] | None] = ContextVar("tables read", default=None)


def tables_in(statement: str) -> set[str]:
    """Tables that a statement may read or write: every word of it that is the name of one. Too many do no harm, too few would."""
    return set(TABLES.intersection(WORD.findall(statement.lower())))


def note(statement: str) -> None:
    """Note the tables of a statement that goes past SQLAlchemy, or whose rows are known already."""
    note_tables(tables_in(statement) if _NOTED.get() is not None else ())


def note_tables(tables: Iterable[str]) -> None:
    """Note tables that something which is known already was read from."""
    noted = _NOTED.get()
    if noted is not None:
        noted.update(tables)


@contextmanager
def tables_read() -> Iterator[set[str]]:
    """Gathers the tables of every statement that is executed meanwhile in this thread; of one inside the other, both gather."""
    outer = _NOTED.get()
    noted: set[str] = set()
    token = _NOTED.set(noted)
    try:
        yield noted
    finally:
        _NOTED.reset(token)
        if outer is not None:
            outer |= noted


@event.listens_for(Engine, "before_cursor_execute")
def _note(_connection: Any, _cursor: Any, statement: str, *_: Any) -> None:
    note(statement)
