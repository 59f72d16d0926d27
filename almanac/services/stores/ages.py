"""Parts keep their age wherever they go: what leaves a bucket says which lots it came from, and what receives it keeps their days."""

from __future__ import annotations

from datetime import date, timedelta

from sqlalchemy.orm import Session

from almanac.core.life.outcomes import Bucket
from almanac.core.stock.lots import taken
from almanac.store import shelves
from almanac.store.models import Part, Shelf

Ages = list[tuple[date | None, int]]
"""Days parts were made on, None where nobody knows, and how many of each."""


def ages_leaving(session: Session, of: tuple[Part, Shelf, Bucket], quantity: int, day: date, *, expired_first: bool = False) -> Ages:
    """Ages of what somebody takes from a bucket on a day: from a shelf the soonest to expire; back to one what is known to keep."""
    part, shelf, bucket = of
    if part.shelf_life_days is None:
        return [(None, quantity)]
    left = [lot for own in shelves.lots(session, shelf_id=shelf.id, bucket=bucket).values() for lot in own]
    known = [lot for lot in left if lot[0] is not None]
    if bucket is not Bucket.ON_HAND and sum(count for _, count in known) >= quantity:
        left = known
    life = timedelta(days=part.shelf_life_days)
    found: Ages = [
        (last_day - life if last_day else None, count) for last_day, count in taken(left, quantity, day, expired_first=expired_first)
    ]
    missing = quantity - sum(count for _, count in found)
    return [*found, (None, missing)] if missing > 0 else found


def first_of(ages: Ages, quantity: int) -> tuple[Ages, Ages]:
    """Split ages: so many of the oldest, an unknown age before all, and the rest."""
    first, rest = [], []
    for made_on, count in sorted(ages, key=lambda age: age[0] or date.min):
        now = min(count, quantity)
        quantity -= now
        first += [(made_on, now)] if now else []
        rest += [(made_on, count - now)] if count > now else []
    return first, rest
