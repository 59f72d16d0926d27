"""Stock parts as they are played forward: requests by the forecast, shelves as they stand, what the plan keeps; and one part's year."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from almanac.core.demand import counts
from almanac.core.demand.law import DemandLaw
from almanac.core.demand.months import MonthStep
from almanac.core.rehearsal.figures import Estimate, mean, share
from almanac.core.rehearsal.plan import Ints
from almanac.core.rehearsal.play import play
from almanac.core.rehearsal.rules import Stands
from almanac.core.rehearsal.table import Expires, Kept, PartToPlay, changes_of, policies_of, requests_of, start_of
from almanac.core.stock.exact import like_rate
from almanac.core.stock.quantity import in_packs
from almanac.core.stock.rates import DoubtedRate
from almanac.core.stock.shelf import Shelf, ShelfPlan, SitePlan
from almanac.core.stock.shelf_plan import later_levels
from almanac.services.outlook.order_plans import Row, outposts_of
from almanac.services.outlook.projection import YEAR_DAYS, PathPoint

RUNS = 200
SEED = 20
LEVELS = (5, 50, 95)
QUARTERS = (91, 182, 273)
"""Days on which levels are worked out anew; every month where requests of the months differ by more than UNEVEN, as by planned swaps."""
UNEVEN = 1.5
LATEST = 3
"""After the last month it goes on as in so many months before."""


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
    part, kept = part_to_play(law, row, row.plan, steps), kept_by(law, row, row.plan, steps)
    record = play(
        policies_of([part], [kept]), requests_of([part], RUNS, SEED), start_of([part]),
        days=days[-1] + 1, seed=SEED, counts_from=min(part.helped_on, YEAR_DAYS - 90), watched=days, changes=changes_of([kept]),
    )  # fmt: skip
    now = max(row.shelf.holding.available, 0)
    quantiles = np.percentile(record.stock[:, 0], LEVELS, axis=1, method="lower").astype(np.int64)
    path = [PathPoint(0, now, now, now), *(PathPoint(day, *(int(value[i]) for value in quantiles)) for i, day in enumerate(days))]
    ordered, orders = record.ordered_by_quarter[:, 0].sum(axis=0), record.orders_by_quarter[:, 0].sum(axis=0)
    return YearPlayed(
        path=path,
        fill=share(record.met.sum(axis=(0, 1)), record.asked.sum(axis=(0, 1))),
        orders=mean(orders.astype(np.float64)),
        parts=spread(ordered),
        spent=spread(ordered * float(row.part.price) + orders * row.policy.order_cost),
        waiting=mean(record.waiting[0] + record.before_waiting[0]),
        runs=RUNS,
    )


def spread(values: Ints | np.ndarray) -> Spread:
    """5, 50 and 95% of figures of several runs."""
    return Spread(*(float(value) for value in np.percentile(values, LEVELS)))


def kept_by(law: DemandLaw, row: Row, plan: ShelfPlan, steps: list[MonthStep]) -> Kept:
    """What a plan keeps; reorder points and levels follow the fleet and what is planned of it, from today's knowledge."""
    shelf = Shelf(row.shelf.holding, row.shelf.lots, outposts_of(plan, row.shelf))
    _, a_day = _requests(law, steps)
    uneven = max(a_day) > UNEVEN * max(min(a_day), 1e-9)
    later = later_levels(law, shelf, row.policy, plan, tuple(step.from_day for step in steps[1:]) if uneven else QUARTERS)
    sites = sites_of(row, plan)
    return Kept(
        plan.depot_s if sites else plan.order_at,
        plan.lot,
        tuple(site.level for site in sites),
        tuple((one.day, one.depot_s, one.levels) for one in later),
    )


def stands_of(row: Row, plan: ShelfPlan) -> Stands:
    """Where a part stands, for rules of thumb."""
    sites, holding = sites_of(row, plan), row.shelf.holding
    coming = sum(site.coming for site in sites)
    return Stands(
        shares=tuple(site.share for site in sites),
        depot=holding.available - sum(site.free for site in sites),
        coming=holding.on_order - coming,
        sites=tuple(site.free + site.coming for site in sites),
        lot=in_packs(1, pack=row.policy.pack, minimum_order=row.policy.minimum_order),
        units=row.projection.in_service,
    )


def sites_of(row: Row, plan: ShelfPlan) -> tuple[SitePlan, ...]:
    """The sites that are fed from the place looked at; none where one shelf is looked at by itself."""
    return plan.sites if row.shelf.outposts else ()


def part_to_play(law: DemandLaw, row: Row, plan: ShelfPlan, steps: list[MonthStep]) -> PartToPlay:
    """A part as it stands today; what stands at a site above its level is used up before it asks again.

    Parameters
    ----------
    law : of its demand · row : its shelf and policy · plan : by which its requests are shared among its sites · steps : months
    """
    holding, policy, sites = row.shelf.holding, row.policy, sites_of(row, plan)
    from_day, a_day = _requests(law, steps)
    rate = like_rate(law, YEAR_DAYS)
    arrivals = [(arrival.day, arrival.quantity) for arrival in holding.arrivals]
    boats = []
    for place, post in enumerate(row.shelf.outposts if sites else ()):
        under_way = (max(post.lane_days, 1), post.coming)
        if post.coming and under_way in arrivals:
            arrivals.remove(under_way)
            boats.append((under_way[0], place, post.coming))
    return PartToPlay(
        from_day=from_day,
        a_day=a_day,
        doubt=rate.shape if isinstance(rate, DoubtedRate) else None,
        shares=tuple(site.share for site in sites),
        lead=(tuple(policy.lead.days.tolist()), tuple(policy.lead.weight.tolist())),
        review=max(policy.review_days, 1),
        lanes=tuple((post.lane_days, max(post.every_days, 1)) for post in row.shelf.outposts) if sites else (),
        depot=holding.available - sum(site.free for site in sites),
        sites=tuple(site.free for site in sites),
        arrivals=tuple(arrivals),
        boats=tuple(boats),
        last_order=policy.last_order_day,
        expires=_expires(law, row),
    )


def _requests(law: DemandLaw, steps: list[MonthStep]) -> tuple[tuple[int, ...], tuple[float, ...]]:
    """Requests a day month by month, and afterwards as in the last months."""
    until = [0, *(step.to_day for step in steps)]
    expected = np.diff(np.concatenate(([0.0], law.mean_parts(until[1:]))))
    after = float(expected[-LATEST:].sum()) / (until[-1] - until[-1 - LATEST])
    return tuple(until), (*(float(value) for value in expected / np.diff(until)), after)


def _expires(law: DemandLaw, row: Row) -> Expires | None:
    life, policy = row.policy.shelf_life_days, row.policy
    if life is None:
        return None
    cap = int(counts.quantile(law.reaching([0], [policy.lead.median_days + life], 0.5), 0.5)[0])
    least = in_packs(1, pack=policy.pack, minimum_order=policy.minimum_order)
    lots = tuple((lot.expires_day, lot.quantity) for lot in row.shelf.lots if lot.expires_day is not None)
    return Expires(life, max(cap, 1), policy.pack, least, lots)
