"""Parts keep their age wherever they go: what leaves a bucket says which lots it came from, and what receives it keeps their days."""

from __future__ import annotations

from datetime import date, timedelta
from typing import NamedTuple

from sqlalchemy.orm import Session

from almanac.core.life.outcomes import Bucket
from almanac.core.stock.lots import taken
from almanac.store import shelves
from almanac.store.lots import made_by_serial
from almanac.store.models import LotKnownBy, Part, Shelf
from almanac.store.shelves import LASTING_DAYS

Ages = list[tuple[date | None, int]]
"""Days parts were made on, None where nobody knows, and how many of each."""


def ages_leaving(session: Session, of: tuple[Part, Shelf, Bucket], quantity: int, day: date, *, expired_first: bool = False) -> Ages:
    """Ages of what somebody takes from a bucket on a day: from a shelf the soonest to expire; back to one what is known to keep."""
    part, shelf, bucket = of
    left = _lots(session, shelf, bucket)
    known = [lot for lot in left if lot[0] is not None]
    if bucket is not Bucket.ON_HAND and sum(count for _, count in known) >= quantity:
        left = known
    life = timedelta(days=part.shelf_life_days or LASTING_DAYS)
    found: Ages = [
        (last_day - life if last_day else None, count) for last_day, count in taken(left, quantity, day, expired_first=expired_first)
    ]
    missing = quantity - sum(count for _, count in found)
    return [*found, (None, missing)] if missing > 0 else found


class Lot(NamedTuple):
    """The lot a part came from, by the day it was made, and how that is known."""

    made_on: date
    known_by: LotKnownBy


def lot_of(session: Session, of: tuple[Part, Shelf, Bucket], serial: str | None, day: date) -> Lot | None:
    """The lot of a part that is fitted out of a bucket on a day; None where nobody can tell.

    Its serial says it where it arrived with it. Else the part is of the lot that leaves first, which is the only one where nothing else
    lies on the shelf or in hands.
    """
    part, shelf, bucket = of
    if serial and (made_on := made_by_serial(session, part.id, serial)) is not None:
        return Lot(made_on, LotKnownBy.SERIAL)
    ((first, _), *_) = ages_leaving(session, of, 1, day)
    if first is None:
        return None
    there = {last_on for one in (Bucket.ON_HAND, bucket) for last_on, _ in _lots(session, shelf, one)}
    return Lot(first, LotKnownBy.ONLY_LOT if len(there) == 1 else LotKnownBy.FIRST_OUT)


def _lots(session: Session, shelf: Shelf, bucket: Bucket) -> list[tuple[date | None, int]]:
    return [lot for own in shelves.lots(session, shelf_id=shelf.id, bucket=bucket, lasting=True).values() for lot in own]


def first_of(ages: Ages, quantity: int) -> tuple[Ages, Ages]:
    """Split ages: so many of the oldest, an unknown age before all, and the rest."""
    first, rest = [], []
    for made_on, count in sorted(ages, key=lambda age: age[0] or date.min):
        now = min(count, quantity)
        quantity -= now
        first += [(made_on, now)] if now else []
        rest += [(made_on, count - now)] if count > now else []
    return first, rest
