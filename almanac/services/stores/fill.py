"""Those who wait for a part are served first come, first served, by whatever brings parts to its shelf."""

from __future__ import annotations

from sqlalchemy.orm import Session

from almanac.services.clock import Clock
from almanac.store import shelves, stores
from almanac.store.models import Backorder, Reservation, Shelf


def served(session: Session, shelf: Shelf, asset_id: int, clock: Clock) -> None:
    """A machine got a part of a shelf: what was kept for it, or what it waited for there, is one less; others keep what still stands."""
    kept = next((one for one in stores.kept_at(session, shelf.id) if one.asset_id == asset_id), None)
    waits = next((one for one in stores.waiting_at(session, shelf.id) if one.asset_id == asset_id), None) if kept is None else None
    if kept is not None:
        kept.released_on = clock.today
        if kept.quantity > 1:
            rest = kept.quantity - 1
            session.add(Reservation(shelf_id=shelf.id, quantity=rest, asset_id=asset_id, reserved_on=kept.reserved_on))
    elif waits is not None:
        waits.filled_on = clock.today
        if waits.quantity > 1:
            session.add(Backorder(shelf_id=shelf.id, quantity=waits.quantity - 1, asset_id=asset_id, asked_on=waits.asked_on))
    session.flush()
    take_back(session, shelf, clock)


def take_back(session: Session, shelf: Shelf, clock: Clock) -> int:
    """Promises that nothing stands behind any more wait again, the last come first, in the place they had; returns the parts."""
    over = -shelves.free(session, shelf.id, clock.today)
    taken = 0
    for promise in stores.kept_at(session, shelf.id):
        if over <= taken:
            break
        now = min(promise.quantity, over - taken)
        promise.released_on = clock.today
        if promise.quantity > now:
            rest = promise.quantity - now
            session.add(Reservation(shelf_id=shelf.id, quantity=rest, asset_id=promise.asset_id, reserved_on=promise.reserved_on))
        session.add(Backorder(shelf_id=shelf.id, quantity=now, asset_id=promise.asset_id, asked_on=promise.reserved_on))
        taken += now
    session.flush()
    return taken


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
