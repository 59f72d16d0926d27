"""Incidents and their append-only revisions: what was known on any past day can be asked."""

from __future__ import annotations

from datetime import date

from sqlalchemy import CheckConstraint, ForeignKey, ForeignKeyConstraint, Index, UniqueConstraint, text
from sqlalchemy.orm import Mapped, mapped_column

from almanac.core.life.outcomes import Bucket, Finding
from almanac.store.models.base import Base, Id, Moment, one_of

ACTIONS = ("replaced", "removed", "kept")


class Incident(Base):
    """A complaint about one asset. Everything said of it is in its revisions; the last columns repeat the latest one's
    number, day and whether it is open, so that the log pages by index."""

    __tablename__ = "incident"
    __table_args__ = (
        Index("ix_incident_asset_id", "asset_id"),
        Index("ix_incident_occurred_on", "occurred_on", "asset_id"),
        Index("ix_incident_page", text("is_open DESC"), text("occurred_on DESC"), text("id DESC")),
        ForeignKeyConstraint(
            ["id", "latest_number"],
            ["event_revision.incident_id", "event_revision.number"],
            name="fk_incident_latest_revision",
            use_alter=True,
            deferrable=True,
            initially="DEFERRED",
        ),
    )
    id: Mapped[Id]
    asset_id: Mapped[int] = mapped_column(ForeignKey("asset.id"))
    site_id: Mapped[int] = mapped_column(ForeignKey("site.id"))
    latest_number: Mapped[int] = mapped_column(default=1)
    occurred_on: Mapped[date]
    is_open: Mapped[bool]


class EventRevision(Base):
    """What was known of an incident at one moment. Never changed, never deleted: a correction is the next number.

    `last_good_on` is set where nobody complained and a check found the failure: it happened some day after that one.
    """

    __tablename__ = "event_revision"
    __table_args__ = (
        UniqueConstraint("incident_id", "number"),
        one_of("finding", Finding),
        CheckConstraint("number >= 1", name="number_positive"),
        CheckConstraint("minutes >= 0", name="minutes_not_negative"),
        CheckConstraint("last_good_on < occurred_on", name="last_good_before"),
        Index("ix_event_revision_occurred_on", "occurred_on", "incident_id"),
        Index("ix_event_revision_last_good_on", "id", postgresql_where=text("last_good_on IS NOT NULL")),
    )
    id: Mapped[Id]
    incident_id: Mapped[int] = mapped_column(ForeignKey("incident.id"))
    number: Mapped[int]
    occurred_on: Mapped[date]
    recorded_at: Mapped[Moment]
    author_id: Mapped[int | None] = mapped_column(ForeignKey("user.id"))
    reason: Mapped[str]
    finding: Mapped[str]
    minutes: Mapped[int | None]
    note: Mapped[str] = mapped_column(default="")
    last_good_on: Mapped[date | None]


class EventLine(Base):
    """One position an incident touched: the unit that came out, the unit that went in, and what the finding is.

    `removed_to` is the bucket the old unit went to, `fitted_from` the one the new unit came from; null on lines written before
    jobs said so: then the finding tells the first, and the second is what was on hand.
    """

    __tablename__ = "event_line"
    __table_args__ = (
        UniqueConstraint("revision_id", "number"),
        one_of("finding", Finding),
        one_of("action", ACTIONS),
        Index("ix_event_line_removed_tenure_id", "removed_tenure_id"),
        one_of("fitted_from", Bucket),
        one_of("removed_to", Bucket),
        CheckConstraint("(action = 'replaced') = (fitted_part_id IS NOT NULL)", name="replaced_names_part"),
    )
    id: Mapped[Id]
    revision_id: Mapped[int] = mapped_column(ForeignKey("event_revision.id"))
    number: Mapped[int]
    position_id: Mapped[int] = mapped_column(ForeignKey("position.id"))
    action: Mapped[str]
    finding: Mapped[str]
    removed_tenure_id: Mapped[int | None] = mapped_column(ForeignKey("tenure.id"))
    removed_part_id: Mapped[int | None] = mapped_column(ForeignKey("part.id"))
    fitted_tenure_id: Mapped[int | None] = mapped_column(ForeignKey("tenure.id"))
    fitted_part_id: Mapped[int | None] = mapped_column(ForeignKey("part.id"))
    shelf_site_id: Mapped[int | None] = mapped_column(ForeignKey("site.id"))
    fitted_from: Mapped[str | None]
    removed_to: Mapped[str | None]
