"""The demo's shelves: filled each quarter with what the next one used, then what stands there on the as-of day."""

from __future__ import annotations

from collections import Counter
from datetime import date, timedelta

from scipy.special import pdtr

from almanac.core.life.outcomes import Bucket
from almanac.core.parts.declared.kinds import FORECAST_KINDS
from almanac.demo import catalog, truth
from almanac.demo.company import Company
from almanac.demo.history import Usage
from almanac.demo.purchases import add_line, add_order, order_past
from almanac.demo.rows import at

BESIDE = (2, 1, 3, -2, 4, 1, 2, 3, -1, 2, 5)
"""Parts that stand at the depot beside what last year's use asks for, in turn: most are plenty, some short."""
REVIEW_DAYS, LEAD_DAYS, FORGOTTEN_EVERY = 14, 24, 23
ORDERED_EVERY = 4


def fill_shelves(company: Company, usage: Usage) -> None:
    """Stock moves of the whole log and the purchase orders that are still open."""
    for shelf, bucket, quantity, cause, day, incident in usage.moves:
        _move(company, shelf, bucket, quantity, cause, day, incident=incident)
    depot = company.sites[catalog.SITES[0].code]
    for (part_id, site, quarter), quantity in sorted(_by_quarter(usage).items()):
        cause = "receipt" if site == depot else "arrived"
        _move(company, company.shelves[part_id, site], Bucket.ON_HAND, quantity, cause, quarter, made_on=quarter - timedelta(days=45))
    order_past(company, seed=truth.SEED)
    for place, part in enumerate(part for part in catalog.PARTS if part.kind in FORECAST_KINDS):
        last_year = _last_year(usage, company.parts[part.number])
        _stand(company, part, last_year, BESIDE[place % len(BESIDE)], place)
        if place % ORDERED_EVERY == 1 and sum(last_year.values()) > 0:
            _open_order(company, part, sum(last_year.values()) / 12, overdue=place % (3 * ORDERED_EVERY) == 1)


def _by_quarter(usage: Usage) -> Counter[tuple[int, int, date]]:
    """Parts used in each quarter, dated to its first day."""
    totals: Counter[tuple[int, int, date]] = Counter()
    for (part, site, day), quantity in usage.issued.items():
        totals[part, site, date(day.year, (day.month - 1) // 3 * 3 + 1, 1)] += quantity
    return totals


def _last_year(usage: Usage, part: int) -> Counter[int]:
    since = truth.AS_OF - timedelta(days=365)
    used: Counter[int] = Counter()
    for (number, site, day), quantity in usage.issued.items():
        if number == part and day >= since:
            used[site] += quantity
    return used


def _stand(company: Company, part: catalog.DemoPart, last_year: Counter[int], beside: int, place: int) -> None:
    """What the last stock-taking counted: outposts hold what their boat asks for, at least one, but for a forgotten shelf here and
    there; the depot holds what the whole company uses until an order is there, and a few beside."""
    total = sum(last_year.values())
    counted = truth.AS_OF - timedelta(days=31)
    for number, site in enumerate(catalog.SITES):
        site_id = company.sites[site.code]
        if site.lane_days == 0:
            quantity = max(_enough(total / 365 * (LEAD_DAYS + REVIEW_DAYS)) + beside, 0)
        else:
            quantity = max(_enough(last_year[site_id] / 365 * (site.lane_days + REVIEW_DAYS)), 1)
            quantity = 0 if (7 * place + number) % FORGOTTEN_EVERY == 0 else quantity
        if quantity:
            shelf = company.shelves[company.parts[part.number], site_id]
            _move(company, shelf, Bucket.ON_HAND, quantity, "counted", counted, made_on=counted - timedelta(days=120))


def _enough(mean: float) -> int:
    """Parts that suffice with 95% where a mean is asked for."""
    level = 0
    while pdtr(level, mean) < 0.95 if mean > 0 else False:
        level += 1
    return level


def _open_order(company: Company, part: catalog.DemoPart, a_month: float, *, overdue: bool) -> None:
    quantity = -(-max(round(a_month * 1.2), part.minimum_order) // part.pack) * part.pack
    placed = truth.AS_OF - timedelta(days=33 if overdue else 12)
    expected = truth.AS_OF + timedelta(days=-4 if overdue else 9)
    order = add_order(company, part.supplier, placed)
    add_line(company, order, company.parts[part.number], quantity, part.price, expected, confirmed=None)


def _move(
    company: Company,
    shelf: int,
    bucket: Bucket,
    quantity: int,
    cause: str,
    day: date,
    *,
    incident: int | None = None,
    made_on: date | None = None,
) -> None:
    company.rows.add(
        "stock_move",
        shelf_id=shelf,
        bucket=bucket.value,
        quantity=quantity,
        cause=cause,
        lot=made_on.strftime("L%y%m") if made_on else None,
        made_on=made_on,
        moved_on=day,
        recorded_at=at(day),
        author_id=None,
        incident_id=incident,
        receipt_id=None,
        act_id=None,
    )
