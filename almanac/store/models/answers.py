"""Answers that were computed: derived values, which can be dropped at any time and come again."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import DateTime, Index, LargeBinary
from sqlalchemy.orm import Mapped, mapped_column

from almanac.store.models.base import Base, Moment


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
