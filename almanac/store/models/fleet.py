"""Assets, where they stood, and what is planned for the fleet."""

from __future__ import annotations

from datetime import date
from typing import Any

from sqlalchemy import CheckConstraint, ForeignKey, ForeignKeyConstraint, Index, UniqueConstraint, func, text
from sqlalchemy.dialects.postgresql import JSONB, ExcludeConstraint
from sqlalchemy.orm import Mapped, mapped_column

from almanac.core.parts.kinds import Duty
from almanac.store.models.base import Base, Id, Moment, one_of


class Asset(Base):
    """One machine. `options` holds actual values; a name that is absent is unknown. `disposal` says what became of it and of its data."""

    __tablename__ = "asset"
    __table_args__ = (
        one_of("duty", Duty),
        UniqueConstraint("id", "model_id", name="uq_asset_id_model"),
        CheckConstraint("retired_on >= in_service_on", name="retired_after_in_service"),
        CheckConstraint("disposed_on >= retired_on", name="disposed_after_retired"),
        CheckConstraint("(disposed_on IS NULL) = (disposal IS NULL)", name="disposal_whole"),
        CheckConstraint("disposed_on IS NULL OR retired_on IS NOT NULL", name="disposed_is_retired"),
        CheckConstraint("retire_planned_on >= in_service_on", name="planned_after_in_service"),
        Index("ix_asset_model_id", "model_id"),
        Index("ix_asset_upper_tag", text("upper(tag)")),
        Index("ix_asset_upper_serial", text("upper(serial)")),
    )
    id: Mapped[Id]
    tag: Mapped[str] = mapped_column(unique=True)
    serial: Mapped[str | None]
    model_id: Mapped[int] = mapped_column(ForeignKey("device_model.id"))
    options: Mapped[dict[str, Any]] = mapped_column(JSONB, default=dict)
    duty: Mapped[str]
    in_service_on: Mapped[date]
    retire_planned_on: Mapped[date | None]
    retired_on: Mapped[date | None]
    disposed_on: Mapped[date | None]
    disposal: Mapped[str | None]


class AssetStay(Base):
    """Where an asset stood from one day until another; open-ended while it is still there."""

    __tablename__ = "asset_stay"
    __table_args__ = (
        CheckConstraint("until_on > from_on", name="ends_after_start"),
        ExcludeConstraint(("asset_id", "="), (text("daterange(from_on, until_on)"), "&&"), name="one_site_at_a_time"),
        Index("ix_asset_stay_asset_id", "asset_id"),
        Index("ix_asset_stay_site_id", "site_id"),
    )
    id: Mapped[Id]
    asset_id: Mapped[int] = mapped_column(ForeignKey("asset.id"))
    site_id: Mapped[int] = mapped_column(ForeignKey("site.id"))
    from_on: Mapped[date]
    until_on: Mapped[date | None]


class FleetPlan(Base):
    """Purchases of a model, early retirements, or planned swaps of a position, on a day; a withdrawn one stays on record."""

    __tablename__ = "fleet_plan"
    __table_args__ = (
        one_of("action", ("purchase", "retire", "swap")),
        one_of("duty", Duty),
        CheckConstraint("quantity > 0", name="quantity_positive"),
        CheckConstraint("(action = 'swap') = (part_id IS NOT NULL)", name="swap_names_part"),
        CheckConstraint("withdrawn_at >= recorded_at", name="withdrawn_after_recorded"),
        ForeignKeyConstraint(["position_id", "model_id"], ["position.id", "position.model_id"], name="fk_fleet_plan_position_of_model"),
    )
    id: Mapped[Id]
    action: Mapped[str]
    model_id: Mapped[int] = mapped_column(ForeignKey("device_model.id"))
    site_id: Mapped[int] = mapped_column(ForeignKey("site.id"))
    duty: Mapped[str]
    planned_on: Mapped[date]
    quantity: Mapped[int]
    position_id: Mapped[int | None]
    part_id: Mapped[int | None] = mapped_column(ForeignKey("part.id"))
    note: Mapped[str] = mapped_column(default="")
    recorded_at: Mapped[Moment] = mapped_column(server_default=func.now())
    author_id: Mapped[int | None] = mapped_column(ForeignKey("user.id"))
    withdrawn_at: Mapped[Moment | None]
    withdrawn_by_id: Mapped[int | None] = mapped_column(ForeignKey("user.id"))
