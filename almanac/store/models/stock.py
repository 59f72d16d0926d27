"""Shelves, the moves that change them, and what is promised."""

from __future__ import annotations

from datetime import date

from sqlalchemy import CheckConstraint, ForeignKey, Index, UniqueConstraint, text
from sqlalchemy.orm import Mapped, mapped_column

from almanac.core.life.outcomes import Bucket
from almanac.store.models.base import Base, Id, Moment, one_of

CAUSES = (
    "opening", "receipt", "fitted", "removed", "reclassified", "sent", "arrived", "counted", "tested", "returned", "scrapped",
    "found", "quarantined", "released", "disposed", "expired", "lost", "undone", "issued",
)  # fmt: skip


class Shelf(Base):
    """A stock part at a site; `place` is where it lies there, such as C-14, `topped_up_on` when its packs were charged."""

    __tablename__ = "shelf"
    __table_args__ = (UniqueConstraint("part_id", "site_id"),)
    id: Mapped[Id]
    part_id: Mapped[int] = mapped_column(ForeignKey("part.id"))
    site_id: Mapped[int] = mapped_column(ForeignKey("site.id"))
    place: Mapped[str | None]
    topped_up_on: Mapped[date | None]


class Transfer(Base):
    """Parts from one site to another: packed, under way since `left_on`, arrived; what did not arrive is settled with the arrival."""

    __tablename__ = "transfer"
    __table_args__ = (
        CheckConstraint("quantity > 0", name="quantity_positive"),
        CheckConstraint("from_site_id <> to_site_id", name="two_sites"),
        CheckConstraint("arrived >= 0 AND arrived <= quantity", name="arrived_within_quantity"),
    )
    id: Mapped[Id]
    part_id: Mapped[int] = mapped_column(ForeignKey("part.id"))
    from_site_id: Mapped[int] = mapped_column(ForeignKey("site.id"))
    to_site_id: Mapped[int] = mapped_column(ForeignKey("site.id"))
    quantity: Mapped[int]
    packed_on: Mapped[date]
    left_on: Mapped[date | None]
    due_on: Mapped[date | None]
    arrived_on: Mapped[date | None]
    arrived: Mapped[int | None]
    cancelled_on: Mapped[date | None]
    version: Mapped[int] = mapped_column(default=1)
    author_id: Mapped[int | None] = mapped_column(ForeignKey("user.id"))
    recorded_at: Mapped[Moment]


class StockCount(Base):
    """A shelf counted: what was booked then, and what lay there; a difference above a value waits for a lead."""

    __tablename__ = "stock_count"
    __table_args__ = (
        CheckConstraint("counted >= 0", name="counted_not_negative"),
        one_of("state", ("booked", "waits", "refused")),
        Index("ix_stock_count_shelf_id", "shelf_id"),
    )
    id: Mapped[Id]
    shelf_id: Mapped[int] = mapped_column(ForeignKey("shelf.id"))
    booked: Mapped[int]
    counted: Mapped[int]
    reason: Mapped[str]
    state: Mapped[str]
    counted_on: Mapped[date]
    author_id: Mapped[int | None] = mapped_column(ForeignKey("user.id"))
    approved_by_id: Mapped[int | None] = mapped_column(ForeignKey("user.id"))
    recorded_at: Mapped[Moment]


class StockAct(Base):
    """What somebody did with stock, with the reason: its moves point to it, and it is undone by another one, once. Append-only."""

    __tablename__ = "stock_act"
    __table_args__ = (UniqueConstraint("undoes_id"), Index("ix_stock_act_job_id", "job_id", postgresql_where=text("job_id IS NOT NULL")))
    id: Mapped[Id]
    act: Mapped[str]
    reason: Mapped[str]
    done_on: Mapped[date]
    recorded_at: Mapped[Moment]
    author_id: Mapped[int | None] = mapped_column(ForeignKey("user.id"))
    undoes_id: Mapped[int | None] = mapped_column(ForeignKey("stock_act.id"))
    transfer_id: Mapped[int | None] = mapped_column(ForeignKey("transfer.id"))
    count_id: Mapped[int | None] = mapped_column(ForeignKey("stock_count.id"))
    job_id: Mapped[int | None] = mapped_column(ForeignKey("job.id"))


class StockMove(Base):
    """A signed quantity in or out of a bucket of a shelf. Append-only: balances are sums of it."""

    __tablename__ = "stock_move"
    __table_args__ = (
        one_of("bucket", Bucket),
        one_of("cause", CAUSES),
        CheckConstraint("quantity <> 0", name="quantity_not_zero"),
        Index("ix_stock_move_shelf_id", "shelf_id", "bucket"),
        Index("ix_stock_move_act_id", "act_id"),
    )
    id: Mapped[Id]
    shelf_id: Mapped[int] = mapped_column(ForeignKey("shelf.id"))
    bucket: Mapped[str]
    quantity: Mapped[int]
    cause: Mapped[str]
    lot: Mapped[str | None]
    made_on: Mapped[date | None]
    moved_on: Mapped[date]
    recorded_at: Mapped[Moment]
    author_id: Mapped[int | None] = mapped_column(ForeignKey("user.id"))
    incident_id: Mapped[int | None] = mapped_column(ForeignKey("incident.id"))
    receipt_id: Mapped[int | None] = mapped_column(ForeignKey("receipt.id"))
    act_id: Mapped[int | None] = mapped_column(ForeignKey("stock_act.id"))


class Reservation(Base):
    """Parts on a shelf promised to a coming job or a planned swap; counts until it is released."""

    __tablename__ = "reservation"
    __table_args__ = (CheckConstraint("quantity > 0", name="quantity_positive"), Index("ix_reservation_shelf_id", "shelf_id"))
    id: Mapped[Id]
    shelf_id: Mapped[int] = mapped_column(ForeignKey("shelf.id"))
    quantity: Mapped[int]
    asset_id: Mapped[int | None] = mapped_column(ForeignKey("asset.id"))
    plan_id: Mapped[int | None] = mapped_column(ForeignKey("fleet_plan.id"))
    reserved_on: Mapped[date]
    released_on: Mapped[date | None]


class Backorder(Base):
    """Parts asked of an empty shelf; counts until it is filled."""

    __tablename__ = "backorder"
    __table_args__ = (CheckConstraint("quantity > 0", name="quantity_positive"), Index("ix_backorder_shelf_id", "shelf_id"))
    id: Mapped[Id]
    shelf_id: Mapped[int] = mapped_column(ForeignKey("shelf.id"))
    quantity: Mapped[int]
    asset_id: Mapped[int | None] = mapped_column(ForeignKey("asset.id"))
    plan_id: Mapped[int | None] = mapped_column(ForeignKey("fleet_plan.id"))
    asked_on: Mapped[date]
    filled_on: Mapped[date | None]


class ShelfBalance(Base):
    """Parts in a bucket of a shelf, kept by a trigger on the moves: it cannot fall below zero, whoever writes a move."""

    __tablename__ = "shelf_balance"
    __table_args__ = (CheckConstraint("quantity >= 0", name="not_negative"),)
    shelf_id: Mapped[int] = mapped_column(ForeignKey("shelf.id"), primary_key=True)
    bucket: Mapped[str] = mapped_column(primary_key=True)
    quantity: Mapped[int]
