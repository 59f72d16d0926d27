"""Lists the company keeps elsewhere: sources with what their columns and names mean, and what was applied of each list."""

from __future__ import annotations

from datetime import date, datetime
from typing import Any

from sqlalchemy import CheckConstraint, DateTime, ForeignKey, Index, LargeBinary, UniqueConstraint
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column

from almanac.store.models.base import Base, Id, Moment, one_of


class ListSource(Base):
    """Where lists come from, such as "asset register"; `settled` is what a person said its columns, days and names mean."""

    __tablename__ = "list_source"
    __table_args__ = (UniqueConstraint("kind", "name"),)
    id: Mapped[Id]
    kind: Mapped[str]
    name: Mapped[str]
    settled: Mapped[dict[str, Any]] = mapped_column(JSONB)
    last_list_on: Mapped[date | None]


class Intake(Base):
    """A list that was applied; `changes` says of each machine what it was and what it became, so that it can be undone."""

    __tablename__ = "intake"
    __table_args__ = (Index("ix_intake_source_id", "source_id"),)
    id: Mapped[Id]
    source_id: Mapped[int] = mapped_column(ForeignKey("list_source.id"))
    file_name: Mapped[str]
    list_on: Mapped[date]
    counts: Mapped[dict[str, int]] = mapped_column(JSONB)
    changes: Mapped[list[dict[str, Any]]] = mapped_column(JSONB)
    recorded_at: Mapped[Moment]
    author_id: Mapped[int | None] = mapped_column(ForeignKey("user.id"))
    undone_at: Mapped[Moment | None]
    undone_by_id: Mapped[int | None] = mapped_column(ForeignKey("user.id"))


class ListWork(Base):
    """A long list that a worker looks at, applies or undoes; its content is let go when that is done.

    said : what goes with it, or which intake is undone
    answer : the reply, or else `problem`, as a request would have got it; neither while it is under way
    """

    __tablename__ = "list_work"
    __table_args__ = (
        one_of("what", ("look", "apply", "undo")),
        CheckConstraint("ended_at IS NULL OR (answer IS NULL) <> (problem IS NULL)", name="ended_with_one"),
    )
    id: Mapped[Id]
    what: Mapped[str]
    file_name: Mapped[str]
    content: Mapped[bytes | None] = mapped_column(LargeBinary)
    said: Mapped[dict[str, Any]] = mapped_column(JSONB)
    author_id: Mapped[int] = mapped_column(ForeignKey("user.id"))
    asked_at: Mapped[Moment]
    ended_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
    answer: Mapped[dict[str, Any] | None] = mapped_column(JSONB(none_as_null=True))
    problem: Mapped[dict[str, Any] | None] = mapped_column(JSONB(none_as_null=True))
