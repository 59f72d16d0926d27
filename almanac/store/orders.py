"""Orders and drafts as rows: lines with what arrived, answers of suppliers, deliveries of the past, and what a part is needed for."""

from __future__ import annotations

from collections.abc import Collection
from datetime import date
from decimal import Decimal
from typing import NamedTuple

from sqlalchemy import func, select, text
from sqlalchemy.orm import Session

from almanac.store.evidence import SERVING
from almanac.store.models import (
    OrderDraft,
    OrderDraftLine,
    OrderMailing,
    Part,
    PriceBreak,
    PurchaseLine,
    PurchaseOrder,
    Receipt,
    Role,
    Supplier,
    SupplierAnswer,
    User,
)

OPEN_DRAFTS = ("draft", "waits", "refused")
"""States of a draft that is still to be decided on."""

LINES = """
SELECT l.id, l.order_id, p.number AS part_number, p.name AS part_name, p.kind, l.quantity, l.cancelled, l.price, l.expected_on,
       l.confirmed_on, l.version,
       COALESCE((SELECT sum(r.quantity) FROM receipt r WHERE r.line_id = l.id), 0)::integer AS arrived
FROM purchase_line l JOIN part p ON p.id = l.part_id WHERE l.order_id = ANY(:orders) ORDER BY l.id
"""

DELIVERIES = """
SELECT o.supplier_id, o.id AS order_id, o.placed_on, r.received_on, sum(r.quantity)::float / max(whole.parts) AS share
FROM purchase_order o
JOIN purchase_line l ON l.order_id = o.id
JOIN receipt r ON r.line_id = l.id AND r.undoes_id IS NULL AND r.received_on <= :today
    AND NOT EXISTS (SELECT 1 FROM receipt u WHERE u.undoes_id = r.id)
JOIN LATERAL (SELECT sum(w.quantity - w.cancelled) AS parts FROM purchase_line w WHERE w.order_id = o.id) whole ON true
WHERE o.placed_on >= :since GROUP BY 1, 2, 3, 4
"""
WAITED = """
SELECT o.supplier_id, o.id AS order_id, o.placed_on, sum(b.remaining)::float / max(whole.parts) AS share
FROM purchase_order o
JOIN LATERAL (SELECT l.quantity - l.cancelled - COALESCE((SELECT sum(r.quantity) FROM receipt r WHERE r.line_id = l.id), 0) AS remaining
              FROM purchase_line l WHERE l.order_id = o.id) b ON b.remaining > 0
JOIN LATERAL (SELECT sum(w.quantity - w.cancelled) AS parts FROM purchase_line w WHERE w.order_id = o.id) whole ON true
WHERE o.placed_on BETWEEN :since AND :today GROUP BY 1, 2, 3
"""

PLACES = f"""
SELECT count(*)::integer FROM position q
JOIN fits f ON f.position_id = q.id AND f.part_id = :part AND f.verdict = 'yes'
JOIN {SERVING} ON a.model_id = q.model_id
"""
BUSIEST = """
SELECT max(parts)::integer FROM (
    SELECT -sum(m.quantity) AS parts FROM stock_move m JOIN shelf h ON h.id = m.shelf_id
    WHERE h.part_id = :part AND m.cause = 'fitted' AND m.bucket = 'on_hand' GROUP BY date_trunc('year', m.moved_on)) y
"""
HELD = """
SELECT COALESCE((SELECT sum(b.quantity) FROM shelf_balance b JOIN shelf h ON h.id = b.shelf_id
                 WHERE h.part_id = :part AND b.bucket IN ('on_hand', 'under_way')), 0)::integer
"""


class LineRow(NamedTuple):
    """One line of an order with what arrived of it."""

    id: int
    order_id: int
    part_number: str
    part_name: str
    kind: str
    quantity: int
    cancelled: int
    price: Decimal
    expected_on: date
    confirmed_on: date | None
    version: int
    arrived: int

    @property
    def to_come(self) -> int:
        return self.quantity - self.cancelled - self.arrived


class DeliveryRow(NamedTuple):
    """A part of an order that arrived on a day, or that is not there yet. arrived_on : None while open"""

    supplier_id: int
    placed_on: date
    arrived_on: date | None
    share: float


class OrderRow(NamedTuple):
    """An order with who asked and who approved."""

    order: PurchaseOrder
    supplier: str
    author: str | None


def lines_of(session: Session, orders: Collection[int]) -> dict[int, list[LineRow]]:
    """Lines of some orders, by order."""
    found: dict[int, list[LineRow]] = {number: [] for number in orders}
    for row in session.execute(text(LINES), {"orders": list(orders)}):
        found[row.order_id].append(LineRow(*row))
    return found


def deliveries(session: Session, *, since: date, today: date) -> list[DeliveryRow]:
    """What arrived of orders placed since a day, and what of them is not there yet; shares are of an order's parts."""
    bound = {"since": since, "today": today}
    arrived = [DeliveryRow(row.supplier_id, row.placed_on, row.received_on, row.share) for row in session.execute(text(DELIVERIES), bound)]
    return arrived + [DeliveryRow(row.supplier_id, row.placed_on, None, row.share) for row in session.execute(text(WAITED), bound)]


def order_rows(
    session: Session,
    *,
    number: str | None = None,
    numbers: Collection[str] | None = None,
    order_id: int | None = None,
    limit: int | None = None,
) -> list[OrderRow]:
    """Orders, the latest first: all, those of some numbers, or the one of a number or an id."""
    query = select(PurchaseOrder, Supplier.name, User.name).join(Supplier, Supplier.id == PurchaseOrder.supplier_id)
    query = query.outerjoin(User, User.id == PurchaseOrder.author_id)
    query = query.where(PurchaseOrder.number == number) if number is not None else query
    query = query.where(PurchaseOrder.number.in_(numbers)) if numbers is not None else query
    query = query.where(PurchaseOrder.id == order_id) if order_id is not None else query
    query = query.order_by(PurchaseOrder.placed_on.desc(), PurchaseOrder.id.desc()).limit(limit)
    return [OrderRow(*row) for row in session.execute(query)]


class MailingRow(NamedTuple):
    """A mail with an order, and who sent it."""

    mailing: OrderMailing
    author: str | None


def mailings_of(session: Session, order_id: int) -> list[MailingRow]:
    """Mails with an order."""
    query = select(OrderMailing, User.name).outerjoin(User, User.id == OrderMailing.author_id).where(OrderMailing.order_id == order_id)
    return [MailingRow(*row) for row in session.execute(query.order_by(OrderMailing.id))]


def last_mailing(session: Session, supplier_id: int) -> OrderMailing | None:
    """The latest mail to a supplier: where it is reached."""
    query = select(OrderMailing).join(PurchaseOrder, PurchaseOrder.id == OrderMailing.order_id)
    return session.scalar(query.where(PurchaseOrder.supplier_id == supplier_id).order_by(OrderMailing.id.desc()).limit(1))


def last_sender(session: Session) -> str | None:
    """The address the company last wrote from."""
    return session.scalar(select(OrderMailing.sender).order_by(OrderMailing.id.desc()).limit(1))


def parts_named(session: Session, numbers: Collection[str], ids: Collection[int | None]) -> dict[str, Part]:
    """Parts of some numbers or ids, by number."""
    query = select(Part).where(Part.number.in_(numbers) | Part.id.in_([one for one in ids if one is not None]))
    return {part.number: part for part in session.scalars(query)}


def draft_for_update(session: Session, draft_id: int) -> OrderDraft | None:
    """A draft, locked until the transaction ends."""
    return session.scalar(select(OrderDraft).where(OrderDraft.id == draft_id).with_for_update())


def drafts(session: Session, *states: str) -> list[tuple[OrderDraft, str, str | None]]:
    """Drafts in some states with supplier and author, the oldest first."""
    query = select(OrderDraft, Supplier.name, User.name).join(Supplier, Supplier.id == OrderDraft.supplier_id)
    query = query.outerjoin(User, User.id == OrderDraft.author_id).where(OrderDraft.state.in_(states)).order_by(OrderDraft.id)
    return [(draft, supplier, author) for draft, supplier, author in session.execute(query)]


def draft_lines(session: Session, draft_ids: Collection[int]) -> dict[int, list[tuple[OrderDraftLine, Part]]]:
    """Lines of some drafts with their parts, by draft."""
    query = select(OrderDraftLine, Part).join(Part, Part.id == OrderDraftLine.part_id).where(OrderDraftLine.draft_id.in_(draft_ids))
    found: dict[int, list[tuple[OrderDraftLine, Part]]] = {number: [] for number in draft_ids}
    for line, part in session.execute(query.order_by(Part.number)):
        found[line.draft_id].append((line, part))
    return found


def in_drafts(session: Session) -> dict[int, int]:
    """Parts in open drafts by part: asked for, on nobody's way yet."""
    query = select(OrderDraftLine.part_id, func.sum(OrderDraftLine.quantity)).join(OrderDraft, OrderDraft.id == OrderDraftLine.draft_id)
    rows = session.execute(query.where(OrderDraft.state.in_(OPEN_DRAFTS)).group_by(OrderDraftLine.part_id))
    return {part: int(quantity) for part, quantity in rows}


def price_breaks(session: Session, parts: Collection[int] | None = None) -> dict[int, list[tuple[int, Decimal]]]:
    """Price breaks of parts by part, from the smallest quantity up."""
    query = select(PriceBreak).order_by(PriceBreak.part_id, PriceBreak.from_quantity)
    query = query.where(PriceBreak.part_id.in_(parts)) if parts is not None else query
    found: dict[int, list[tuple[int, Decimal]]] = {}
    for row in session.scalars(query):
        found.setdefault(row.part_id, []).append((row.from_quantity, row.price))
    return found


def answers_to(session: Session, orders: Collection[int]) -> dict[int, list[SupplierAnswer]]:
    """What suppliers said to some orders, by order, in the order it came."""
    query = select(PurchaseLine.order_id, SupplierAnswer).join(PurchaseLine, PurchaseLine.id == SupplierAnswer.line_id)
    found: dict[int, list[SupplierAnswer]] = {number: [] for number in orders}
    for order, answer in session.execute(query.where(PurchaseLine.order_id.in_(orders)).order_by(SupplierAnswer.id)):
        found[order].append(answer)
    return found


class ReceiptRow(NamedTuple):
    """A receipt with who wrote it, and whether it was undone."""

    receipt: Receipt
    author: str | None
    undone: bool


def receipts_of(session: Session, order_id: int) -> list[ReceiptRow]:
    """Receipts of an order and their undoings, in order."""
    query = select(Receipt, User.name).join(PurchaseLine, PurchaseLine.id == Receipt.line_id).outerjoin(User, User.id == Receipt.author_id)
    rows = session.execute(query.where(PurchaseLine.order_id == order_id).order_by(Receipt.id)).all()
    undone = {receipt.undoes_id for receipt, _ in rows}
    return [ReceiptRow(receipt, author, receipt.id in undone) for receipt, author in rows]


def lots_of(session: Session, order_id: int) -> dict[int, str]:
    """Lots of an order's receipts, by receipt."""
    query = "SELECT m.receipt_id, m.lot FROM stock_move m JOIN receipt r ON r.id = m.receipt_id JOIN purchase_line l ON l.id = r.line_id"
    rows = session.execute(text(f"{query} WHERE l.order_id = :order AND m.lot IS NOT NULL"), {"order": order_id})
    return {row.receipt_id: row.lot for row in rows}


def need_of(session: Session, part_id: int, today: date) -> tuple[int, int, int | None]:
    """Places that take a part in machines in service, parts of it on shelves and under way, and those used in the busiest year."""
    places = session.scalar(text(PLACES), {"part": part_id, "as_of": today}) or 0
    held = session.scalar(text(HELD), {"part": part_id}) or 0
    busiest: int | None = session.scalar(text(BUSIEST), {"part": part_id})
    return places, held, busiest


def leads(session: Session) -> list[int]:
    """Active leads."""
    return list(session.scalars(select(User.id).where(User.active, User.role == Role.LEAD.value)))


def names(session: Session, users: Collection[int | None]) -> dict[int, str]:
    """Names of users by id."""
    wanted = [one for one in users if one is not None]
    return {row.id: row.name for row in session.execute(select(User.id, User.name).where(User.id.in_(wanted)))}


def last_number(session: Session, prefix: str) -> int:
    """Highest count used in order numbers of a prefix."""
    used = session.scalars(select(PurchaseOrder.number).where(PurchaseOrder.number.startswith(prefix)))
    return max((int(number.removeprefix(prefix)) for number in used if number.removeprefix(prefix).isdigit()), default=0)


def serials_received(session: Session, serials: Collection[str]) -> dict[str, str]:
    """Of some serials those that arrived before, with the number of their order."""
    if not serials:
        return {}
    query = (
        select(func.jsonb_array_elements_text(Receipt.serials).label("serial"), PurchaseOrder.number)
        .join(PurchaseLine, PurchaseLine.id == Receipt.line_id)
        .join(PurchaseOrder, PurchaseOrder.id == PurchaseLine.order_id)
        .where(Receipt.quantity > 0, ~select(1).where(Receipt.__table__.alias("u").c.undoes_id == Receipt.id).correlate(Receipt).exists())
        .subquery()
    )
    return {row.serial: row.number for row in session.execute(select(query).where(query.c.serial.in_(list(serials))))}
