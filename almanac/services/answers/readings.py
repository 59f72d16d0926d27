"""What is read from the database and computed at once: known by the marks of the tables it was read from.

Which tables those are is noted while it is read. As long as no mark of them has moved, reading again would go the same way and find
the same rows, so the answer still holds; in every process, and after a restart.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import UTC, datetime
from functools import partial
from typing import Any, Generic, TypeVar

from sqlalchemy.orm import Session

from almanac.core.answers.encode import key_of
from almanac.services.answers.ask import keep, later, look_up
from almanac.store import replies
from almanac.store.marks import Mark, Marks, table_marks
from almanac.store.observed import note_tables, tables_read
from almanac.store.replies import ASKED_AGAIN, Latest

Value = TypeVar("Value")
EVER = datetime(9999, 1, 1, tzinfo=UTC)
TRIES = 3
"""Reading is begun anew where somebody wrote meanwhile; after so many tries the answer is given and not kept."""


@dataclass(frozen=True)
class Reading(Generic[Value]):
    """Something that is read: its name, the version of the reading, what it is asked with, and the type of its answer.

    arguments : of plain JSON · others : what else it depends on beside tables and arguments
    """

    name: str
    version: str
    arguments: Mapping[str, Any]
    of_type: Any
    others: tuple[Any, ...] = ()

    @property
    def asked(self) -> str:
        """Names what is asked, whatever the answer."""
        return key_of(("asked", self.name, self.version, dict(self.arguments), self.others))


@dataclass(frozen=True)
class State(Generic[Value]):
    """What is known of a reading: the marks as they stand, the latest answer's row, and the answer that holds now where one is kept."""

    asked: str
    marks: Marks
    latest: Latest | None
    key: str | None
    value: Value | None

    @property
    def holds(self) -> bool:
        """Whether the answer of the present state is known."""
        return self.value is not None


def state_of(session: Session, reading: Reading[Value], *, now: datetime | None = None, asking: bool = True) -> State[Value]:
    """What is known of a reading now. asking : somebody wants it, which is written down now and then."""
    moment = now or datetime.now(UTC)
    asked = reading.asked
    latest, marks = replies.latest_and_marks(session, asked)
    if latest is None:
        return State(asked, marks, None, None, None)
    if asking and moment - latest.asked_at > ASKED_AGAIN:
        later(session, partial(replies.mark_asked, asked=asked, now=moment))
    if moment >= latest.good_until:
        return State(asked, marks, latest, None, None)
    key = _key(asked, latest.reads, marks, latest.good_until)
    return State(asked, marks, latest, key, kept(session, reading, key))


def kept(session: Session, reading: Reading[Value], key: str) -> Value | None:
    """An answer of a reading by its key, the latest or an older one; None where it is not kept any more."""
    found: Value | None = look_up(session, {key: (reading.name, reading.of_type)}).get(key)
    return found


def read(
    session: Session,
    reading: Reading[Value],
    work: Callable[[], Value],
    *,
    good_until: datetime = EVER,
    state: State[Value] | None = None,
) -> Value:
    """The answer of a reading that holds now: known already, or read now and kept.

    Parameters
    ----------
    work : reads and computes · good_until : the moment its day ends · state : as `state_of` found it, looked up otherwise
    """
    found = state or state_of(session, reading)
    if found.value is not None:
        note_tables(found.latest.reads if found.latest else ())
        return found.value
    marks = found.marks
    for _ in range(TRIES):
        begun, made_at = time.perf_counter(), datetime.now(UTC)
        with tables_read() as reads:
            value = work()
        took, after = time.perf_counter() - begun, table_marks(session)
        if _of(reads, marks) == _of(reads, after):
            _write(session, reading, found.asked, value, reads, marks, (made_at, good_until, took))
            return value
        marks = after
    return value


def _write(
    session: Session,
    reading: Reading[Value],
    asked: str,
    value: Value,
    reads: set[str],
    marks: Marks,
    times: tuple[datetime, datetime, float],
) -> None:
    made_at, good_until, took = times
    key = _key(asked, tuple(sorted(reads)), marks, good_until)
    keep(session, key, reading.name, 0, value, took)
    row = Latest(asked, reading.name, dict(reading.arguments), tuple(sorted(reads)), key, made_at, good_until, made_at)
    later(session, lambda own: replies.write(own, row))


def _of(reads: set[str], marks: Marks) -> list[tuple[str, Mark | None]]:
    return [(table, marks.of_table.get(table)) for table in sorted(reads)]


def _key(asked: str, reads: tuple[str, ...], marks: Marks, good_until: datetime) -> str:
    return key_of((asked, marks.database, _of(set(reads), marks), good_until))
