"""What stands on the shelves of the chosen sites: on hand, promised, on its way, and by expiry."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import timedelta

from almanac.core.life.outcomes import Bucket
from almanac.core.stock.path import Arrival, Holding
from almanac.core.stock.quantity import Lot
from almanac.services.outlook.inputs import Inputs
from almanac.store.models import Part


def review_days_of(inputs: Inputs, part: Part) -> int:
    """Days from one review of the outlook to the next, of a part."""
    return int(inputs.settings.value("review_days", kind=part.kind, part_number=part.number, default=14))


def on_hand(inputs: Inputs, part_id: int, sites: Iterable[int] | None = None) -> int:
    """Good parts of a stock part and its equivalents, at some sites or at the chosen ones."""
    places = tuple(sites or inputs.site_ids)
    return sum(inputs.balances.get((member, site), {}).get(Bucket.ON_HAND, 0) for member in inputs.members(part_id) for site in places)


def promised(inputs: Inputs, part_id: int, sites: Iterable[int] | None = None) -> int:
    """Parts that jobs and owed lines have a claim on."""
    places = tuple(sites or inputs.site_ids)
    return sum(inputs.promised.get((member, site), 0) for member in inputs.members(part_id) for site in places)


def holding_of(inputs: Inputs, part: Part) -> tuple[Holding, int]:
    """Free stock and confirmed arrivals, and how many of them are overdue: those are taken to need one more review period."""
    today, members = inputs.clock.today, set(inputs.members(part.id))
    review = review_days_of(inputs, part)
    arrivals, overdue = [], 0
    for line in inputs.open_lines:
        if line.part_id not in members or line.site_id not in inputs.site_ids:
            continue
        day = (line.expected_on - today).days
        overdue += line.remaining if day < 1 else 0
        arrivals.append(Arrival(day if day >= 1 else max(review, 1), line.remaining))
    floor = int(inputs.settings.value("floor", kind=part.kind, part_number=part.number, default=0))
    available = on_hand(inputs, part.id) - promised(inputs, part.id)
    return Holding(available, tuple(sorted(arrivals, key=lambda arrival: arrival.day)), floor), overdue


def lots_of(inputs: Inputs, part: Part) -> list[Lot]:
    """What stands on the shelf by expiry, oldest first, first in first out."""
    left, found = on_hand(inputs, part.id), []
    for made_on, quantity in inputs.lots.get(part.id, []):
        taken = min(quantity, left)
        if taken == 0:
            break
        expires = None
        if part.shelf_life_days and made_on:
            expires = (made_on + timedelta(days=part.shelf_life_days) - inputs.clock.today).days
        found.append(Lot(taken, expires))
        left -= taken
    if left:
        found.append(Lot(left, None))
    return sorted(found, key=lambda lot: lot.expires_day if lot.expires_day is not None else 10**6)
