"""What machines say of themselves, who may bring it, and what of it is on record otherwise."""

from __future__ import annotations

from datetime import date, datetime
from enum import StrEnum
from typing import Any

from sqlalchemy import CheckConstraint, DateTime, ForeignKey, Index, UniqueConstraint, text
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column

from almanac.store.models.base import Base, Document, Id, Moment, one_of


class Scope(StrEnum):
    """What a token opens: what its owner may read, bringing reports of machines, or its owner's calendar."""

    READ = "read"
    REPORT = "report"
    CALENDAR = "calendar"


class AccessToken(Base):
    """A key that a program shows in place of a sign-in; kept as a hash only, so that it is shown once."""

    __tablename__ = "access_token"
    __table_args__ = (one_of("scope", Scope), CheckConstraint("expires_at > made_at", name="expires_later"))
    id: Mapped[Id]
    token_hash: Mapped[str] = mapped_column(unique=True)
    user_id: Mapped[int] = mapped_column(ForeignKey("user.id"))
    name: Mapped[str]
    scope: Mapped[str]
    made_at: Mapped[Moment]
    expires_at: Mapped[Moment]
    last_used_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
    ended_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
    ended_by_id: Mapped[int | None] = mapped_column(ForeignKey("user.id"))


class MachineReport(Base):
    """The latest report of a machine; of one that is not on record, by what it calls itself.

    calls_itself : tag or serial, of machines that are not on record · said : the report · missed : what of it was not understood
    """

    __tablename__ = "machine_report"
    __table_args__ = (
        UniqueConstraint("asset_id"),
        UniqueConstraint("calls_itself"),
        CheckConstraint("(asset_id IS NULL) <> (calls_itself IS NULL)", name="of_one_machine"),
        Index("ix_machine_report_reported_at", "reported_at"),
    )
    id: Mapped[Id]
    asset_id: Mapped[int | None] = mapped_column(ForeignKey("asset.id"))
    calls_itself: Mapped[str | None]
    reported_at: Mapped[Moment]
    received_at: Mapped[Moment]
    digest: Mapped[str]
    said: Mapped[Document]
    missed: Mapped[list[Any]] = mapped_column(JSONB, default=list)


class ReportQuestion(Base):
    """Something a machine says that is on record otherwise: nothing was written, a person says what holds.

    answer : `as_on_record`, `recorded` once the record says the same, `no_longer` when a later report does not say it any more
    """

    __tablename__ = "report_question"
    __table_args__ = (
        one_of("answer", ("as_on_record", "recorded", "no_longer")),
        CheckConstraint("(settled_at IS NULL) = (answer IS NULL)", name="settled_with_answer"),
        Index("uq_report_question_open", "asset_id", "words", unique=True, postgresql_where=text("settled_at IS NULL")),
        Index("ix_report_question_asset_id", "asset_id"),
    )
    id: Mapped[Id]
    asset_id: Mapped[int] = mapped_column(ForeignKey("asset.id"))
    words: Mapped[str]
    raised_on: Mapped[date]
    said_last_on: Mapped[date]
    settled_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
    settled_by_id: Mapped[int | None] = mapped_column(ForeignKey("user.id"))
    answer: Mapped[str | None]
    reason: Mapped[str] = mapped_column(default="")


class FleetView(Base):
    """A look at the register that somebody keeps under a name: what is looked for, how it is sorted, and which columns."""

    __tablename__ = "fleet_view"
    __table_args__ = (UniqueConstraint("user_id", "name"),)
    id: Mapped[Id]
    user_id: Mapped[int] = mapped_column(ForeignKey("user.id"))
    name: Mapped[str]
    query: Mapped[str]
    made_at: Mapped[Moment]
