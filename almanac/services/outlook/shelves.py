"""What stands on the shelves of the chosen sites: on hand, promised, on its way, and by expiry."""

from __future__ import annotations

from collections.abc import Iterable

from almanac.core.life.outcomes import Bucket
from almanac.core.stock.path import Arrival, Holding
from almanac.core.stock.quantity import Lot
from almanac.services.horizon import horizon_days_of
from almanac.services.outlook.inputs import USUAL_DEPARTURE_DAYS, Inputs
from almanac.store.planning import StockPart


def horizon_days(inputs: Inputs) -> int:
    """How far ahead anything is expected or planned at most."""
    return horizon_days_of(inputs.settings)


def review_days_of(inputs: Inputs, part: StockPart) -> int:
    """Days from one review of the outlook to the next, of a part."""
    return int(inputs.settings.value("review_days", kind=part.kind, part_number=part.number, default=14))


def when_needed(inputs: Inputs, part: StockPart) -> tuple[str, ...]:
    """Codes of the sites at which a part is bought when needed, or "all"."""
    said = str(inputs.settings.value("when_needed", kind=part.kind, part_number=part.number, default=""))
    return tuple(code for code in said.split(",") if code)


def departure_days_of(inputs: Inputs, site_id: int) -> int:
    """Longest wait from one departure for a site to the next, in days."""
    return inputs.gaps.get(site_id, USUAL_DEPARTURE_DAYS)


def on_hand(inputs: Inputs, part_id: int, sites: Iterable[int] | None = None) -> int:
    """Good parts of a stock part and its equivalents, at some sites or at the chosen ones."""
    places = tuple(sites or inputs.site_ids)
    return sum(inputs.balances.get((member, site), {}).get(Bucket.ON_HAND, 0) for member in inputs.members(part_id) for site in places)


def expired(inputs: Inputs, part_id: int, sites: Iterable[int] | None = None) -> int:
    """Parts that lie there past their shelf life: they are no stock (rule N11)."""
    return sum(lot.quantity for lot in _lots_on_shelf(inputs, part_id, sites) if lot.is_expired)


def usable(inputs: Inputs, part_id: int, sites: Iterable[int] | None = None) -> int:
    """Good parts that have not expired, and recovered ones that passed their test (rule N7)."""
    places = tuple(sites or inputs.site_ids)
    return on_hand(inputs, part_id, places) - expired(inputs, part_id, places) + recovered(inputs, part_id, places)


def recovered(inputs: Inputs, part_id: int, sites: Iterable[int] | None = None) -> int:
    """Recovered parts that passed their test and are still there by the books; they keep the age they came out with."""
    places = ((member, site) for member in inputs.members(part_id) for site in tuple(sites or inputs.site_ids))
    return sum(min(inputs.recovered.get(at, 0), inputs.balances.get(at, {}).get(Bucket.HARVESTED, 0)) for at in places)


def under_way(inputs: Inputs, part_id: int, sites: Iterable[int] | None = None) -> int:
    """Parts on their way from one site to another."""
    places = tuple(sites or inputs.site_ids)
    return sum(inputs.balances.get((member, site), {}).get(Bucket.UNDER_WAY, 0) for member in inputs.members(part_id) for site in places)


def promised(inputs: Inputs, part_id: int, sites: Iterable[int] | None = None) -> int:
    """Parts that jobs and owed lines have a claim on."""
    places = tuple(sites or inputs.site_ids)
    return sum(inputs.promised.get((member, site), 0) for member in inputs.members(part_id) for site in places)


def holding_of(inputs: Inputs, part: StockPart) -> tuple[Holding, int]:
    """Free stock and what is coming, and how much of it is overdue: that is taken to need one more review period.

    Coming is what suppliers confirmed, and transfers under way, which need their whole lane at the latest.
    """
    today, members = inputs.clock.today, set(inputs.members(part.id))
    review = review_days_of(inputs, part)
    latest = horizon_days(inputs)
    arrivals, overdue = [], 0
    for line in inputs.open_lines:
        if line.part_id not in members or line.site_id not in inputs.site_ids:
            continue
        day = (line.expected_on - today).days
        overdue += line.remaining if day < 1 else 0
        arrivals.append(Arrival(min(day, latest) if day >= 1 else max(review, 1), line.remaining))
    for site_id in inputs.site_ids:
        if coming := under_way(inputs, part.id, {site_id}):
            arrivals.append(Arrival(max(inputs.lanes.get(site_id, 0), 1), coming))
    floor = int(inputs.settings.value("floor", kind=part.kind, part_number=part.number, default=0))
    available = usable(inputs, part.id) - promised(inputs, part.id)
    return Holding(available, tuple(sorted(arrivals, key=lambda arrival: arrival.day)), floor), overdue


def lots_of(inputs: Inputs, part: StockPart) -> list[Lot]:
    """What stands on the chosen shelves and can be used, by expiry, the soonest first."""
    return [lot for lot in _lots_on_shelf(inputs, part.id) if not lot.is_expired]


def _lots_on_shelf(inputs: Inputs, part_id: int, sites: Iterable[int] | None = None) -> list[Lot]:
    """Lots of the shelves, the soonest to expire first; without a shelf life, or of unknown age, one that never expires."""
    found: dict[int | None, int] = {}
    for member in inputs.members(part_id):
        for site in tuple(sites or inputs.site_ids):
            left = inputs.balances.get((member, site), {}).get(Bucket.ON_HAND, 0)
            for expires_on, quantity in inputs.lots.get((member, site), [(None, left)]):
                expires_day = (expires_on - inputs.clock.today).days if expires_on else None
                found[expires_day] = found.get(expires_day, 0) + quantity
    lots = (Lot(quantity, expires_day) for expires_day, quantity in found.items() if quantity > 0)
    return sorted(lots, key=lambda lot: lot.expires_day if lot.expires_day is not None else 10**6)
