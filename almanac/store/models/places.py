"""Harbours, the lanes between them, and suppliers."""

from __future__ import annotations

from datetime import date
from typing import Any

from sqlalchemy import CheckConstraint, ForeignKey, Index, text
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column

from almanac.core.parts.kinds import Environment
from almanac.store.models.base import Base, Id, one_of


class Site(Base):
    """A harbour with a shelf; `log_began_on` is the first day its incidents were written down."""

    __tablename__ = "site"
    __table_args__ = (
        one_of("environment", Environment),
        Index("uq_site_one_depot", "is_depot", unique=True, postgresql_where=text("is_depot")),
    )
    id: Mapped[Id]
    code: Mapped[str] = mapped_column(unique=True)
    name: Mapped[str] = mapped_column(unique=True)
    time_zone: Mapped[str]
    environment: Mapped[str]
    log_began_on: Mapped[date]
    is_depot: Mapped[bool] = mapped_column(default=False)


class Lane(Base):
    """Days a part takes from one site to another, when it leaves (weekdays, or every so many days), and what carries it."""

    __tablename__ = "lane"
    __table_args__ = (
        CheckConstraint("days >= 0", name="days_not_negative"),
        CheckConstraint("every_days > 0", name="every_days_positive"),
        CheckConstraint("from_site_id <> to_site_id", name="two_ends"),
    )
    from_site_id: Mapped[int] = mapped_column(ForeignKey("site.id"), primary_key=True)
    to_site_id: Mapped[int] = mapped_column(ForeignKey("site.id"), primary_key=True)
    days: Mapped[int]
    every_days: Mapped[int | None]
    weekdays: Mapped[list[int]] = mapped_column(JSONB, default=list)
    carrier: Mapped[str] = mapped_column(default="boat")


class Supplier(Base):
    """`lead_time` is a distribution: a list of {days, weight}, weights adding up to 1."""

    __tablename__ = "supplier"
    __table_args__ = (CheckConstraint("jsonb_array_length(lead_time) > 0", name="lead_time_given"),)
    id: Mapped[Id]
    name: Mapped[str] = mapped_column(unique=True)
    lead_time: Mapped[list[dict[str, Any]]] = mapped_column(JSONB)
