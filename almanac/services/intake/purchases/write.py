"""Writing what a list of purchases says, and taking it back."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import date

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from almanac.core.life.outcomes import Bucket
from almanac.services.errors import Fault, Refused
from almanac.services.intake.changes import Change, Group
from almanac.services.intake.subject import By, Kept
from almanac.services.orders.arrivals import undo_receipt
from almanac.services.orders.lines import CancelRequest, cancel
from almanac.services.stores.fill import fill_waiting
from almanac.store import shelves
from almanac.store.models import PurchaseLine, PurchaseOrder, Receipt, StockMove

TOLD, UNDONE = "from the company's list of purchases", "the list that said so was undone"


def write_purchases(session: Session, changes: Sequence[Change], by: By) -> list[Kept]:
    """Orders with their lines, arrivals, and days that were changed."""
    orders = {order.number.upper(): order for order in session.scalars(select(PurchaseOrder))}
    kept: list[Kept] = []
    for change in changes:
        if change.group is Group.NEW:
            kept.append(_order(session, change, orders, by))
        elif "received_on" in change.values:
            line = session.get_one(PurchaseLine, change.record_id)
            kept.append({"what": "arrival", "line": line.id, "receipt": _receive(session, line, change.values, by)})
        else:
            line = session.get_one(PurchaseLine, change.record_id)
            line.expected_on = _day(change.values["expected_on"])
            line.version += 1
            kept.append({"what": "expected", "line": line.id, "before": str(change.values["before"])})
    session.flush()
    return kept


def _day(value: object) -> date:
    assert isinstance(value, date)
    return value


def _order(session: Session, change: Change, orders: dict[str, PurchaseOrder], by: By) -> Kept:
    values = change.values
    number = str(values["order"])
    order, new = orders.get(number.upper()), False
    if order is None:
        order, new = (
            PurchaseOrder(
                number=number,
                supplier_id=values["supplier"],
                site_id=values["site"],
                placed_on=values["ordered_on"],
                author_id=by.author_id,
                approved_by_id=None,
                note=TOLD,
            ),
            True,
        )
        session.add(order)
        session.flush()
        orders[number.upper()] = order
    line = PurchaseLine(
        order_id=order.id, part_id=values["part"], quantity=values["quantity"], price=values["price"], expected_on=values["expected_on"]
    )
    session.add(line)
    session.flush()
    receipt = _receive(session, line, values, by) if values["received_on"] is not None else None
    return {"what": "order", "line": line.id, "order": order.id, "new": new, "receipt": receipt}


def _receive(session: Session, line: PurchaseLine, values: Mapping[str, object], by: By) -> int:
    """An arrival; its parts are booked where the shelf was not counted since."""
    order = session.get_one(PurchaseOrder, line.order_id)
    day = _day(values["received_on"])
    receipt = Receipt(
        line_id=line.id,
        received_on=day,
        quantity=values["quantity"],
        serials=[],
        reason="",
        recorded_at=by.clock.now,
        author_id=by.author_id,
    )
    session.add(receipt)
    session.flush()
    line.version += 1
    if values["books"]:
        shelf = shelves.shelf_for_update(session, line.part_id, order.site_id)
        session.add(
            StockMove(
                shelf_id=shelf.id,
                bucket=Bucket.ON_HAND.value,
                quantity=values["quantity"],
                cause="receipt",
                lot=order.number,
                made_on=day,
                moved_on=day,
                recorded_at=by.clock.now,
                author_id=by.author_id,
                receipt_id=receipt.id,
            )
        )
        session.flush()
        fill_waiting(session, shelf, by.clock)
    return receipt.id


def undo_purchases(session: Session, rows: Sequence[Kept], by: By) -> list[str]:
    """Take back what a list wrote; returns the orders that stay, cancelled, for something was on record as arrived.

    Raises
    ------
    Refused : something was done with a line since, or its parts have gone on
    """
    stays: dict[int, str] = {}
    for row in reversed(rows):
        line = session.get_one(PurchaseLine, int(row["line"]))
        later = select(Receipt.id).where(Receipt.line_id == line.id, Receipt.id != row.get("receipt", 0), Receipt.undoes_id.is_(None))
        if row["what"] == "order" and (line.cancelled or session.scalar(later.limit(1)) is not None):
            number = session.get_one(PurchaseOrder, line.order_id).number
            raise Refused(Fault("intake", f"{number} was received or cancelled since: correct it by hand"))
        if row["what"] == "expected":
            line.expected_on = date.fromisoformat(row["before"])
            line.version += 1
            continue
        if row.get("receipt") is not None:
            # A list may be applied from the command line, where nobody signs.
            undo_receipt(session, int(row["receipt"]), UNDONE, clock=by.clock, author_id=by.author_id)  # type: ignore[arg-type]
        if row["what"] != "order":
            continue
        order = session.get_one(PurchaseOrder, int(row["order"]))
        if row["receipt"] is not None:
            request = CancelRequest(line.quantity, UNDONE, line.version)
            cancel(session, line.id, request, clock=by.clock, author_id=by.author_id)  # type: ignore[arg-type]
            stays[order.id] = order.number
            continue
        session.execute(delete(PurchaseLine).where(PurchaseLine.id == line.id))
        if row["new"] and session.scalar(select(PurchaseLine.id).where(PurchaseLine.order_id == order.id).limit(1)) is None:
            session.delete(order)
            session.flush()
    return sorted(stays.values())
