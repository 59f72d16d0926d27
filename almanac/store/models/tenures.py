"""Physical parts and the time each spent in a position."""

from __future__ import annotations

from datetime import date, datetime
from enum import StrEnum

from sqlalchemy import CheckConstraint, DateTime, ForeignKey, ForeignKeyConstraint, Index, UniqueConstraint, text
from sqlalchemy.dialects.postgresql import ExcludeConstraint
from sqlalchemy.orm import Mapped, mapped_column

from almanac.store.models.base import Base, Id, Moment, one_of


class LotKnownBy(StrEnum):
    """How it is known which lot of a shelf a part came from: its serial arrived with it, no other lay there, or by the rule first out."""

    SERIAL = "serial"
    ONLY_LOT = "only_lot"
    FIRST_OUT = "first_out"


class Unit(Base):
    """One physical part, with or without a serial. A recovered one is stock only after its test (rule N7).

    made_on : day of manufacture as its lot has it, which also tells its lot apart · lot_known_by : where it came from a shelf of lots
    """

    __tablename__ = "unit"
    __table_args__ = (
        UniqueConstraint("id", "part_id", name="uq_unit_id_part"),
        one_of("condition", ("new", "used", "harvested", "failed", "unknown")),
        one_of("tested_as", ("good", "worn")),
        one_of("lot_known_by", LotKnownBy),
        CheckConstraint("(tested_on IS NULL) = (tested_as IS NULL)", name="test_whole"),
        CheckConstraint("lot_known_by IS NULL OR made_on IS NOT NULL", name="lot_whole"),
        Index("ix_unit_serial", "serial", postgresql_where=text("serial IS NOT NULL")),
    )
    id: Mapped[Id]
    part_id: Mapped[int] = mapped_column(ForeignKey("part.id"))
    serial: Mapped[str | None]
    condition: Mapped[str] = mapped_column(default="new")
    received_on: Mapped[date | None]
    made_on: Mapped[date | None]
    lot_known_by: Mapped[str | None]
    tested_on: Mapped[date | None]
    tested_as: Mapped[str | None]


class Tenure(Base):
    """One physical unit in one position of one asset, from `fitted_on` until `removed_on` (NULL: still in).

    `observed_from` is the later of the fitting and the day the site's log began: before it, the unit is only known to
    have survived. Of a unit that nobody saw fitted, `fitted_on` is the first day it may have been, and its age at any later
    day may be less by up to `age_span_days`; `as_delivered` says that it was only concluded from the machine's model. The
    composite keys make the unit's part, the asset's model and the position's model agree.
    """

    __tablename__ = "tenure"
    __table_args__ = (
        CheckConstraint("removed_on >= fitted_on", name="removed_after_fitted"),
        CheckConstraint("observed_from >= fitted_on", name="observed_after_fitted"),
        CheckConstraint("age_at_fitting_days >= 0", name="age_not_negative"),
        CheckConstraint("age_span_days BETWEEN 0 AND age_at_fitting_days + (observed_from - fitted_on)", name="age_span"),
        CheckConstraint("(removed_on IS NULL) = (removal_recorded_at IS NULL)", name="removal_recorded"),
        ExcludeConstraint(("asset_id", "="), ("position_id", "="), (text("daterange(fitted_on, removed_on)"), "&&"), name="one_at_a_time"),
        ExcludeConstraint(("unit_id", "="), (text("daterange(fitted_on, removed_on)"), "&&"), name="one_place_at_a_time"),
        Index("ix_tenure_asset_id", "asset_id"),
        ForeignKeyConstraint(["unit_id", "part_id"], ["unit.id", "unit.part_id"], name="fk_tenure_unit_part", ondelete="RESTRICT"),
        ForeignKeyConstraint(["asset_id", "model_id"], ["asset.id", "asset.model_id"], name="fk_tenure_asset_model"),
        ForeignKeyConstraint(["position_id", "model_id"], ["position.id", "position.model_id"], name="fk_tenure_position_model"),
        Index("ix_tenure_part_id", "part_id"),
    )
    id: Mapped[Id]
    unit_id: Mapped[int]
    part_id: Mapped[int]
    asset_id: Mapped[int]
    model_id: Mapped[int]
    position_id: Mapped[int]
    fitted_on: Mapped[date]
    removed_on: Mapped[date | None]
    age_at_fitting_days: Mapped[int] = mapped_column(default=0)
    age_span_days: Mapped[int] = mapped_column(default=0)
    as_delivered: Mapped[bool] = mapped_column(default=False)
    observed_from: Mapped[date]
    recorded_at: Mapped[Moment]
    removal_recorded_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
