"""Readings of parts in service, by which their wear is followed."""

from __future__ import annotations

from datetime import date

from sqlalchemy import CheckConstraint, ForeignKey, Index
from sqlalchemy.orm import Mapped, mapped_column

from almanac.store.models.base import Base, Id, Moment


class Reading(Base):
    """What a part could still hold on a day, and what it was made for; the last one recorded for a day holds.

    withdrawn : what was read that day is read no more · cycles : charge cycles a pack had counted by then, where it said so
    """

    __tablename__ = "reading"
    __table_args__ = (
        CheckConstraint("design > 0", name="design_above_zero"),
        CheckConstraint("cycles >= 0", name="cycles_not_negative"),
        CheckConstraint('"full" >= 0 AND "full" <= 2 * design', name="full_in_range"),
        Index("ix_reading_tenure_id", "tenure_id", "read_on"),
    )
    id: Mapped[Id]
    tenure_id: Mapped[int] = mapped_column(ForeignKey("tenure.id"))
    read_on: Mapped[date]
    full: Mapped[float]
    design: Mapped[float]
    cycles: Mapped[int | None]
    withdrawn: Mapped[bool] = mapped_column(default=False)
    recorded_at: Mapped[Moment]
    author_id: Mapped[int | None] = mapped_column(ForeignKey("user.id"))
