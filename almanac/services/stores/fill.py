"""Those who wait for a part are served first come, first served, by whatever brings parts to its shelf."""

from __future__ import annotations

from sqlalchemy.orm import Session

from almanac.services.clock import Clock
from almanac.store import shelves, stores
from almanac.store.models import Reservation, Shelf


def fill_waiting(session: Session, shelf: Shelf, clock: Clock) -> int:
    """Promise what lies free on a shelf to those who wait for it, the first come first; returns the parts promised."""
    free = shelves.free(session, shelf.id, clock.today)
    filled = 0
    for waiting in stores.waiting_at(session, shelf.id):
        if waiting.quantity > free:
            break
        waiting.filled_on = clock.today
        session.add(Reservation(shelf_id=shelf.id, quantity=waiting.quantity, asset_id=waiting.asset_id, reserved_on=clock.today))
        free -= waiting.quantity
        filled += waiting.quantity
    session.flush()
    return filled
