"""Orders as people read them: the list with what waits for somebody, and one order with its history."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal

from sqlalchemy.orm import Session

from almanac.core.parts.declared.kinds import BenchRole, kinds_of_role
from almanac.core.stock.lead_time import lead_time
from almanac.core.stock.purchase import LineStanding, Standing, standing_of, unit_price
from almanac.core.stock.replies import Reply
from almanac.services.clock import Clock, read_clock
from almanac.services.errors import NotFound
from almanac.services.orders.sending import currency_of, limit_of
from almanac.services.stores.wh_class import energy_class
from almanac.services.words import day, money
from almanac.store import catalog, orders, planning, shelves
from almanac.store.models import OrderDraftLine, Part, SupplierAnswer
from almanac.store.orders import LineRow, OrderRow, ReceiptRow

LATEST = 200
"""Of the orders that ended so many of the latest are listed; of those with something to come all."""


@dataclass(frozen=True)
class OrderSummary:
    """One order in the list. next_on : the earliest day something is expected, None where nothing is to come

    late : parts whose day is over · to_settle : answers of the supplier that wait for a lead
    """

    number: str
    supplier: str
    placed_on: date
    standing: Standing
    lines: int
    parts: int
    to_come: int
    late: int
    next_on: date | None
    to_settle: int
    total: Decimal


@dataclass(frozen=True)
class DraftSummary:
    """One draft in the list. total : at today's prices"""

    id: int
    supplier: str
    state: str
    asked_on: date
    author: str | None
    lines: int
    total: Decimal


@dataclass(frozen=True)
class OrderList:
    """What is ordered, and what is about to be. to_come : its value · limit : of an order without a second lead, None without one"""

    as_of: date
    currency: str
    orders: list[OrderSummary]
    drafts: list[DraftSummary]
    limit: Decimal | None


def read_orders(session: Session) -> OrderList:
    """Orders that are open, then the latest that ended; drafts that are open."""
    clock = read_clock(session)
    open_numbers = {line.order_number for line in shelves.open_lines(session)}
    latest = orders.order_rows(session, limit=LATEST)
    rows = orders.order_rows(session, numbers=open_numbers) + [row for row in latest if row.order.number not in open_numbers]
    ids = [row.order.id for row in rows]
    lines, answers = orders.lines_of(session, ids), orders.answers_to(session, ids)
    found = [_summary(row, lines[row.order.id], answers[row.order.id], clock) for row in rows]
    drafts = orders.drafts(session, *orders.OPEN_DRAFTS)
    own = orders.draft_lines(session, [draft.id for draft, _, _ in drafts])
    breaks = orders.price_breaks(session)
    return OrderList(
        as_of=clock.today,
        currency=currency_of(session, clock),
        orders=sorted(found, key=lambda one: (one.to_come == 0, one.next_on or date.max)),
        drafts=[
            DraftSummary(draft.id, supplier, draft.state, draft.asked_on, author, len(own[draft.id]), draft_total(own[draft.id], breaks))
            for draft, supplier, author in drafts
        ],
        limit=limit_of(session, clock),
    )


def draft_total(lines: Sequence[tuple[OrderDraftLine, Part]], breaks: dict[int, list[tuple[int, Decimal]]]) -> Decimal:
    """Lines of a draft at today's prices."""
    return sum((unit_price(part.price, breaks.get(part.id, ()), line.quantity) * line.quantity for line, part in lines), Decimal(0))


def _summary(row: OrderRow, lines: Sequence[LineRow], answers: Sequence[SupplierAnswer], clock: Clock) -> OrderSummary:
    waiting = [line for line in lines if line.to_come > 0]
    return OrderSummary(
        number=row.order.number,
        supplier=row.supplier,
        placed_on=row.order.placed_on,
        standing=_standing(lines),
        lines=len(lines),
        parts=sum(line.quantity - line.cancelled for line in lines),
        to_come=sum(line.to_come for line in waiting),
        late=sum(line.to_come for line in waiting if line.expected_on < clock.today),
        next_on=min((line.expected_on for line in waiting), default=None),
        to_settle=sum(answer.state == "open" for answer in answers),
        total=_total(lines),
    )


def _standing(lines: Sequence[LineRow]) -> Standing:
    return standing_of([LineStanding(line.quantity, line.arrived, line.cancelled, line.confirmed_on is not None) for line in lines])


def _total(lines: Sequence[LineRow]) -> Decimal:
    return sum((line.price * (line.quantity - line.cancelled) for line in lines), Decimal(0))


@dataclass(frozen=True)
class OrderLine:
    """One line of an order. energy_class : of a pack, for carriers · expires : it has a shelf life"""

    id: int
    part_number: str
    part_name: str
    kind: str
    quantity: int
    arrived: int
    cancelled: int
    to_come: int
    price: Decimal
    cost: Decimal
    expected_on: date
    confirmed_on: date | None
    late: bool
    version: int
    energy_class: str | None
    expires: bool


@dataclass(frozen=True)
class Happened:
    """Something that happened to an order, in words. answer_id : it waits to be settled · receipt_id : it can be undone"""

    on: date
    words: str
    who: str | None
    answer_id: int | None = None
    reply: str | None = None
    receipt_id: int | None = None


@dataclass(frozen=True)
class OrderPage:
    """One order. lead_days, late_days : half and nine in ten of the supplier's deliveries are there within, as known today and as
    stated · deliveries : on record
    """

    number: str
    supplier: str
    site: str
    site_code: str
    placed_on: date
    author: str | None
    approved_by: str | None
    note: str
    standing: Standing
    currency: str
    total: Decimal
    lead_days: int
    late_days: int
    stated_days: int
    stated_late_days: int
    deliveries: int
    lines: list[OrderLine]
    to_settle: list[Happened]
    history: list[Happened]
    mail_to: str
    mail_from: str


def read_order(session: Session, number: str) -> OrderPage:
    """One order with its lines and everything that was said and done.

    Raises
    ------
    NotFound : no order has that number
    """
    found = orders.order_rows(session, number=number)
    if not found:
        raise NotFound(f"there is no order {number}")
    clock, row = read_clock(session), found[0]
    order, lines = row.order, orders.lines_of(session, [row.order.id])[row.order.id]
    answers, receipts = orders.answers_to(session, [order.id])[order.id], orders.receipts_of(session, order.id)
    parts = orders.parts_named(session, [line.part_number for line in lines], [one.part_id for one in answers])
    names = orders.names(session, [order.approved_by_id, *(one.author_id for one in answers), *(one.decided_by_id for one in answers)])
    supplier = planning.supplier_rows(session, clock.today)[order.supplier_id]
    site = next(site for site in catalog.sites(session) if site.id == order.site_id)
    said = _Said(lines, {part.id: part for part in parts.values()}, names, currency_of(session, clock))
    told = [said.answer(one) for one in answers]
    settled = [one for one in told if one.answer_id is None]
    mailed = [_mailed(row) for row in orders.mailings_of(session, order.id)]
    last = orders.last_mailing(session, order.supplier_id)
    return OrderPage(
        number=order.number,
        supplier=row.supplier,
        site=site.name,
        site_code=site.code,
        placed_on=order.placed_on,
        author=row.author,
        approved_by=names.get(order.approved_by_id) if order.approved_by_id else None,
        note=order.note,
        standing=_standing(lines),
        currency=said.currency,
        total=_total(lines),
        lead_days=_days(supplier.lead_time, 0.5),
        late_days=_days(supplier.lead_time, 0.9),
        stated_days=_days(supplier.stated, 0.5),
        stated_late_days=_days(supplier.stated, 0.9),
        deliveries=supplier.deliveries,
        lines=[_line(line, parts[line.part_number], clock) for line in lines],
        to_settle=[one for one in told if one.answer_id is not None],
        history=sorted([*settled, *said.arrivals(receipts), *mailed], key=lambda one: one.on, reverse=True),
        mail_to=last.address if last else "",
        mail_from=orders.last_sender(session) or "",
    )


def _mailed(row: orders.MailingRow) -> Happened:
    return Happened(row.mailing.mailed_on, f"mailed to {row.mailing.address}, {row.mailing.way}", row.author)


def _days(law: planning.LeadDays, share: float) -> int:
    days, weights = zip(*law, strict=True)
    return lead_time(days, weights).days_for(share)


def _line(line: LineRow, part: Part, clock: Clock) -> OrderLine:
    return OrderLine(
        id=line.id,
        part_number=line.part_number,
        part_name=line.part_name,
        kind=line.kind,
        quantity=line.quantity,
        arrived=line.arrived,
        cancelled=line.cancelled,
        to_come=line.to_come,
        price=line.price,
        cost=line.price * (line.quantity - line.cancelled),
        expected_on=line.expected_on,
        confirmed_on=line.confirmed_on,
        late=line.to_come > 0 and line.expected_on < clock.today,
        version=line.version,
        energy_class=energy_class(part) if part.kind in kinds_of_role(BenchRole.PACK) else None,
        expires=part.shelf_life_days is not None,
    )


@dataclass(frozen=True)
class _Said:
    """Answers and receipts of an order in words."""

    lines: Sequence[LineRow]
    parts: dict[int, Part]
    names: dict[int, str]
    currency: str

    def answer(self, one: SupplierAnswer) -> Happened:
        waits = one.state == "open"
        ended = {"open": "", "accepted": "" if one.reply in (Reply.CONFIRMED, Reply.MOVED) else "; taken", "refused": "; refused"}
        words = f"{self._number(one.line_id)}: {self._offer(one)}{ended[one.state]} (it was {one.was})"
        quoted = f'{words}: "{one.words}"' if one.words else words
        who = one.decided_by_id if one.decided_by_id is not None else one.author_id
        return Happened(
            on=one.decided_on or one.answered_on,
            words=quoted,
            who=self.names.get(who) if who is not None else None,
            answer_id=one.id if waits else None,
            reply=one.reply,
        )

    def _number(self, line_id: int) -> str:
        return next(line.part_number for line in self.lines if line.id == line_id)

    def _offer(self, one: SupplierAnswer) -> str:
        until = f" on {day(one.expected_on)}" if one.expected_on else ""
        each = f" at {money(one.price, self.currency)} each" if one.price is not None else ""
        instead = self.parts[one.part_id].number if one.part_id in self.parts else "another part"
        return {
            Reply.CONFIRMED: f"confirmed{until}",
            Reply.MOVED: f"moved to {day(one.expected_on)}" if one.expected_on else "moved",
            Reply.SHORT: f"can send {one.quantity} only{until}",
            Reply.SUBSTITUTE: f"would send {instead} instead{each}{until}",
            Reply.PRICE: f"asks {money(one.price or 0, self.currency)} each{until}",
        }[Reply(one.reply)]

    def arrivals(self, receipts: Sequence[ReceiptRow]) -> list[Happened]:
        return [self._arrival(row) for row in receipts]

    def _arrival(self, row: ReceiptRow) -> Happened:
        receipt, number = row.receipt, self._number(row.receipt.line_id)
        serials = f", serials {', '.join(receipt.serials)}" if receipt.serials else ""
        came = f"{receipt.quantity} {number} received{serials}{', undone since' if row.undone else ''}"
        back = f"receipt of {-receipt.quantity} {number} undone: {receipt.reason}"
        final = receipt.quantity < 0 or row.undone
        return Happened(receipt.received_on, came if receipt.quantity > 0 else back, row.author, receipt_id=None if final else receipt.id)
