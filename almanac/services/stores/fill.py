"""Those who wait for a part are served first come, first served, by whatever brings parts to its shelf."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from almanac.services.clock import Clock
from almanac.store import shelves
from almanac.store.models import Backorder, Reservation, Shelf


def fill_waiting(session: Session, shelf: Shelf, clock: Clock) -> int:
    """Promise what lies free on a shelf to those who wait for it, the first come first; returns the parts promised."""
    free = shelves.balance(session, shelf.id) - reserved(session, shelf.id)
    filled = 0
    query = select(Backorder).where(Backorder.shelf_id == shelf.id, Backorder.filled_on.is_(None))
    for waiting in session.scalars(query.order_by(Backorder.asked_on, Backorder.id).with_for_update()):
        if waiting.quantity > free:
            break
        waiting.filled_on = clock.today
        session.add(Reservation(shelf_id=shelf.id, quantity=waiting.quantity, asset_id=waiting.asset_id, reserved_on=clock.today))
        free -= waiting.quantity
        filled += waiting.quantity
    session.flush()
    return filled


def reserved(session: Session, shelf_id: int) -> int:
    """Parts of a shelf that are kept for somebody."""
    query = select(Reservation.quantity).where(Reservation.shelf_id == shelf_id, Reservation.released_on.is_(None))
    return sum(session.scalars(query))
