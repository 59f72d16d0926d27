"""A year of one part as its policy, followed, would make it: played many times from where its shelves stand today."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from almanac.core.demand.law import DemandLaw
from almanac.core.demand.months import MonthStep
from almanac.core.rehearsal.figures import Estimate, mean, share
from almanac.core.rehearsal.plan import Change, Ints, PlayedPolicies, Requests, Start, lead_table
from almanac.core.rehearsal.play import play
from almanac.core.stock.exact import like_rate
from almanac.core.stock.rates import DoubtedRate
from almanac.core.stock.shelf import Shelf, ShelfPlan, SitePlan
from almanac.core.stock.shelf_plan import later_levels
from almanac.services.outlook.order_plans import Row, outposts_of
from almanac.services.outlook.projection import YEAR_DAYS, PathPoint

RUNS = 200
SEED = 20
LEVELS = (5, 50, 95)
QUARTERS = (91, 182, 273)
"""Days on which levels are worked out anew."""


@dataclass(frozen=True)
class Spread:
    """5, 50 and 95% over the years played."""

    low: float
    median: float
    high: float


@dataclass(frozen=True)
class YearPlayed:
    """path : parts on the shelves at month ends · fill : requests met at once from the first day an order of today can arrive

    orders : a year · parts, spent : ordered in the year · waiting : machine-days a year · runs : years played
    """

    path: list[PathPoint]
    fill: Estimate | None
    orders: Estimate
    parts: Spread
    spent: Spread
    waiting: Estimate
    runs: int


def year_played(law: DemandLaw, row: Row, steps: list[MonthStep]) -> YearPlayed | None:
    """The coming year of a part; None where no policy is known, or one place of several is looked at: it lives on the others' requests.

    Machines ask at their site as often as the law expects month by month, every year with a level of its own drawn from the doubt.
    What would be learnt on the way is left out.

    Parameters
    ----------
    law : of its demand at the places looked at · row : its shelf and its plan · steps : months
    """
    if row.plan is None or (row.plan.sites and not row.shelf.outposts):
        return None
    days = tuple(step.to_day for step in steps)
    counts_from = min(int(row.policy.lead.median_days), YEAR_DAYS - 90)
    changes = _changes(law, row, row.plan)
    record = play(
        _policies(row, row.plan), _requests(law, _sites(row, row.plan), steps), _start(row, row.plan),
        days=days[-1] + 1, seed=SEED, counts_from=0, watched=days, changes=changes,
    )  # fmt: skip
    later = play(
        _policies(row, row.plan), _requests(law, _sites(row, row.plan), steps), _start(row, row.plan),
        days=days[-1] + 1, seed=SEED, counts_from=counts_from, changes=changes,
    )  # fmt: skip
    now = max(row.shelf.holding.available, 0)
    quantiles = np.percentile(record.stock[:, 0], LEVELS, axis=1, method="lower").astype(np.int64)
    path = [PathPoint(0, now, now, now), *(PathPoint(day, *(int(value[i]) for value in quantiles)) for i, day in enumerate(days))]
    spent = record.ordered[0] * float(row.part.price) + record.orders[0] * row.policy.order_cost
    return YearPlayed(
        path=path,
        fill=share(later.met.sum(axis=(0, 1)), later.asked.sum(axis=(0, 1))),
        orders=mean(record.orders[0].astype(np.float64)),
        parts=_spread(record.ordered[0]),
        spent=_spread(spent),
        waiting=mean(record.waiting[0]),
        runs=RUNS,
    )


def _changes(law: DemandLaw, row: Row, plan: ShelfPlan) -> tuple[Change, ...]:
    """Reorder points and levels follow the fleet: worked out anew every quarter, from today's knowledge."""
    shelf = Shelf(row.shelf.holding, row.shelf.lots, outposts_of(plan, row.shelf))
    later = later_levels(law, shelf, row.policy, plan, QUARTERS)
    return tuple(Change(one.day, np.array([one.depot_s]), np.array([one.levels], dtype=np.int64).reshape(1, -1)) for one in later)


def _spread(values: Ints | np.ndarray) -> Spread:
    return Spread(*(float(value) for value in np.percentile(values, LEVELS)))


def _sites(row: Row, plan: ShelfPlan) -> tuple[SitePlan, ...]:
    """The sites that are fed from the place looked at; none where one shelf is looked at by itself."""
    return plan.sites if row.shelf.outposts else ()


def _policies(row: Row, plan: ShelfPlan) -> PlayedPolicies:
    lead = row.policy.lead
    days, cumulative = lead_table([(lead.days.tolist(), lead.weight.tolist())])
    sites, posts = _sites(row, plan), row.shelf.outposts
    return PlayedPolicies(
        s=np.array([plan.depot_s if sites else plan.order_at]),
        lot=np.array([plan.lot]),
        review=np.array([max(row.policy.review_days, 1)]),
        level=np.array([[site.level for site in sites]], dtype=np.int64).reshape(1, -1),
        lane=np.array([[post.lane_days for post in posts]], dtype=np.int64).reshape(1, -1),
        every=np.array([[post.every_days for post in posts]], dtype=np.int64).reshape(1, -1),
        lead_days=days,
        lead_cumulative=cumulative,
        first_review=np.array([1]),
    )


def _start(row: Row, plan: ShelfPlan) -> Start:
    """Where parts are today; what stands at a site above its level is used up before it asks again."""
    holding = row.shelf.holding
    sites = np.array([[site.free for site in _sites(row, plan)]], dtype=np.int64).reshape(1, -1)
    arrivals = tuple((arrival.day, 0, arrival.quantity) for arrival in holding.arrivals)
    return Start(np.array([holding.available - int(sites.sum())]), sites, arrivals)


def _requests(law: DemandLaw, sites: tuple[SitePlan, ...], steps: list[MonthStep]) -> Requests:
    """(1, 1 + j, n) requests a day, month by month."""
    until = [0, *(step.to_day for step in steps)]
    expected = np.diff(np.concatenate(([0.0], law.mean_parts(until[1:]))))
    a_day = expected / np.diff(until)
    shares = np.array([site.share for site in sites])
    places = np.concatenate(([max(1.0 - shares.sum(), 0.0)], shares))
    rate = like_rate(law, YEAR_DAYS)
    level = np.ones(RUNS)
    if isinstance(rate, DoubtedRate):
        level = np.random.default_rng(SEED).gamma(rate.shape, 1.0 / rate.shape, RUNS)
    tables = tuple(value * places[None, :, None] * level[None, None] for value in a_day)
    return Requests(tuple(until[:-1]), tables)
