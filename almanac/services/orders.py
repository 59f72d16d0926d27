"""Placing orders, receiving and cancelling them: on order becomes on hand, whole or in part."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta
from typing import Protocol

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from almanac.core.life.outcomes import Bucket
from almanac.services.clock import Clock
from almanac.services.errors import Fault, NeedsConfirmation, NotFound, Refused, Stale
from almanac.services.horizon import beyond_horizon
from almanac.services.stores.fill import fill_waiting
from almanac.services.words import day
from almanac.store import assets, catalog, shelves
from almanac.store.models import Cancellation, Part, PurchaseLine, PurchaseOrder, Receipt, StockMove
from almanac.store.settings import settings_on


@dataclass(frozen=True)
class OrderRequest:
    """A part marked as ordered; without a day it is expected after the supplier's median lead time."""

    part_number: str
    quantity: int
    expected_on: date | None = None
    confirmed: frozenset[str] = frozenset()


def place_order(session: Session, request: OrderRequest, *, clock: Clock, author_id: int) -> PurchaseLine:
    """Write a purchase order of one line, delivered to the depot.

    Raises
    ------
    Refused : unknown part, no whole pack, below the minimum order, or a day in the past or beyond the horizon
    NeedsConfirmation : the same was ordered today already
    """
    part = assets.part_by_number(session, request.part_number)
    if part is None:
        raise Refused(Fault("part_number", f"no part has the number {request.part_number or '(empty)'}"))
    faults = _order_faults(session, request, part, clock)
    depot = next((site for site in catalog.sites(session) if site.is_depot), None)
    if depot is None:
        faults.append(Fault("part_number", "no site is the depot that deliveries go to: import sites with one depot first"))
    if faults or depot is None:
        raise Refused(*faults)
    _lock_orders(session)
    _ask_twice(session, part, request, clock)
    order = PurchaseOrder(
        number=_next_number(session, clock),
        supplier_id=part.supplier_id,
        site_id=depot.id,
        placed_on=clock.today,
        author_id=author_id,
    )
    session.add(order)
    session.flush()
    lead = catalog.suppliers(session)[part.supplier_id].lead_time
    expected = request.expected_on or clock.today + timedelta(days=_median_days([(int(e["days"]), float(e["weight"])) for e in lead]))
    line = PurchaseLine(order_id=order.id, part_id=part.id, quantity=request.quantity, price=part.price, expected_on=expected)
    session.add(line)
    session.flush()
    return line


def _median_days(lead: list[tuple[int, float]]) -> int:
    reached = 0.0
    for days, weight in sorted(lead):
        reached += weight
        if reached >= 0.5:
            return days
    return max(days for days, _ in lead)


def _order_faults(session: Session, request: OrderRequest, part: Part, clock: Clock) -> list[Fault]:
    faults = []
    if request.quantity < part.minimum_order:
        faults.append(Fault("quantity", f"{part.number} is sold from {part.minimum_order} parts up, got {request.quantity}"))
    elif request.quantity % part.pack:
        faults.append(Fault("quantity", f"{part.number} comes in packs of {part.pack}: {request.quantity} is no whole number of packs"))
    if request.expected_on and request.expected_on < clock.today:
        faults.append(Fault("expected_on", f"{day(request.expected_on)} is past: today is {day(clock.today)}"))
    elif request.expected_on and (far := beyond_horizon(request.expected_on, clock, settings_on(session, clock.today))):
        faults.append(Fault("expected_on", far))
    if part.end_of_supply_on and part.end_of_supply_on < clock.today:
        faults.append(Fault("part_number", f"{part.number} can no longer be bought since {day(part.end_of_supply_on)}"))
    return faults


def _lock_orders(session: Session) -> None:
    """Two people ordering at once are served one after the other."""
    session.execute(select(func.pg_advisory_xact_lock(8480)))


def _ask_twice(session: Session, part: Part, request: OrderRequest, clock: Clock) -> None:
    """The same order again on the same day is likelier a second click than a second wish."""
    if "again" in request.confirmed:
        return
    earlier = shelves.order_like(session, part.id, request.quantity, placed_on=clock.today)
    if earlier is not None:
        message = f"{request.quantity} of {part.number} were ordered today already ({earlier}). Order as many once more?"
        raise NeedsConfirmation("again", message, {"order_number": earlier})


def _next_number(session: Session, clock: Clock) -> str:
    """PO-year-count, under the lock of orders."""
    prefix = f"PO-{clock.today.year}-"
    used = session.scalars(select(PurchaseOrder.number).where(PurchaseOrder.number.startswith(prefix)))
    last = max((int(number.removeprefix(prefix)) for number in used if number.removeprefix(prefix).isdigit()), default=0)
    return f"{prefix}{last + 1:03d}"


class OfLine(Protocol):
    """A request about so many parts of an order line, as it was read."""

    @property
    def quantity(self) -> int: ...
    @property
    def expected_version(self) -> int: ...


def _still_to_come(session: Session, line_id: int, request: OfLine, act: str) -> tuple[PurchaseLine, PurchaseOrder, list[Fault]]:
    """A line, locked, with its order, and what is wrong where more is named than is still to come.

    Raises
    ------
    NotFound : no such line · Stale : it changed meanwhile
    """
    line = shelves.line_for_update(session, line_id)
    if line is None:
        raise NotFound(f"there is no order line {line_id}")
    if line.version != request.expected_version:
        raise Stale(f"this order was changed meanwhile: look at what is still to come, then {act}")
    order = shelves.order_of(session, line)
    remaining = line.quantity - line.cancelled - shelves.received(session, line.id)
    if 1 <= request.quantity <= remaining:
        return line, order, []
    message = f"{remaining} are still to come on {order.number}: name 1 to {remaining}, got {request.quantity}"
    return line, order, [Fault("quantity", message)]


@dataclass(frozen=True)
class ReceiptRequest:
    """Parts of an order line that arrived. `expected_version` is the version the person read."""

    quantity: int
    received_on: date
    expected_version: int
    made_on: date | None = None


def receive(session: Session, line_id: int, request: ReceiptRequest, *, clock: Clock, author_id: int) -> None:
    """Write a receipt and put the parts on the shelf of the order's site.

    Raises
    ------
    NotFound : no such line · Stale : it changed meanwhile · Refused : more than is still to come, or a day that cannot be
    """
    line, order, faults = _still_to_come(session, line_id, request, "receive")
    if request.received_on > clock.today:
        faults.append(Fault("received_on", f"{day(request.received_on)} is in the future: today is {day(clock.today)}"))
    if request.received_on < order.placed_on:
        faults.append(Fault("received_on", f"{order.number} was placed on {day(order.placed_on)}: it cannot arrive before"))
    faults += _made_faults(session, line, request)
    if faults:
        raise Refused(*faults)
    receipt = Receipt(
        line_id=line.id, received_on=request.received_on, quantity=request.quantity, recorded_at=clock.now, author_id=author_id
    )
    session.add(receipt)
    session.flush()
    session.add(
        StockMove(
            shelf_id=shelves.shelf_for_update(session, line.part_id, order.site_id).id,
            bucket=Bucket.ON_HAND.value,
            quantity=request.quantity,
            cause="receipt",
            lot=order.number,
            made_on=request.made_on or request.received_on,
            moved_on=request.received_on,
            recorded_at=clock.now,
            author_id=author_id,
            receipt_id=receipt.id,
        )
    )
    line.version += 1
    session.flush()
    fill_waiting(session, shelves.shelf_for_update(session, line.part_id, order.site_id), clock)


def _made_faults(session: Session, line: PurchaseLine, request: ReceiptRequest) -> list[Fault]:
    """Days of manufacture lie before the day of receipt (rule N11); what has expired on that day is no stock."""
    if request.made_on is None:
        return []
    if request.made_on > request.received_on:
        return [
            Fault(
                "made_on",
                f"{day(request.made_on)} is after {day(request.received_on)}: it was made before it arrived, read the label again",
            )
        ]
    part = session.get_one(Part, line.part_id)
    if part.shelf_life_days is None:
        return []
    expires = request.made_on + timedelta(days=part.shelf_life_days)
    if expires >= request.received_on:
        return []
    message = f"made on {day(request.made_on)} it expired on {day(expires)}: it is no stock; send it back, or correct the day"
    return [Fault("made_on", message)]


@dataclass(frozen=True)
class CancelRequest:
    """Parts of an order line that will not come. `expected_version` is the version the person read."""

    quantity: int
    reason: str
    expected_version: int


def cancel(session: Session, line_id: int, request: CancelRequest, *, clock: Clock, author_id: int) -> None:
    """Cancel what is still to come of an order line, or some of it; the reason stays on record.

    Raises
    ------
    NotFound : no such line · Stale : it changed meanwhile · Refused : more than is still to come, or no reason
    """
    line, _, faults = _still_to_come(session, line_id, request, "cancel")
    if not request.reason.strip():
        faults.append(Fault("reason", "say why they will not come, in a few words"))
    if faults:
        raise Refused(*faults)
    session.add(
        Cancellation(
            line_id=line.id,
            quantity=request.quantity,
            reason=request.reason.strip(),
            cancelled_on=clock.today,
            recorded_at=clock.now,
            author_id=author_id,
        )
    )
    line.cancelled += request.quantity
    line.version += 1
    session.flush()
