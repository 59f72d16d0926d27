"""Orders to suppliers: drafts, what was sent, what arrived, what was cancelled, and what the supplier answered."""

from __future__ import annotations

from datetime import date
from decimal import Decimal

from sqlalchemy import CheckConstraint, ForeignKey, Index, Numeric, UniqueConstraint
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column

from almanac.core.stock.replies import Reply
from almanac.store.models.base import Base, Id, Moment, one_of

DRAFT_STATES = ("draft", "waits", "refused", "sent", "dropped")
OPEN_DRAFTS = ("draft", "waits", "refused")


class OrderDraft(Base):
    """An order that is not sent: open to changes, waiting for an approval, or ended; once sent it names its order."""

    __tablename__ = "order_draft"
    __table_args__ = (one_of("state", DRAFT_STATES), UniqueConstraint("order_id"))
    id: Mapped[Id]
    supplier_id: Mapped[int] = mapped_column(ForeignKey("supplier.id"))
    state: Mapped[str]
    note: Mapped[str] = mapped_column(default="")
    asked_on: Mapped[date]
    author_id: Mapped[int | None] = mapped_column(ForeignKey("user.id"))
    sent_by_id: Mapped[int | None] = mapped_column(ForeignKey("user.id"))
    decided_by_id: Mapped[int | None] = mapped_column(ForeignKey("user.id"))
    decided_on: Mapped[date | None]
    decision: Mapped[str] = mapped_column(default="")
    order_id: Mapped[int | None] = mapped_column(ForeignKey("purchase_order.id"))
    version: Mapped[int] = mapped_column(default=1)
    recorded_at: Mapped[Moment]


class OrderDraftLine(Base):
    """One part of a draft; its price is looked up until the draft is sent."""

    __tablename__ = "order_draft_line"
    __table_args__ = (CheckConstraint("quantity > 0", name="quantity_positive"),)
    draft_id: Mapped[int] = mapped_column(ForeignKey("order_draft.id"), primary_key=True)
    part_id: Mapped[int] = mapped_column(ForeignKey("part.id"), primary_key=True)
    quantity: Mapped[int]


class PurchaseOrder(Base):
    """An order to a supplier, delivered to a site."""

    __tablename__ = "purchase_order"
    __table_args__ = (Index("ix_purchase_order_placed_on", "placed_on"),)
    id: Mapped[Id]
    number: Mapped[str] = mapped_column(unique=True)
    supplier_id: Mapped[int] = mapped_column(ForeignKey("supplier.id"))
    site_id: Mapped[int] = mapped_column(ForeignKey("site.id"))
    placed_on: Mapped[date]
    author_id: Mapped[int | None] = mapped_column(ForeignKey("user.id"))
    approved_by_id: Mapped[int | None] = mapped_column(ForeignKey("user.id"))
    note: Mapped[str] = mapped_column(default="")


class OrderMailing(Base):
    """An order that was sent by mail: where to, from whom, and which way. Append-only."""

    __tablename__ = "order_mailing"
    __table_args__ = (Index("ix_order_mailing_order_id", "order_id"),)
    id: Mapped[Id]
    order_id: Mapped[int] = mapped_column(ForeignKey("purchase_order.id"))
    address: Mapped[str]
    sender: Mapped[str]
    way: Mapped[str]
    mailed_on: Mapped[date]
    recorded_at: Mapped[Moment]
    author_id: Mapped[int | None] = mapped_column(ForeignKey("user.id"))


class PurchaseLine(Base):
    """One part of an order; `version` guards receipts against a stale screen."""

    __tablename__ = "purchase_line"
    __table_args__ = (
        CheckConstraint("quantity > 0", name="quantity_positive"),
        CheckConstraint("cancelled >= 0 AND cancelled <= quantity", name="cancelled_within_quantity"),
        Index("ix_purchase_line_part_id", "part_id"),
    )
    id: Mapped[Id]
    order_id: Mapped[int] = mapped_column(ForeignKey("purchase_order.id"))
    part_id: Mapped[int] = mapped_column(ForeignKey("part.id"))
    quantity: Mapped[int]
    cancelled: Mapped[int] = mapped_column(default=0)
    price: Mapped[Decimal] = mapped_column(Numeric(12, 2))
    expected_on: Mapped[date]
    confirmed_on: Mapped[date | None]
    version: Mapped[int] = mapped_column(default=1)


class Receipt(Base):
    """Parts of a line that arrived on a day; a line may arrive in several. One that undoes another counts them back, with a reason."""

    __tablename__ = "receipt"
    __table_args__ = (
        CheckConstraint("(quantity > 0 AND undoes_id IS NULL) OR (quantity < 0 AND undoes_id IS NOT NULL)", name="undone_below_zero"),
        UniqueConstraint("undoes_id"),
        Index("ix_receipt_line_id", "line_id"),
    )
    id: Mapped[Id]
    line_id: Mapped[int] = mapped_column(ForeignKey("purchase_line.id"))
    received_on: Mapped[date]
    quantity: Mapped[int]
    serials: Mapped[list[str]] = mapped_column(JSONB, default=list)
    reason: Mapped[str] = mapped_column(default="")
    undoes_id: Mapped[int | None] = mapped_column(ForeignKey("receipt.id"))
    recorded_at: Mapped[Moment]
    author_id: Mapped[int | None] = mapped_column(ForeignKey("user.id"))


class Cancellation(Base):
    """Parts of a line that will not come, with the reason; `PurchaseLine.cancelled` adds them up."""

    __tablename__ = "cancellation"
    __table_args__ = (
        CheckConstraint("quantity > 0", name="quantity_positive"),
        CheckConstraint("reason <> ''", name="reason_given"),
        Index("ix_cancellation_line_id", "line_id"),
    )
    id: Mapped[Id]
    line_id: Mapped[int] = mapped_column(ForeignKey("purchase_line.id"))
    quantity: Mapped[int]
    reason: Mapped[str]
    cancelled_on: Mapped[date]
    recorded_at: Mapped[Moment]
    author_id: Mapped[int | None] = mapped_column(ForeignKey("user.id"))


class SupplierAnswer(Base):
    """What the supplier said of a line, and what was made of it. expected_on, price, part_id, quantity : what it offers, by reply

    was : how the line stood before, in words
    """

    __tablename__ = "supplier_answer"
    __table_args__ = (
        one_of("reply", Reply),
        one_of("state", ("open", "accepted", "refused")),
        CheckConstraint("quantity >= 0", name="quantity_not_negative"),
        CheckConstraint("price >= 0", name="price_not_negative"),
        Index("ix_supplier_answer_line_id", "line_id"),
    )
    id: Mapped[Id]
    line_id: Mapped[int] = mapped_column(ForeignKey("purchase_line.id"))
    reply: Mapped[str]
    state: Mapped[str]
    quantity: Mapped[int | None]
    expected_on: Mapped[date | None]
    price: Mapped[Decimal | None] = mapped_column(Numeric(12, 2))
    part_id: Mapped[int | None] = mapped_column(ForeignKey("part.id"))
    words: Mapped[str] = mapped_column(default="")
    was: Mapped[str] = mapped_column(default="")
    answered_on: Mapped[date]
    recorded_at: Mapped[Moment]
    author_id: Mapped[int | None] = mapped_column(ForeignKey("user.id"))
    decided_by_id: Mapped[int | None] = mapped_column(ForeignKey("user.id"))
    decided_on: Mapped[date | None]
