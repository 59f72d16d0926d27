"""Balances of shelves, what is promised and what is on order: all derived from moves, orders and receipts."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from sqlalchemy import func, or_, select, text
from sqlalchemy.orm import Session

from almanac.core.life.outcomes import Bucket
from almanac.core.stock.lots import LotMove, expired_in, lots_left
from almanac.store.models import Backorder, FleetPlan, Part, PurchaseLine, PurchaseOrder, Receipt, Reservation, Shelf, ShelfBalance

OPEN_LINES = """
SELECT l.id, l.part_id, o.site_id, o.number, l.expected_on, o.placed_on, l.version, l.quantity,
       l.quantity - l.cancelled - COALESCE((SELECT sum(r.quantity) FROM receipt r WHERE r.line_id = l.id), 0)::integer AS remaining
FROM purchase_line l JOIN purchase_order o ON o.id = l.order_id
WHERE (CAST(:part AS integer) IS NULL OR l.part_id = :part)
  AND l.quantity - l.cancelled > COALESCE((SELECT sum(r.quantity) FROM receipt r WHERE r.line_id = l.id), 0)
ORDER BY l.expected_on, l.id
"""

LASTING_DAYS = 36500
"""For which a part without a shelf life is taken to last, so that of its lots too the oldest goes first."""
LOTS = f"""
SELECT h.part_id, h.site_id, m.moved_on, sum(m.quantity) AS quantity,
       m.made_on + COALESCE(p.shelf_life_days, {LASTING_DAYS}) AS expires_on, m.cause = 'expired' AS for_expiry
FROM stock_move m JOIN shelf h ON h.id = m.shelf_id JOIN part p ON p.id = h.part_id AND (p.shelf_life_days IS NOT NULL OR :lasting)
WHERE m.bucket = :bucket AND (CAST(:shelf AS integer) IS NULL OR h.id = :shelf)
  AND (CAST(:part AS integer) IS NULL OR h.part_id = :part)
  AND (CAST(:kind AS text) IS NULL OR p.kind = :kind)
GROUP BY h.part_id, h.site_id, m.moved_on, m.quantity > 0, 5, 6
ORDER BY h.part_id, h.site_id, m.moved_on, (m.quantity > 0) DESC
"""
"""Of parts with a shelf life, or of all: what came and went by day, what came on a day before what went."""


FREE = """
SELECT h.part_id, h.site_id, (COALESCE(b.quantity, 0) - COALESCE(r.quantity, 0))::integer AS free
FROM shelf h LEFT JOIN shelf_balance b ON b.shelf_id = h.id AND b.bucket = :bucket
LEFT JOIN LATERAL (SELECT sum(k.quantity) AS quantity FROM reservation k WHERE k.shelf_id = h.id AND k.released_on IS NULL) r ON true
WHERE h.part_id = ANY(:parts)
"""


@dataclass(frozen=True)
class OpenLine:
    """Parts of a purchase order still to come."""

    id: int
    part_id: int
    site_id: int
    order_number: str
    expected_on: date
    placed_on: date
    version: int
    quantity: int
    remaining: int


def balances(session: Session, *buckets: Bucket) -> dict[tuple[int, int], dict[Bucket, int]]:
    """Quantity in each of these buckets, or in every one, by (part, site), as the database keeps them."""
    query = select(Shelf.part_id, Shelf.site_id, ShelfBalance.bucket, ShelfBalance.quantity).join(
        ShelfBalance, ShelfBalance.shelf_id == Shelf.id
    )
    query = query.where(ShelfBalance.bucket.in_([bucket.value for bucket in buckets])) if buckets else query
    found: dict[tuple[int, int], dict[Bucket, int]] = {}
    for part_id, site_id, name, quantity in session.execute(query):
        found.setdefault((part_id, site_id), {})[Bucket(name)] = quantity
    return found


def promised(session: Session, today: date) -> dict[tuple[int, int], int]:
    """Parts reserved or backordered by (part, site): they are no longer free to use.

    What is kept for a swap planned for later is not among them: demand counts the swap already, on its day.
    """
    planned = select(FleetPlan.id).where(FleetPlan.planned_on > today, FleetPlan.withdrawn_at.is_(None))
    found: dict[tuple[int, int], int] = {}
    for table, closed in ((Reservation, Reservation.released_on), (Backorder, Backorder.filled_on)):
        query = (
            select(Shelf.part_id, Shelf.site_id, func.sum(table.quantity))
            .join(table, table.shelf_id == Shelf.id)
            .where(closed.is_(None), or_(table.plan_id.is_(None), table.plan_id.not_in(planned)))
            .group_by(Shelf.part_id, Shelf.site_id)
        )
        for part_id, site_id, quantity in session.execute(query):
            found[part_id, site_id] = found.get((part_id, site_id), 0) + int(quantity)
    return found


def open_lines(session: Session, *, part_id: int | None = None) -> list[OpenLine]:
    """Order lines with parts still to come, of one part or all, earliest first."""
    return [OpenLine(*row) for row in session.execute(text(OPEN_LINES), {"part": part_id})]


def buckets_of(session: Session, shelf_id: int) -> dict[Bucket, int]:
    """What one shelf holds, by bucket."""
    rows = session.execute(select(ShelfBalance.bucket, ShelfBalance.quantity).where(ShelfBalance.shelf_id == shelf_id))
    return {Bucket(bucket): quantity for bucket, quantity in rows}


def free_by_site(session: Session, parts: Sequence[int], today: date) -> dict[tuple[int, int], int]:
    """Usable parts that nobody has a claim on, by (part, site), of some parts at all sites."""
    rows = session.execute(text(FREE), {"parts": list(parts), "bucket": Bucket.ON_HAND.value})
    found = {(row.part_id, row.site_id): row.free for row in rows}
    perishable = session.scalars(select(Part.id).where(Part.id.in_(parts), Part.shelf_life_days.is_not(None))).all()
    for part in perishable:
        for shelf, own in lots(session, part_id=part).items():
            found[shelf] = found.get(shelf, 0) - expired_in(own, today)
    return found


def lots(
    session: Session,
    *,
    shelf_id: int | None = None,
    part_id: int | None = None,
    kind: str | None = None,
    bucket: Bucket = Bucket.ON_HAND,
    lasting: bool = False,
) -> dict[tuple[int, int], list[tuple[date | None, int]]]:
    """Lots left on each shelf, on one, of one part or kind, where there is a shelf life, by (part, site): last day, and how many.

    lasting : also of parts without a shelf life, as if they lasted LASTING_DAYS
    """
    moves: dict[tuple[int, int], list[LotMove]] = {}
    for part, site, moved_on, quantity, expires_on, for_expiry in session.execute(
        text(LOTS), {"shelf": shelf_id, "part": part_id, "kind": kind, "bucket": bucket.value, "lasting": lasting}
    ):
        moves.setdefault((part, site), []).append(LotMove(moved_on, int(quantity), expires_on, for_expiry))
    return {shelf: lots_left(own) for shelf, own in moves.items()}


def shelf_for_update(session: Session, part_id: int, site_id: int) -> Shelf:
    """The shelf of a part at a site, locked until the transaction ends; made when it was never used."""
    query = select(Shelf).where(Shelf.part_id == part_id, Shelf.site_id == site_id).with_for_update()
    shelf = session.scalar(query)
    if shelf is None:
        session.add(Shelf(part_id=part_id, site_id=site_id))
        session.flush()
        shelf = session.scalars(query).one()
    return shelf


def balance(session: Session, shelf_id: int, bucket: Bucket = Bucket.ON_HAND) -> int:
    """Parts in one bucket of one shelf."""
    query = select(ShelfBalance.quantity).where(ShelfBalance.shelf_id == shelf_id, ShelfBalance.bucket == bucket.value)
    return session.scalar(query) or 0


def expired(session: Session, shelf_id: int, today: date) -> int:
    """Parts on a shelf whose last day is over: no stock (rule N11)."""
    return sum(expired_in(own, today) for own in lots(session, shelf_id=shelf_id).values())


def reserved(session: Session, shelf_id: int) -> int:
    """Parts of a shelf that are kept for somebody."""
    query = select(func.coalesce(func.sum(Reservation.quantity), 0))
    return int(session.scalar(query.where(Reservation.shelf_id == shelf_id, Reservation.released_on.is_(None))) or 0)


def free(session: Session, shelf_id: int, today: date) -> int:
    """Usable parts of a shelf that nobody has a claim on, below zero where more are kept than lie there."""
    return balance(session, shelf_id) - expired(session, shelf_id, today) - reserved(session, shelf_id)


def shelf_at(session: Session, part_id: int, site_id: int) -> Shelf | None:
    """The shelf of a part at a site, None where it was never used."""
    return session.scalar(select(Shelf).where(Shelf.part_id == part_id, Shelf.site_id == site_id))


def line_for_update(session: Session, line_id: int) -> PurchaseLine | None:
    """An order line, locked until the transaction ends."""
    return session.scalar(select(PurchaseLine).where(PurchaseLine.id == line_id).with_for_update())


def order_of(session: Session, line: PurchaseLine) -> PurchaseOrder:
    """The order a line belongs to."""
    return session.scalars(select(PurchaseOrder).where(PurchaseOrder.id == line.order_id)).one()


def order_like(session: Session, part_id: int, quantity: int, *, placed_on: date) -> str | None:
    """Number of an order of so many of a part placed on a day and not cancelled, None where there is none."""
    query = (
        select(PurchaseOrder.number)
        .join(PurchaseLine, PurchaseLine.order_id == PurchaseOrder.id)
        .where(PurchaseLine.part_id == part_id, PurchaseLine.quantity == quantity, PurchaseOrder.placed_on == placed_on)
        .where(PurchaseLine.cancelled < PurchaseLine.quantity)
        .order_by(PurchaseOrder.id.desc())
        .limit(1)
    )
    return session.scalar(query)


def received(session: Session, line_id: int) -> int:
    """Parts of a line that have arrived so far."""
    return int(session.scalar(select(func.coalesce(func.sum(Receipt.quantity), 0)).where(Receipt.line_id == line_id)) or 0)
