"""Stock-keeping parts, what may stand in for what, and what fits where."""

from __future__ import annotations

from datetime import date
from decimal import Decimal

from sqlalchemy import CheckConstraint, ForeignKey, Index, Numeric, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column

from almanac.core.parts.kinds import Verdict
from almanac.store.models.base import Base, Document, Id, Moment, kind_word, one_of


class Part(Base):
    """What is ordered and kept. Facts are {name: [{value, grade, source, date}, ...]}: a conflict keeps both."""

    __tablename__ = "part"
    __table_args__ = (
        kind_word(),
        CheckConstraint("price >= 0", name="price_not_negative"),
        CheckConstraint("pack >= 1", name="pack_positive"),
        CheckConstraint("minimum_order >= 1", name="minimum_order_positive"),
        CheckConstraint("shelf_life_days > 0", name="shelf_life_positive"),
        CheckConstraint("warranty_days > 0", name="warranty_positive"),
    )
    id: Mapped[Id]
    number: Mapped[str] = mapped_column(unique=True)
    name: Mapped[str]
    kind: Mapped[str]
    facts: Mapped[Document]
    supplier_id: Mapped[int] = mapped_column(ForeignKey("supplier.id"))
    price: Mapped[Decimal] = mapped_column(Numeric(12, 2))
    pack: Mapped[int] = mapped_column(default=1)
    minimum_order: Mapped[int] = mapped_column(default=1)
    shelf_life_days: Mapped[int | None]
    end_of_supply_on: Mapped[date | None]
    warranty_days: Mapped[int | None]


class PriceBreak(Base):
    """What one part costs where at least so many are bought at a time."""

    __tablename__ = "price_break"
    __table_args__ = (CheckConstraint("from_quantity > 1", name="more_than_one"), CheckConstraint("price >= 0", name="price_not_negative"))
    part_id: Mapped[int] = mapped_column(ForeignKey("part.id"), primary_key=True)
    from_quantity: Mapped[int] = mapped_column(primary_key=True)
    price: Mapped[Decimal] = mapped_column(Numeric(12, 2))


class CatalogChange(Base):
    """One field of a part or supplier that somebody changed, in words. Append-only. subject : part OF-P14, supplier Ostrel Spares"""

    __tablename__ = "catalog_change"
    __table_args__ = (Index("ix_catalog_change_subject", "subject"),)
    id: Mapped[Id]
    subject: Mapped[str]
    field: Mapped[str]
    before: Mapped[str]
    after: Mapped[str]
    changed_on: Mapped[date]
    recorded_at: Mapped[Moment]
    author_id: Mapped[int | None] = mapped_column(ForeignKey("user.id"))


class Interchange(Base):
    """`part` may be fitted where `serves_as` is asked for; both directions present means two-way equivalents."""

    __tablename__ = "interchange"
    __table_args__ = (CheckConstraint("part_id <> serves_as_id", name="two_parts"),)
    part_id: Mapped[int] = mapped_column(ForeignKey("part.id"), primary_key=True)
    serves_as_id: Mapped[int] = mapped_column(ForeignKey("part.id"), primary_key=True)
    reason: Mapped[str]


class Fits(Base):
    """Verdict of one part in one position, with its reason; listed by a person or computed by a rule."""

    __tablename__ = "fits"
    __table_args__ = (one_of("verdict", Verdict), one_of("origin", ("listed", "computed")), UniqueConstraint("position_id", "part_id"))
    part_id: Mapped[int] = mapped_column(ForeignKey("part.id"), primary_key=True)
    position_id: Mapped[int] = mapped_column(ForeignKey("position.id"), primary_key=True)
    verdict: Mapped[str]
    reason: Mapped[str]
    origin: Mapped[str]
