"""Placing orders: their lines are checked, priced and numbered; one above the company's limit wants a second lead."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from decimal import Decimal

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from almanac.core.stock.lead_time import lead_time
from almanac.core.stock.purchase import Need, far_above, unit_price
from almanac.services.clock import Clock
from almanac.services.errors import Fault, NeedsConfirmation, Refused
from almanac.services.horizon import beyond_horizon
from almanac.services.words import day, money
from almanac.store import assets, catalog, orders, planning, shelves
from almanac.store.models import Part, PurchaseLine, PurchaseOrder, Site
from almanac.store.settings import settings_on


@dataclass(frozen=True)
class OrderRequest:
    """A part marked as ordered; without a day it is expected after the supplier's median lead time."""

    part_number: str
    quantity: int
    expected_on: date | None = None
    confirmed: frozenset[str] = frozenset()


@dataclass(frozen=True)
class Wanted:
    """One line of an order that is about to be sent. place : of its quantity in the request, for faults"""

    part: Part
    quantity: int
    expected_on: date | None = None
    place: str = "quantity"


def place_order(session: Session, request: OrderRequest, *, clock: Clock, author_id: int) -> PurchaseLine:
    """Write a purchase order of one line, delivered to the depot.

    Raises
    ------
    Refused : unknown part, no whole pack, below the minimum order, above the company's limit, or a day in the past or beyond the horizon
    NeedsConfirmation : the same was ordered today already, or it is far above any need
    """
    part = assets.part_by_number(session, request.part_number)
    if part is None:
        raise Refused(Fault("part_number", f"no part has the number {request.part_number or '(empty)'}"))
    wanted = Wanted(part, request.quantity, request.expected_on)
    faults = line_faults(session, wanted, clock) + _above_limit(session, wanted, clock)
    depot = _depot(session, faults)
    if faults or depot is None:
        raise Refused(*faults)
    _lock_orders(session)
    ask_before(session, [wanted], request.confirmed, clock)
    order = write_order(session, part.supplier_id, [wanted], clock=clock, author_id=author_id)
    return session.scalars(select(PurchaseLine).where(PurchaseLine.order_id == order.id)).one()


def _depot(session: Session, faults: list[Fault]) -> Site | None:
    depot = next((site for site in catalog.sites(session) if site.is_depot), None)
    if depot is None:
        faults.append(Fault("part_number", "no site is the depot that deliveries go to: import sites with one depot first"))
    return depot


def write_order(
    session: Session, supplier_id: int, wanted: Sequence[Wanted], *, clock: Clock, author_id: int | None, approved_by: int | None = None
) -> PurchaseOrder:
    """Write an order that was checked, its lines at today's prices.

    Raises
    ------
    Refused : no site is the depot
    """
    faults: list[Fault] = []
    depot = _depot(session, faults)
    if depot is None:
        raise Refused(*faults)
    _lock_orders(session)
    prefix = f"PO-{clock.today.year}-"
    order = PurchaseOrder(
        number=f"{prefix}{orders.last_number(session, prefix) + 1:03d}",
        supplier_id=supplier_id,
        site_id=depot.id,
        placed_on=clock.today,
        author_id=author_id,
        approved_by_id=approved_by,
        note="",
    )
    session.add(order)
    session.flush()
    usual = clock.today + timedelta(days=median_days(session, supplier_id, clock))
    breaks = orders.price_breaks(session, [one.part.id for one in wanted])
    session.add_all(
        PurchaseLine(
            order_id=order.id,
            part_id=one.part.id,
            quantity=one.quantity,
            price=unit_price(one.part.price, breaks.get(one.part.id, ()), one.quantity),
            expected_on=one.expected_on or usual,
        )
        for one in wanted
    )
    session.flush()
    return order


def median_days(session: Session, supplier_id: int, clock: Clock) -> int:
    """Half of a supplier's deliveries are there after so many days, as they are known today."""
    days, weights = zip(*planning.supplier_rows(session, clock.today)[supplier_id].lead_time, strict=True)
    return lead_time(days, weights).median_days


def total_of(session: Session, wanted: Sequence[Wanted]) -> Decimal:
    """What lines cost together, price breaks reached."""
    breaks = orders.price_breaks(session, [one.part.id for one in wanted])
    return sum((unit_price(one.part.price, breaks.get(one.part.id, ()), one.quantity) * one.quantity for one in wanted), Decimal(0))


def limit_of(session: Session, clock: Clock) -> Decimal | None:
    """The sum above which an order wants a second lead; None where the company set none."""
    value = settings_on(session, clock.today).value("order_limit")
    return None if value is None else Decimal(str(value))


def currency_of(session: Session, clock: Clock) -> str:
    """The currency the company orders in."""
    return str(settings_on(session, clock.today).value("currency", default="EUR"))


def _above_limit(session: Session, wanted: Wanted, clock: Clock) -> list[Fault]:
    limit = limit_of(session, clock)
    if limit is None or wanted.quantity < 1 or (total := total_of(session, [wanted])) <= limit:
        return []
    currency = currency_of(session, clock)
    message = f"{money(total, currency)} is above {money(limit, currency)}: put it in a draft, another lead approves it there"
    return [Fault("quantity", message)]


def line_faults(session: Session, wanted: Wanted, clock: Clock) -> list[Fault]:
    """What is wrong with one line: its packs, its minimum, its day, or that nobody sells the part any more."""
    part, faults = wanted.part, []
    if wanted.quantity < part.minimum_order:
        faults.append(Fault(wanted.place, f"{part.number} is sold from {part.minimum_order} parts up, got {wanted.quantity}"))
    elif wanted.quantity % part.pack:
        faults.append(Fault(wanted.place, f"{part.number} comes in packs of {part.pack}: {wanted.quantity} is no whole number of packs"))
    if wanted.expected_on and wanted.expected_on < clock.today:
        faults.append(Fault("expected_on", f"{day(wanted.expected_on)} is past: today is {day(clock.today)}"))
    elif wanted.expected_on and (far := beyond_horizon(wanted.expected_on, clock, settings_on(session, clock.today))):
        faults.append(Fault("expected_on", far))
    if part.end_of_supply_on and part.end_of_supply_on < clock.today:
        faults.append(Fault("part_number", f"{part.number} can no longer be bought since {day(part.end_of_supply_on)}"))
    return faults


def _lock_orders(session: Session) -> None:
    """Two people ordering at once are served one after the other."""
    session.execute(select(func.pg_advisory_xact_lock(8480)))


def ask_before(session: Session, wanted: Sequence[Wanted], confirmed: frozenset[str], clock: Clock) -> None:
    """What is unusual is asked about once: the same order again on the same day, and one far above any need.

    Raises
    ------
    NeedsConfirmation : of the first that was not confirmed
    """
    for one in wanted:
        earlier = shelves.order_like(session, one.part.id, one.quantity, placed_on=clock.today) if "again" not in confirmed else None
        if earlier is not None:
            message = f"{one.quantity} of {one.part.number} were ordered today already ({earlier}). Order as many once more?"
            raise NeedsConfirmation("again", message, {"order_number": earlier})
    for one in wanted:
        far = far_above(one.quantity, need_of(session, one.part, clock)) if "far" not in confirmed else None
        if far is not None:
            raise NeedsConfirmation("far", f"{one.part.number}: {far}. Order as many all the same?", {"part_number": one.part.number})


def need_of(session: Session, part: Part, clock: Clock) -> Need:
    """What a part is needed for, what is on order counted with what lies there."""
    places, held, busiest = orders.need_of(session, part.id, clock.today)
    coming = sum(line.remaining for line in shelves.open_lines(session, part_id=part.id))
    return Need(places, held + coming, busiest)
