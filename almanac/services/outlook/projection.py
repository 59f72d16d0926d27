"""What is projected of a stock part whatever its target is: its demand, its stock without orders, its outposts."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from almanac.core.demand import counts
from almanac.core.demand.failure_rate import AnnualisedRate, annualised_rate
from almanac.core.demand.law import DemandLaw, StreamMeans
from almanac.core.demand.months import MonthStep
from almanac.core.stock.path import Holding, path_quantiles
from almanac.core.stock.quantity import Lot, expected_scrap
from almanac.services.outlook.demand_laws import LawBook, PartLaw
from almanac.services.outlook.inputs import Inputs
from almanac.services.outlook.shelves import (
    departure_days_of,
    expired,
    holding_of,
    lots_of,
    promised,
    recovered,
    review_days_of,
    under_way,
    usable,
    when_needed,
)
from almanac.store.planning import StockPart

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
class Outpost:
    """A site that the depot feeds, what is free on its shelf and under way to it, and its boat. review_days : of the part
    stocked : whether the part is kept there at all
    """

    site_id: int
    code: str
    name: str
    free: int
    coming: int
    lane_days: int
    every_days: int
    review_days: int
    stocked: bool = True


@dataclass(frozen=True)
class PartShelf:
    """What stands of a part on the chosen shelves and is on its way.

    on_hand : good parts that have not expired, recovered ones that passed their test among them · expired : those that have, no stock any
    more · lots : of a part with a shelf life · recovered : of those on hand
    """

    equivalents: tuple[str, ...]
    on_hand: int
    expired: int
    promised: int
    overdue: int
    holding: Holding
    lots: tuple[Lot, ...]
    outposts: tuple[Outpost, ...]
    recovered: int = 0


@dataclass(frozen=True)
class Projection:
    """What is projected of a part; `said` is false where nothing can be."""

    said: bool
    rate: AnnualisedRate | None
    failures: float
    in_service: float
    path: list[PathPoint]
    soon: StreamMeans | None
    year: StreamMeans | None
    scrap_expected: int


def boats_of(inputs: Inputs, part: StockPart) -> dict[int, int]:
    """Days until the boat after the next review, by outpost; none where one site is looked at."""
    if inputs.site is not None:
        return {}
    review = review_days_of(inputs, part)
    return {site.id: inputs.lanes.get(site.id, 0) + review for site in inputs.sites if not site.is_depot}


def shelf_of(inputs: Inputs, part: StockPart) -> PartShelf:
    """What stands of a part."""
    holding, overdue = holding_of(inputs, part)
    outposts = [] if inputs.site is not None else [site for site in inputs.sites if not site.is_depot]
    return PartShelf(
        equivalents=tuple(inputs.numbers[member] for member in inputs.members(part.id) if member != part.id),
        on_hand=usable(inputs, part.id),
        expired=expired(inputs, part.id),
        promised=promised(inputs, part.id),
        overdue=overdue,
        holding=holding,
        lots=tuple(lots_of(inputs, part)) if part.shelf_life_days is not None else (),
        outposts=tuple(
            Outpost(
                site.id,
                site.code,
                site.name,
                usable(inputs, part.id, {site.id}) - promised(inputs, part.id, {site.id}),
                under_way(inputs, part.id, {site.id}),
                inputs.lanes.get(site.id, 0),
                departure_days_of(inputs, site.id),
                review_days_of(inputs, part),
                site.code not in when_needed(inputs, part),
            )
            for site in outposts
        ),
        recovered=recovered(inputs, part.id),
    )


def projected(book: LawBook, part: int, shelf: PartShelf, steps: tuple[MonthStep, ...], *, expires: bool) -> Projection:
    """Project a part.

    Parameters
    ----------
    book : laws of its kind · steps : months of the path · expires : whether it has a shelf life
    """
    law = book.part_law(part)
    if law is None:
        return Projection(False, None, 0.0, _on_record(book, part), [], None, None, 0)
    return Projection(
        said=True,
        rate=annualised_rate(law.law),
        failures=float(law.law.failures.sum()),
        in_service=float(law.units.sum()),
        path=_path(law.law, shelf.holding, steps),
        soon=law.law.means(0, SOON_DAYS),
        year=law.law.means(0, YEAR_DAYS),
        scrap_expected=_scrap(shelf, law) if expires else 0,
    )


def _on_record(book: LawBook, part: int) -> float:
    """Units on record in service at the chosen sites: known also where nothing can be said of their failures."""
    chosen = set(book.inputs.chosen)
    now = book.changes.now
    return float(sum(units for (pool, site), units in now.items() if pool.part_id == part and site in chosen))


def _path(law: DemandLaw, holding: Holding, steps: tuple[MonthStep, ...]) -> list[PathPoint]:
    days = np.array([step.to_day for step in steps])
    demand = law.reaching(np.zeros(days.size), days, BAND[-1])
    high, median, low = (path_quantiles(counts.quantile(demand, level), holding, days) for level in BAND)
    start = PathPoint(0, holding.available, holding.available, holding.available)
    return [start, *(PathPoint(int(day), int(low[i]), int(median[i]), int(high[i])) for i, day in enumerate(days))]


def _scrap(shelf: PartShelf, law: PartLaw) -> int:
    days = [max(lot.expires_day, 0) if lot.expires_day is not None else 0 for lot in shelf.lots]
    used = counts.quantile(law.law.reaching(np.zeros(len(days)), days, 0.5), 0.5).tolist() if days else []
    return expected_scrap(list(shelf.lots), used)
