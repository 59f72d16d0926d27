"""Those who wait for a part are served first come, first served, by whatever brings parts to its shelf."""

from __future__ import annotations

from sqlalchemy.orm import Session

from almanac.services.clock import Clock
from almanac.store import shelves, stores
from almanac.store.models import Backorder, Reservation, Shelf


def served(session: Session, shelf: Shelf, asset_id: int, clock: Clock, *, planned: bool = False) -> None:
    """A machine got a part of a shelf: what was kept for it, or what it waited for there, is one less; others keep what still stands.

    planned : it was a planned swap, which takes what is kept for such where nothing is kept for the machine itself
    """
    promises = stores.kept_at(session, shelf.id)
    own = [one for one in promises if one.asset_id == asset_id] or [one for one in promises if planned and one.plan_id is not None]
    kept = own[0] if own else None
    waits = next((one for one in stores.waiting_at(session, shelf.id) if one.asset_id == asset_id), None) if kept is None else None
    if kept is not None:
        kept.released_on = clock.today
        if kept.quantity > 1:
            rest = kept.quantity - 1
            session.add(kept_like(kept, rest))
    elif waits is not None:
        waits.filled_on = clock.today
        if waits.quantity > 1:
            session.add(Backorder(shelf_id=shelf.id, quantity=waits.quantity - 1, asset_id=asset_id, asked_on=waits.asked_on))
    session.flush()
    take_back(session, shelf, clock)


def kept_like(promise: Reservation, quantity: int) -> Reservation:
    """A promise of another quantity for the same machine or plan, since the same day."""
    return Reservation(
        shelf_id=promise.shelf_id, quantity=quantity, asset_id=promise.asset_id, plan_id=promise.plan_id, reserved_on=promise.reserved_on
    )


def end_plan(session: Session, plan_id: int, clock: Clock) -> None:
    """A plan that is withdrawn keeps nothing and waits for nothing; whoever else waits is served."""
    kept, waiting = stores.promised_to_plan(session, plan_id)
    for one in kept:
        one.released_on = clock.today
    for other in waiting:
        other.filled_on = clock.today
    session.flush()
    for shelf_id in sorted({one.shelf_id for one in kept}):
        fill_waiting(session, session.get_one(Shelf, shelf_id), clock)


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
            session.add(kept_like(promise, rest))
        waits = Backorder(shelf_id=shelf.id, quantity=now, asset_id=promise.asset_id, plan_id=promise.plan_id, asked_on=promise.reserved_on)
        session.add(waits)
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
        kept = Reservation(
            shelf_id=shelf.id,
            quantity=waiting.quantity,
            asset_id=waiting.asset_id,
            plan_id=waiting.plan_id,
            reserved_on=clock.today,
        )
        session.add(kept)
        free -= waiting.quantity
        filled += waiting.quantity
    session.flush()
    return filled
