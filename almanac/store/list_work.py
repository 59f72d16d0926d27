"""Long lists that wait for a worker, and what became of them."""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import Any

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from almanac.store import queue
from almanac.store.models import ListWork, User

KEPT = timedelta(days=1)
PRIORITY = 30
"""Somebody waits for it: before anything that is computed ahead."""


def lock_of(work_id: int) -> str:
    """What the queue knows a list by."""
    return f"list {work_id}"


def put(
    session: Session, *, what: str, file_name: str, content: bytes | None, said: dict[str, Any], author_id: int, now: datetime
) -> ListWork:
    """A list that is to be looked at, applied or undone. Those that are over for long are forgotten."""
    session.execute(delete(ListWork).where(ListWork.asked_at < now - KEPT))
    row = ListWork(what=what, file_name=file_name, content=content, said=said, author_id=author_id, asked_at=now)
    session.add(row)
    session.flush()
    return row


def hand_to_worker(session: Session, row: ListWork) -> None:
    """Have a worker carry a list out, with this transaction."""
    queue.enqueue(session, queue.LIST, {"work": row.id}, lock=lock_of(row.id), priority=PRIORITY)


def one(session: Session, work_id: int, *, lock: bool = False) -> ListWork | None:
    """A list, locked until the transaction ends where it is to be worked on."""
    query = select(ListWork).where(ListWork.id == work_id).execution_options(populate_existing=True)
    return session.scalar(query.with_for_update() if lock else query)


def end(row: ListWork, *, answer: dict[str, Any] | None = None, problem: dict[str, Any] | None = None) -> None:
    """Say what became of a list, and let its content go."""
    row.content, row.answer, row.problem, row.ended_at = None, answer, problem, func.now()


def being_written(session: Session) -> list[tuple[ListWork, str]]:
    """Lists that a worker applies or undoes, or will, with who asked for it."""
    query = (
        select(ListWork, User.name).join(User, User.id == ListWork.author_id).where(ListWork.what != "look", ListWork.ended_at.is_(None))
    )
    return [(row, name) for row, name in session.execute(query.order_by(ListWork.id))]
