"""Receiving orders, whole or in part: on order becomes on hand; and undoing a receipt that was none."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta

from sqlalchemy import select
from sqlalchemy.orm import Session

from almanac.core.life.outcomes import Bucket
from almanac.services.clock import Clock
from almanac.services.errors import Fault, NotFound, Refused
from almanac.services.orders.lines import still_to_come
from almanac.services.stores.fill import fill_waiting
from almanac.services.words import day
from almanac.store import orders, shelves, units
from almanac.store.models import Part, Receipt, Shelf, StockMove


@dataclass(frozen=True)
class ReceiptRequest:
    """Parts of an order line that arrived. `expected_version` is the version the person read.

    made_on or expires_on : as the label tells, of parts with a shelf life · lot : of the maker · serials : of some or all of them
    """

    quantity: int
    received_on: date
    expected_version: int
    made_on: date | None = None
    expires_on: date | None = None
    lot: str = ""
    serials: tuple[str, ...] = ()


def receive(session: Session, line_id: int, request: ReceiptRequest, *, clock: Clock, author_id: int) -> int:
    """Write a receipt and put the parts on the shelf of the order's site; returns its number.

    Raises
    ------
    NotFound : no such line · Stale : it changed meanwhile · Refused : more than is still to come, or a day that cannot be
    """
    line, order, faults = still_to_come(session, line_id, request, "receive")
    if request.received_on > clock.today:
        faults.append(Fault("received_on", f"{day(request.received_on)} is in the future: today is {day(clock.today)}"))
    if request.received_on < order.placed_on:
        faults.append(Fault("received_on", f"{order.number} was placed on {day(order.placed_on)}: it cannot arrive before"))
    part = session.get_one(Part, line.part_id)
    made_on = _made_on(part, request)
    faults += _made_faults(part, request, made_on) + _serial_faults(session, request)
    if faults:
        raise Refused(*faults)
    receipt = Receipt(
        line_id=line.id,
        received_on=request.received_on,
        quantity=request.quantity,
        serials=_serials(request),
        reason="",
        recorded_at=clock.now,
        author_id=author_id,
    )
    session.add(receipt)
    session.flush()
    shelf = shelves.shelf_for_update(session, line.part_id, order.site_id)
    session.add(
        StockMove(
            shelf_id=shelf.id,
            bucket=Bucket.ON_HAND.value,
            quantity=request.quantity,
            cause="receipt",
            lot=request.lot.strip() or order.number,
            made_on=made_on or request.received_on,
            moved_on=request.received_on,
            recorded_at=clock.now,
            author_id=author_id,
            receipt_id=receipt.id,
        )
    )
    line.version += 1
    session.flush()
    fill_waiting(session, shelf, clock)
    return receipt.id


def _serials(request: ReceiptRequest) -> list[str]:
    return [serial.strip() for serial in request.serials if serial.strip()]


def _made_on(part: Part, request: ReceiptRequest) -> date | None:
    """The day of manufacture, told as such or by the last day on the label."""
    if request.made_on is not None or request.expires_on is None or part.shelf_life_days is None:
        return request.made_on
    return request.expires_on - timedelta(days=part.shelf_life_days)


def _serial_faults(session: Session, request: ReceiptRequest) -> list[Fault]:
    """A serial names one part: not two of this receipt, and none that is on record already."""
    named = _serials(request)
    if len(named) > request.quantity:
        return [Fault("serials", f"{len(named)} serials for {request.quantity} parts: one of the two is wrong")]
    twice = next((serial for serial in named if named.count(serial) > 1), None)
    if twice is not None:
        return [Fault("serials", f"{twice} stands there twice")]
    before = orders.serials_received(session, named)
    if before:
        serial, number = next(iter(before.items()))
        return [Fault("serials", f"{serial} arrived with {number} already: read the label again")]
    known = next((serial for serial in named if units.by_serial(session, serial) is not None), None)
    return [Fault("serials", f"{known} is on record in a machine already: read the label again")] if known else []


def _made_faults(part: Part, request: ReceiptRequest, made_on: date | None) -> list[Fault]:
    """Days of manufacture lie before the day of receipt (rule N11); what has expired on that day is no stock."""
    if made_on is None:
        return []
    place = "made_on" if request.made_on is not None else "expires_on"
    if made_on > request.received_on:
        message = f"{day(made_on)} is after {day(request.received_on)}: it was made before it arrived, read the label again"
        return [Fault(place, message)]
    if part.shelf_life_days is None:
        return []
    expires = made_on + timedelta(days=part.shelf_life_days)
    if request.expires_on is not None and request.expires_on != expires:
        message = (
            f"made on {day(made_on)} it keeps until {day(expires)}, not {day(request.expires_on)}: leave the one out that is not printed"
        )
        return [Fault("expires_on", message)]
    if expires >= request.received_on:
        return []
    message = f"made on {day(made_on)} it expired on {day(expires)}: it is no stock; send it back, or correct the day"
    return [Fault(place, message)]


def undo_receipt(session: Session, receipt_id: int, reason: str, *, clock: Clock, author_id: int) -> int:
    """Take a receipt back that was none, or another line's: the parts leave the shelf and are to come again. Returns its number.

    Raises
    ------
    NotFound : no such receipt · Refused : undone already, an undoing, no reason, or parts that are gone or promised since
    """
    receipt = session.get(Receipt, receipt_id)
    if receipt is None:
        raise NotFound(f"there is no receipt {receipt_id}")
    line = shelves.line_for_update(session, receipt.line_id)
    moved = session.scalars(select(StockMove).where(StockMove.receipt_id == receipt.id)).all()
    held = {one.shelf_id: session.scalars(select(Shelf).where(Shelf.id == one.shelf_id).with_for_update()).one() for one in moved}
    faults = [] if reason.strip() else [Fault("reason", "say why in a few words: who reads the record later has only this")]
    if receipt.undoes_id is not None or session.scalar(select(Receipt.id).where(Receipt.undoes_id == receipt.id)) is not None:
        faults.append(Fault("receipt", "it was undone already"))
    elif any(shelves.balance(session, one.shelf_id) - shelves.reserved(session, one.shelf_id) < one.quantity for one in moved):
        faults.append(Fault("receipt", "what it brought has gone on or was promised since: undo what came after first"))
    if faults or line is None:
        raise Refused(*faults)
    back = Receipt(
        line_id=line.id,
        received_on=clock.today,
        quantity=-receipt.quantity,
        serials=[],
        reason=reason.strip(),
        undoes_id=receipt.id,
        recorded_at=clock.now,
        author_id=author_id,
    )
    session.add(back)
    session.flush()
    session.add_all(
        StockMove(
            shelf_id=held[one.shelf_id].id,
            bucket=one.bucket,
            quantity=-one.quantity,
            cause="undone",
            lot=one.lot,
            made_on=one.made_on,
            moved_on=clock.today,
            recorded_at=clock.now,
            author_id=author_id,
            receipt_id=back.id,
        )
        for one in moved
    )
    line.version += 1
    session.flush()
    return back.id
