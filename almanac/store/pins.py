"""Answers that somebody acted on, kept for good."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from almanac.store.models import AnswerRow, Pin, ReplyRow, User


@dataclass(frozen=True)
class Pinned:
    """An answer that was acted on, as it was written."""

    view: str
    arguments: dict[str, Any]
    value: bytes
    as_of: date
    pinned_at: datetime
    author: str | None


def value_of(session: Session, key: str, view: str) -> bytes | None:
    """A kept reply of a view as it was written, by its key; None where it is none or is not kept."""
    found: bytes | None = session.scalar(select(AnswerRow.value).where(AnswerRow.key == key, AnswerRow.name == view))
    return found


def latest_key(session: Session, view: str, arguments: dict[str, Any]) -> str | None:
    """Key of the latest reply of a view to the same arguments; None where none is kept."""
    query = select(AnswerRow.key).join(ReplyRow, ReplyRow.key == AnswerRow.key)
    query = query.where(ReplyRow.view == view, ReplyRow.arguments == arguments).order_by(ReplyRow.made_at.desc())
    return session.scalar(query.limit(1))


def pin(session: Session, made: Pin) -> None:
    """Keep an answer for good."""
    session.add(made)
    session.flush()


def pinned(session: Session, act: str, subject: str) -> Pinned | None:
    """The answer that an act rested on; None where none was kept."""
    query = (
        select(Pin.view, Pin.arguments, AnswerRow.value, Pin.as_of, Pin.pinned_at, User.name)
        .join(AnswerRow, AnswerRow.key == Pin.key)
        .outerjoin(User, User.id == Pin.author_id)
        .where(Pin.act == act, Pin.subject == subject)
        .order_by(Pin.id)
    )
    row = session.execute(query).first()
    return None if row is None else Pinned(*row)
