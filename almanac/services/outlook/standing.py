"""What stands of a stock part whatever its target is: its law, its shelf and path, and its chances by order day."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from almanac.core.demand import counts
from almanac.core.demand.failure_rate import AnnualisedRate, annualised_rate
from almanac.core.demand.law import DemandLaw, StreamMeans
from almanac.core.demand.months import MonthStep
from almanac.core.stock.lead_time import LeadTime
from almanac.core.stock.order_day import OrderChances
from almanac.core.stock.path import Holding, path_quantiles
from almanac.core.stock.quantity import expected_scrap
from almanac.services.outlook.inputs import Inputs
from almanac.services.outlook.laws import HORIZON_DAYS, LawBook, PartLaw
from almanac.services.outlook.shelves import expired, holding_of, lots_of, promised, review_days_of, usable
from almanac.store.models import Part

YEAR_DAYS = 365
BAND = (0.05, 0.5, 0.95)
SOON_DAYS = 90


@dataclass(frozen=True)
class PathPoint:
    """Projected stock without new orders at the end of a day: 5, 50 and 95%."""

    day: int
    low: int
    median: int
    high: int


@dataclass(frozen=True)
class SiteShort:
    """A site's own stock, and the chance that it runs short before the boat after the next review."""

    code: str
    name: str
    on_hand: int
    chance: float


@dataclass(frozen=True)
class Standing:
    """A stock part at the chosen sites.

    on_hand : good parts that have not expired · expired : those that have, no stock any more
    outposts : those without the depot's stock behind them · chances : by order day, None where nothing is expected of the part
    """

    equivalents: list[str]
    law: PartLaw | None
    rate: AnnualisedRate | None
    in_service: float
    on_hand: int
    expired: int
    promised: int
    on_order: int
    overdue: int
    holding: Holding
    path: list[PathPoint]
    soon: StreamMeans | None
    year: StreamMeans | None
    outposts: list[SiteShort]
    scrap_expected: int
    chances: OrderChances | None


def boats_of(inputs: Inputs, part: Part) -> dict[int, int]:
    """Days until the boat after the next review, by outpost; none where one site is looked at."""
    if inputs.site is not None:
        return {}
    review = review_days_of(inputs, part)
    return {site.id: inputs.lanes.get(site.id, 0) + review for site in inputs.sites if not site.is_depot}


def standing_of(inputs: Inputs, book: LawBook, part: Part, lead: LeadTime, steps: list[MonthStep]) -> Standing:
    """Compute what stands of a part.

    Parameters
    ----------
    book : laws of the inputs · lead : of the part at the chosen site · steps : months of the path
    """
    law = book.part_law(part.id)
    holding, overdue = holding_of(inputs, part)
    return Standing(
        equivalents=[inputs.numbers[member] for member in inputs.members(part.id) if member != part.id],
        law=law,
        rate=annualised_rate(law.law) if law else None,
        in_service=float(law.units.sum()) if law else _recorded(inputs, part),
        on_hand=usable(inputs, part.id),
        expired=expired(inputs, part.id),
        promised=promised(inputs, part.id),
        on_order=holding.on_order,
        overdue=overdue,
        holding=holding,
        path=_path(law.law, holding, steps) if law else [],
        soon=law.law.means(0, SOON_DAYS) if law else None,
        year=law.law.means(0, YEAR_DAYS) if law else None,
        outposts=_outposts(inputs, book, part, law) if law and inputs.site is None else [],
        scrap_expected=_scrap(inputs, part, law.law) if law else 0,
        chances=OrderChances(law.law, holding, lead) if law and _demanding(law.law) else None,
    )


def _recorded(inputs: Inputs, part: Part) -> float:
    """Units on record in service at the chosen sites: known also where nothing can be said of their failures."""
    return float(sum(sum(row.units) for row in inputs.service if row.part_id == part.id and row.site_id in inputs.site_ids))


def _demanding(law: DemandLaw) -> bool:
    """Whether anything is expected of a part at all."""
    return bool(law.mean_parts([HORIZON_DAYS])[0] > 0)


def _path(law: DemandLaw, holding: Holding, steps: list[MonthStep]) -> list[PathPoint]:
    days = np.array([step.to_day for step in steps])
    demand = law.reaching(np.zeros(days.size), days, BAND[-1])
    high, median, low = (path_quantiles(counts.quantile(demand, level), holding, days) for level in BAND)
    start = PathPoint(0, holding.available, holding.available, holding.available)
    return [start, *(PathPoint(int(day), int(low[i]), int(median[i]), int(high[i])) for i, day in enumerate(days))]


def _outposts(inputs: Inputs, book: LawBook, part: Part, law: PartLaw) -> list[SiteShort]:
    """How likely each outpost's own shelf is to run out before the boat after the next review."""
    sites = [site for site in inputs.sites if not site.is_depot]
    if not sites:
        return []
    free = [usable(inputs, part.id, {site.id}) - promised(inputs, part.id, {site.id}) for site in sites]
    served = np.cumsum(book.site_heads(part.id, law, boats_of(inputs, part), max(0, *free)), axis=1)
    chance = [1.0 - float(served[place, stock]) if stock >= 0 else 1.0 for place, stock in enumerate(free)]
    return [SiteShort(site.code, site.name, stock, missed) for site, stock, missed in zip(sites, free, chance, strict=True)]


def _scrap(inputs: Inputs, part: Part, law: DemandLaw) -> int:
    if part.shelf_life_days is None:
        return 0
    lots = lots_of(inputs, part)
    days = [max(lot.expires_day, 0) if lot.expires_day is not None else 0 for lot in lots]
    used = counts.quantile(law.reaching(np.zeros(len(lots)), days, 0.5), 0.5).tolist() if lots else []
    return expected_scrap(lots, used)
