"""A line of an order that somebody acts on: locked, unchanged since it was read, and cancelling what will not come of it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Protocol

from sqlalchemy.orm import Session

from almanac.services.clock import Clock
from almanac.services.errors import Fault, NotFound, Refused, Stale
from almanac.store import shelves
from almanac.store.models import Cancellation, PurchaseLine, PurchaseOrder


class OfLine(Protocol):
    """A request about so many parts of an order line, as it was read."""

    @property
    def quantity(self) -> int: ...
    @property
    def expected_version(self) -> int: ...


def still_to_come(session: Session, line_id: int, request: OfLine, act: str) -> tuple[PurchaseLine, PurchaseOrder, list[Fault]]:
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
    line, _, faults = still_to_come(session, line_id, request, "cancel")
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
