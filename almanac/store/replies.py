"""What was last read of what: its answer's key, and the tables it was read from."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from sqlalchemy import delete, select, text, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from almanac.store.marks import DATABASE, MARKS_AS_ONE, Marks
from almanac.store.models import ReplyRow

LATEST = f"""
SELECT ({DATABASE}), ({MARKS_AS_ONE}), r.asked, r.view, r.arguments, r.reads, r.key, r.made_at, r.good_until, r.asked_at
FROM (SELECT 1) one LEFT JOIN reply r ON r.asked = :asked
"""
ASKED_AGAIN = timedelta(minutes=10)
"""When something was last asked for is written down no oftener."""


@dataclass(frozen=True)
class Latest:
    """The latest reply to what was asked."""

    asked: str
    view: str
    arguments: dict[str, Any]
    reads: tuple[str, ...]
    key: str
    made_at: datetime
    good_until: datetime
    asked_at: datetime


def latest_and_marks(session: Session, asked: str) -> tuple[Latest | None, Marks]:
    """The latest reply to what was asked, and how the marks of all tables stand: one look, one moment."""
    row = session.execute(text(LATEST), {"asked": asked}).one()
    marks = Marks(row[0], {topic: (int(writers), int(places)) for topic, (writers, places) in (row[1] or {}).items()})
    return (None if row[2] is None else _latest(row[2:])), marks


def asked_since(session: Session, moment: datetime, views: list[str]) -> list[Latest]:
    """What was asked of some views since a moment, the last asked first."""
    query = select(*_COLUMNS).where(ReplyRow.view.in_(views), ReplyRow.asked_at >= moment).order_by(ReplyRow.asked_at.desc())
    return [_latest(row) for row in session.execute(query)]


def write(session: Session, reply: Latest) -> None:
    """Write a reply down as the latest, unless one that was made later is."""
    values = {name: getattr(reply, name) for name in Latest.__dataclass_fields__} | {"reads": list(reply.reads)}
    made = insert(ReplyRow).values(**values)
    new = {name: made.excluded[name] for name in ("reads", "key", "made_at", "good_until")}
    newer = made.excluded.made_at >= ReplyRow.made_at
    session.execute(made.on_conflict_do_update(index_elements=["asked"], set_=new, where=newer))


def mark_asked(session: Session, asked: str, *, now: datetime) -> None:
    """Write down that somebody asked."""
    session.execute(update(ReplyRow).where(ReplyRow.asked == asked).values(asked_at=now))


def forget_before(session: Session, moment: datetime) -> int:
    """Forget what nobody asked since a moment; returns how much that was."""
    return len(session.execute(delete(ReplyRow).where(ReplyRow.asked_at < moment).returning(ReplyRow.asked)).all())


_COLUMNS = [getattr(ReplyRow, name) for name in Latest.__dataclass_fields__]


def _latest(row: Any) -> Latest:
    asked, view, arguments, reads, key, made_at, good_until, asked_at = row
    return Latest(asked, view, arguments, tuple(reads), key, made_at, good_until, asked_at)
