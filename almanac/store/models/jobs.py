"""Jobs at the bench, their append-only journals, and who has a removed drive in their hands."""

from __future__ import annotations

from datetime import date, datetime
from typing import Any
from uuid import UUID

from sqlalchemy import CheckConstraint, DateTime, ForeignKey, ForeignKeyConstraint, Index, UniqueConstraint, text
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column

from almanac.core.workbench.approvals import Approval
from almanac.core.workbench.journal import JobState
from almanac.store.models.base import Base, Document, Id, Moment, one_of

PURPOSES = ("repair", "upgrade", "preventive", "survey")
ENDED = "('closed', 'abandoned')"


class Job(Base):
    """Work on one machine. What happened is in its entries; the columns repeat what they add up to, for lists and leases.

    `plan` is the route's steps as they were planned from a page's revision. Only the device that holds the lease writes steps.
    """

    __tablename__ = "job"
    __table_args__ = (
        one_of("purpose", PURPOSES),
        one_of("state", JobState),
        ForeignKeyConstraint(["asset_id", "model_id"], ["asset.id", "asset.model_id"], name="fk_job_asset_model"),
        CheckConstraint(f"(state IN {ENDED}) = (ended_at IS NOT NULL)", name="ended_when_closed"),
        CheckConstraint("(lease_device IS NULL) = (lease_until IS NULL)", name="lease_whole"),
        CheckConstraint("taken_minutes >= 0", name="taken_not_negative"),
        Index("ix_job_asset_id", "asset_id"),
        Index("ix_job_model_id", "model_id", postgresql_where=text("state = 'closed'")),
        Index("ix_job_state", "state", postgresql_where=text(f"state NOT IN {ENDED}")),
    )
    id: Mapped[Id]
    asset_id: Mapped[int]
    model_id: Mapped[int] = mapped_column(ForeignKey("device_model.id"))
    site_id: Mapped[int] = mapped_column(ForeignKey("site.id"))
    page_revision_id: Mapped[int] = mapped_column(ForeignKey("model_revision.id"))
    purpose: Mapped[str]
    state: Mapped[str]
    symptom: Mapped[str]
    events: Mapped[list[Any]] = mapped_column(JSONB, default=list)
    plan: Mapped[Document]
    planned_minutes: Mapped[float]
    opened_on: Mapped[date]
    opened_at: Mapped[Moment]
    opened_by: Mapped[int | None] = mapped_column(ForeignKey("user.id"))
    lease_user_id: Mapped[int | None] = mapped_column(ForeignKey("user.id"))
    lease_device: Mapped[UUID | None]
    lease_until: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
    reopens_id: Mapped[int | None] = mapped_column(ForeignKey("job.id"))
    incident_id: Mapped[int | None] = mapped_column(ForeignKey("incident.id"))
    watch_from: Mapped[date | None]
    taken_minutes: Mapped[float | None]
    failed_test: Mapped[bool] = mapped_column(default=False, server_default=text("false"))
    ended_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))


class JobEntry(Base):
    """One entry of a job's journal. `entry_key` is made on the device, so that a step sent twice is one step."""

    __tablename__ = "job_entry"
    __table_args__ = (
        UniqueConstraint("job_id", "number"),
        UniqueConstraint("entry_key"),
        CheckConstraint("number >= 1", name="number_positive"),
    )
    id: Mapped[Id]
    job_id: Mapped[int] = mapped_column(ForeignKey("job.id"))
    number: Mapped[int]
    entry_key: Mapped[UUID]
    kind: Mapped[str]
    data: Mapped[Document]
    done_at: Mapped[Moment]
    recorded_at: Mapped[Moment]
    author_id: Mapped[int | None] = mapped_column(ForeignKey("user.id"))


class ApprovalRow(Base):
    """Something a worker may not decide alone: asked with its reason, answered once by a second signed-in person."""

    __tablename__ = "approval"
    __table_args__ = (
        one_of("kind", Approval),
        CheckConstraint("count >= 1", name="count_positive"),
        CheckConstraint(
            "(answered_at IS NULL) = (answered_by_id IS NULL) AND (answered_at IS NULL) = (granted IS NULL)", name="answer_whole"
        ),
        CheckConstraint("own OR answered_by_id <> asked_by_id", name="two_people"),
        Index("ix_approval_job_id", "job_id"),
        Index("one_open_approval", "job_id", "kind", "subject", unique=True, postgresql_where=text("answered_at IS NULL")),
    )
    id: Mapped[Id]
    job_id: Mapped[int] = mapped_column(ForeignKey("job.id"))
    kind: Mapped[str]
    subject: Mapped[str]
    count: Mapped[int] = mapped_column(default=1)
    title: Mapped[str]
    reason: Mapped[str]
    asked_at: Mapped[Moment]
    asked_by_id: Mapped[int] = mapped_column(ForeignKey("user.id"))
    answered_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
    answered_by_id: Mapped[int | None] = mapped_column(ForeignKey("user.id"))
    granted: Mapped[bool | None]
    own: Mapped[bool] = mapped_column(default=False, server_default=text("false"))
    details: Mapped[Document]


class CustodyLine(Base):
    """A drive that left its machine: who had it, where it went, with what said of its data. Never changed."""

    __tablename__ = "custody_line"
    __table_args__ = (Index("ix_custody_line_unit_id", "unit_id"),)
    id: Mapped[Id]
    unit_id: Mapped[int] = mapped_column(ForeignKey("unit.id"))
    job_id: Mapped[int | None] = mapped_column(ForeignKey("job.id"))
    words: Mapped[str]
    recorded_at: Mapped[Moment]
    author_id: Mapped[int | None] = mapped_column(ForeignKey("user.id"))
