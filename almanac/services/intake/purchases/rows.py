"""Rows of a list of purchases as they are understood, and what is on record of them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date
from decimal import Decimal

from sqlalchemy import func, select, text
from sqlalchemy.orm import Session

from almanac.services.intake.meanings import Meanings
from almanac.services.intake.parts.rows import MOST
from almanac.services.intake.purchases.fields import FIELDS
from almanac.services.intake.table import Line
from almanac.store.models import PurchaseLine, PurchaseOrder, Receipt

COUNTED = """
SELECT h.part_id, h.site_id, max(day) FROM shelf h JOIN (
  SELECT shelf_id, counted_on AS day FROM stock_count WHERE state = 'booked'
  UNION ALL SELECT shelf_id, moved_on FROM stock_move WHERE cause = 'opening' AND quantity > 0
  UNION ALL SELECT shelf_id, min(moved_on) - 1 FROM stock_move GROUP BY shelf_id
) seen ON seen.shelf_id = h.id GROUP BY 1, 2
"""


@dataclass(frozen=True)
class PurchaseRow:
    """A row as it was understood. number : of the part on record, None while that is asked · site : its code"""

    line: int
    order: str
    number: str | None
    supplier: str
    quantity: int | None
    ordered_on: date | None
    expected_on: date | None
    received_on: date | None
    price: Decimal | None
    site: str | None
    wrong: str = ""


@dataclass(frozen=True)
class LineOnRecord:
    """A line of an order on record. left : still to come"""

    id: int
    quantity: int
    left: int
    version: int
    expected_on: date


def purchase_row(line: Line, numbers: Meanings, sites: Meanings) -> PurchaseRow:
    """One row."""
    quantity, price = line.amount("quantity"), line.amount("price")
    wrong = line.unread(FIELDS)
    if quantity is not None and (quantity != quantity.to_integral_value() or not 1 <= quantity <= MOST):
        wrong = wrong or f"{line.text('quantity')} parts: a whole number of at least 1 was wanted"
        quantity = None
    number, site = line.text("number"), line.text("site")
    return PurchaseRow(
        line=line.number,
        order=line.text("order"),
        number=numbers.of(line.number, number) if number else None,
        supplier=line.text("supplier"),
        quantity=int(quantity) if quantity is not None else None,
        ordered_on=line.day("ordered_on"),
        expected_on=line.day("expected_on"),
        received_on=line.day("received_on"),
        price=price.quantize(Decimal("0.01")) if price is not None else None,
        site=sites.of(line.number, site) if site else None,
        wrong=wrong,
    )


def orders_on_record(session: Session) -> dict[str, PurchaseOrder]:
    """Orders by upper-case number."""
    return {order.number.upper(): order for order in session.scalars(select(PurchaseOrder))}


def lines_on_record(session: Session) -> Mapping[tuple[int, int], list[LineOnRecord]]:
    """Lines by order and part."""
    arrived = select(Receipt.line_id, func.sum(Receipt.quantity).label("parts")).group_by(Receipt.line_id).subquery()
    query = select(PurchaseLine, func.coalesce(arrived.c.parts, 0)).outerjoin(arrived, arrived.c.line_id == PurchaseLine.id)
    found: dict[tuple[int, int], list[LineOnRecord]] = {}
    for line, parts in session.execute(query.order_by(PurchaseLine.id)):
        left = line.quantity - line.cancelled - int(parts)
        own = LineOnRecord(line.id, line.quantity, left, line.version, line.expected_on)
        found.setdefault((line.order_id, line.part_id), []).append(own)
    return found


def last_counted(session: Session) -> dict[tuple[int, int], date]:
    """The day each shelf was last counted or opened, else the one before anything was booked on it, by part and site.

    What had arrived by then is in its number.
    """
    return {(part, site): day for part, site, day in session.execute(text(COUNTED))}
