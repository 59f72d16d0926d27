"""The table of answers: found by key, kept, and the longest unused dropped when there are too many."""

from __future__ import annotations

from collections.abc import Collection
from datetime import datetime, timedelta
from typing import Any

from sqlalchemy import delete, func, select, text, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from almanac.store.models import AnswerRow, Pin

USED_AGAIN = timedelta(hours=6)
"""When an answer was last asked for is written down no oftener."""
DROP = """
DELETE FROM answer WHERE key IN (
  SELECT key FROM (SELECT key, sum(size_bytes) OVER (ORDER BY used_at DESC, key) AS until FROM answer) a
  WHERE until > :most AND NOT EXISTS (SELECT 1 FROM pin WHERE pin.key = a.key)
)
"""


def find(session: Session, keys: Collection[str]) -> dict[str, tuple[bytes, datetime, datetime]]:
    """Value, when it was made and when last used, of each key that is kept."""
    if not keys:
        return {}
    query = select(AnswerRow.key, AnswerRow.value, AnswerRow.made_at, AnswerRow.used_at).where(AnswerRow.key.in_(keys))
    return {key: (value, made_at, used_at) for key, value, made_at, used_at in session.execute(query)}


def keep(session: Session, row: dict[str, Any]) -> bytes | None:
    """Keep an answer; returns the value of the one that somebody else kept meanwhile, which is everybody's from then on."""
    kept = insert(AnswerRow).values(row).on_conflict_do_nothing().returning(AnswerRow.key)
    if session.scalar(kept) is not None:
        return None
    return session.scalar(select(AnswerRow.value).where(AnswerRow.key == row["key"]))


def mark_used(session: Session, keys: Collection[str], *, now: datetime) -> None:
    """Write down that answers were asked for."""
    if keys:
        session.execute(update(AnswerRow).where(AnswerRow.key.in_(keys)).values(used_at=now))


def forget(session: Session, keys: Collection[str]) -> None:
    """Drop answers that cannot be read."""
    if keys:
        session.execute(delete(AnswerRow).where(AnswerRow.key.in_(keys), AnswerRow.key.not_in(select(Pin.key))))


def kept(session: Session) -> tuple[int, int]:
    """How many answers are kept, and the bytes they take."""
    count, size = session.execute(select(func.count(), func.coalesce(func.sum(AnswerRow.size_bytes), 0))).one()
    return int(count), int(size)


def drop_longest_unused(session: Session, *, most_bytes: int) -> int:
    """Drop what nobody asked for the longest until the rest fits; returns how many went."""
    total = session.scalar(select(func.coalesce(func.sum(AnswerRow.size_bytes), 0))) or 0
    if total <= most_bytes:
        return 0
    return int(session.execute(text(DROP), {"most": most_bytes}).rowcount)  # type: ignore[attr-defined]
