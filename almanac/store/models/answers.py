"""Answers that were computed: derived values, which can be dropped at any time and come again; and what rests on some of them."""

from __future__ import annotations

from datetime import date, datetime
from typing import Any

from sqlalchemy import ARRAY, BigInteger, DateTime, ForeignKey, Index, LargeBinary, String
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column

from almanac.store.models.base import Base, Id, Moment, one_of


class AnswerRow(Base):
    """One answer by the key of its question; `used_at` is moved on now and then, so that what nobody asks for goes first."""

    __tablename__ = "answer"
    __table_args__ = (Index("ix_answer_used_at", "used_at"), Index("ix_answer_name", "name"))
    key: Mapped[str] = mapped_column(primary_key=True)
    name: Mapped[str]
    version: Mapped[int]
    value: Mapped[bytes] = mapped_column(LargeBinary)
    made_at: Mapped[Moment]
    took_seconds: Mapped[float]
    size_bytes: Mapped[int]
    used_at: Mapped[datetime] = mapped_column(DateTime(timezone=True))


class ReplyRow(Base):
    """The last answer to something asked: the tables it was read from, the key it is kept under, and until when its day lasts."""

    __tablename__ = "reply"
    __table_args__ = (Index("ix_reply_asked_at", "asked_at"),)
    asked: Mapped[str] = mapped_column(primary_key=True)
    view: Mapped[str]
    arguments: Mapped[dict[str, Any]] = mapped_column(JSONB)
    reads: Mapped[list[str]] = mapped_column(ARRAY(String))
    key: Mapped[str]
    made_at: Mapped[Moment]
    good_until: Mapped[Moment]
    asked_at: Mapped[Moment]


class Pin(Base):
    """An answer that somebody acted on, kept for good: `subject` is the order's number, or the file that was exported."""

    __tablename__ = "pin"
    __table_args__ = (one_of("act", ("order", "export")), Index("ix_pin_key", "key"), Index("ix_pin_subject", "act", "subject"))
    id: Mapped[Id]
    key: Mapped[str] = mapped_column(ForeignKey("answer.key"))
    view: Mapped[str]
    arguments: Mapped[dict[str, Any]] = mapped_column(JSONB)
    act: Mapped[str]
    subject: Mapped[str]
    as_of: Mapped[date]
    pinned_at: Mapped[Moment]
    author_id: Mapped[int | None] = mapped_column(ForeignKey("user.id"))


class WorkProgress(Base):
    """How far a piece of work in the queue is."""

    __tablename__ = "work_progress"
    job_id: Mapped[int] = mapped_column(BigInteger, primary_key=True, autoincrement=False)
    words: Mapped[str]
    done: Mapped[int]
    of: Mapped[int]
