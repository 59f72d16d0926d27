"""What to do about a stock part today: its reorder point, what to order and load, when the next order is likely, and what is risked."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.special import pdtrc

from almanac.core import checks
from almanac.core.demand import counts
from almanac.core.network.evaluate import Curves, NetworkFigures
from almanac.core.network.levels import Levels, Wanted, least_levels
from almanac.core.network.nodes import Lane, Network, nodes_enough
from almanac.core.network.transfers import DEPOT, Standing, echelon_order, loading
from almanac.core.stock.due import DUE_LEVELS
from almanac.core.stock.due import chance_of_waiting as chance_at_rate
from almanac.core.stock.exact import exact_review, like_rate
from almanac.core.stock.path import Law
from almanac.core.stock.policy import Policy
from almanac.core.stock.quantity import OrderSize, order_size
from almanac.core.stock.rates import Rate, times
from almanac.core.stock.reorder import YEAR_DAYS, Measure, ReorderPolicy, reorder_point
from almanac.core.stock.review import ReviewDemand, at, review_demand
from almanac.core.stock.shelf import Shelf, ShelfPlan, SitePlan, Waiting


def plan_shelf(law: Law, shelf: Shelf, policy: Policy, *, horizon_days: int) -> ShelfPlan | None:
    """What to do about a part at a review of today; None where nothing is expected of it.

    Parameters
    ----------
    law : of its demand at all places, from today on · shelf : what stands of it · policy : what is promised and sold
    horizon_days : how far ahead the next order is looked for

    Raises
    ------
    ContractError : an argument outside its range · NoEstimate : a promise that no stock keeps

    References
    ----------
    Hadley & Whitin (1963), Analysis of Inventory Systems, chapter 5; Axsater (2015), Inventory Control, chapters 5 and 10.
    """
    review = max(policy.review_days, 1)
    rate = like_rate(law, int(policy.lead.days.max()) + review)
    if rate is None:
        return None
    lot = policy.lot(rate.mean_per_day * YEAR_DAYS)
    plan = _Network(shelf, policy, rate, lot) if shelf.outposts else _OneShelf(law, shelf, policy, rate, lot)
    position = usable(law, shelf, policy)
    quantity = plan.order(position)
    next_days = None if quantity > 0 else _next_days(law, position - plan.order_at, review, horizon_days)
    late = _after_supply(policy, quantity, next_days)
    size = _size(law, policy, quantity, position) if quantity > 0 and late is None else None
    sites = plan.sites()
    # Who waits at a site waits, whatever lies elsewhere.
    machines = max(-shelf.holding.available, sum(max(-site.free, 0) for site in sites), 0)
    return ShelfPlan(
        order_at=plan.order_at,
        lot=lot,
        most=plan.order_at + lot,
        position=position,
        size=size,
        next_days=next_days,
        fill=plan.fill(0),
        fill_less=plan.fill(-1) if plan.order_at > 0 else None,
        fill_more=plan.fill(1),
        waiting=Waiting(machines, *_until_help(law, shelf, policy, (rate, plan.own, quantity))),
        depot_s=plan.own.s,
        depot_position=plan.depot_position(position),
        depot_fill=plan.depot_fill,
        sites=sites,
        due_after_supply=late,
        review_days=review,
    )


@dataclass(frozen=True)
class Later:
    """Reorder point and levels from a later day on, as fleets age and shrink."""

    day: int
    depot_s: int
    levels: tuple[int, ...]


def later_levels(law: Law, shelf: Shelf, policy: Policy, plan: ShelfPlan, days: Sequence[int]) -> tuple[Later, ...]:
    """What is kept from some later days on, worked out from today's knowledge, lots as they are.

    Parameters
    ----------
    law, shelf, policy, plan : as for `plan_shelf`, and what it gave · days : rising, within the law's horizon less lead and review
    """
    review = max(policy.review_days, 1)
    span = int(policy.lead.days.max()) + review
    rate = like_rate(law, span)
    now = float(law.mean_parts([span])[0])
    if rate is None or now <= 0 or not policy.stocked:
        return ()
    found = []
    for day in days:
        until, start = law.mean_parts([day + span, day])
        at_rate = times(rate, max(float(until - start) / now, 1e-6))
        if shelf.outposts:
            own = _Network(shelf, policy, at_rate, plan.lot)
            found.append(Later(day, own.levels.s, own.levels.sites))
        else:
            demand = review_demand(at_rate, policy.lead, review)
            found.append(Later(day, reorder_point(demand, plan.lot, policy.promise, lowest=max(shelf.holding.floor, 0)), ()))
    return tuple(found)


def network_of(shelf: Shelf, policy: Policy, rate: Rate, lot: int) -> Network:
    """A depot and its sites, at one rate shared by all.

    Parameters
    ----------
    shelf : with its outposts · policy : lead and review · rate : of all places · lot : the depot's Q
    """
    values, weight = rate.nodes(nodes_enough(rate))
    share = np.array([post.share for post in shelf.outposts])
    own = max(1.0 - float(share.sum()), 0.0)
    lanes = tuple(Lane(float(post.lane_days), float(max(post.every_days, 1))) for post in shelf.outposts)
    return Network(weight, values * own, values[:, None] * share[None], lanes, policy.lead, float(max(policy.review_days, 1)), lot)


NOTHING_KEPT = -1
"""The reorder point of what is bought when needed: an order leaves once somebody waits."""


def _empty(shelf: Shelf) -> frozenset[int]:
    return frozenset(place for place, post in enumerate(shelf.outposts) if not post.stocked)


class _OneShelf:
    """One place with the law of its own demand."""

    def __init__(self, law: Law, shelf: Shelf, policy: Policy, rate: Rate, lot: int) -> None:
        review = max(policy.review_days, 1)
        cycle = policy.promise.measure == Measure.CYCLE
        self.demand: ReviewDemand = review_demand(rate, policy.lead, review) if cycle else exact_review(law, policy.lead, review)
        lowest = max(shelf.holding.floor, 0)
        self.own = ReorderPolicy(reorder_point(self.demand, lot, policy.promise, lowest=lowest) if policy.stocked else NOTHING_KEPT, lot)

    @property
    def order_at(self) -> int:
        return self.own.s

    def order(self, position: int) -> int:
        return self.own.quantity(position)

    def depot_position(self, position: int) -> int:
        return position

    @property
    def depot_fill(self) -> float:
        return self.fill(0)

    def fill(self, more: int) -> float:
        positions = range(self.own.s + more + 1, self.own.most + more + 1)
        return float(np.mean([at(self.demand.fill, max(y, 0)) for y in positions]))

    def sites(self) -> tuple[SitePlan, ...]:
        return ()


class _Network:
    """A depot and its sites, at the constant rate of like mean and spread, shared by all."""

    def __init__(self, shelf: Shelf, policy: Policy, rate: Rate, lot: int) -> None:
        self.shelf, self.policy = shelf, policy
        self.network = network_of(shelf, policy, rate, lot)
        target = policy.promise.target
        self.curves = Curves(self.network)
        self.levels, self.figures = self._levels(Wanted(target, min(policy.site_floor, target), empty=_empty(shelf)))
        self.own = ReorderPolicy(self.levels.s, lot)
        self.standing = Standing(
            shelf.holding.available - sum(post.free for post in shelf.outposts),
            tuple(post.free for post in shelf.outposts),
            tuple(post.coming for post in shelf.outposts),
            shelf.holding.on_order - sum(post.coming for post in shelf.outposts),
        )

    def _levels(self, wanted: Wanted) -> tuple[Levels, NetworkFigures]:
        if self.policy.stocked:
            return least_levels(self.network, wanted, self.curves)
        nothing = Levels(NOTHING_KEPT, (0,) * len(self.network.lanes))
        return nothing, self.curves.figures(nothing.s, nothing.sites)

    @property
    def order_at(self) -> int:
        kept = self.levels.s + sum(self.levels.sites)
        return max(kept, self.shelf.holding.floor) if self.policy.stocked else kept

    def order(self, position: int) -> int:
        """What the places together ask for; a lot about to expire serves none of them."""
        gone = self.standing.everywhere - position
        standing = Standing(self.standing.depot - gone, self.standing.sites, self.standing.under_way, self.standing.on_order)
        whole = ReorderPolicy(self.order_at, self.own.lot)
        return max(echelon_order(self.levels, self.own.lot, standing), whole.quantity(position))

    def depot_position(self, position: int) -> int:
        """What the depot has and has coming, less what its sites lack to their levels; what stands above a level is no help to it."""
        held = zip(self.standing.sites, self.standing.under_way, self.levels.sites, strict=True)
        above = sum(max(hand + way - level, 0) for hand, way, level in held)
        return position - above - sum(self.levels.sites)

    @property
    def depot_fill(self) -> float:
        return self.figures.depot.fill

    def fill(self, more: int) -> float:
        """With one part more or less at the depot; less only where it keeps one."""
        if more == 0:
            return self.figures.fill
        return self.curves.fill(max(self.levels.s + more, -1), self.levels.sites)

    def sites(self) -> tuple[SitePlan, ...]:
        moves = {move.go_to: move.quantity for move in loading(self.network, self.levels, self.standing) if move.come_from == DEPOT}
        return tuple(
            SitePlan(
                post.site_id,
                post.free,
                post.coming,
                level,
                figures.fill,
                moves.get(place, 0),
                self._chance(place, post.free + post.coming),
                self._chance(place, level),
                post.share,
            )
            for place, (post, level, figures) in enumerate(zip(self.shelf.outposts, self.levels.sites, self.figures.sites, strict=True))
        )

    def _chance(self, place: int, parts: int) -> float:
        """That more is asked for at a site than it holds, until the boat after the next."""
        if parts < 0:
            return 1.0
        lane = self.network.lanes[place]
        mean = self.network.sites[:, place] * (lane.days + lane.every)
        return float(self.network.weight @ [_beyond(value, parts) for value in mean])


def _beyond(mean: float, parts: int) -> float:
    return float(pdtrc(parts, mean)) if mean > 0 else 0.0


def usable(law: Law, shelf: Shelf, policy: Policy) -> int:
    """The position: a lot that expires before an order of the next review is there counts for the median demand until its day only.

    Parameters
    ----------
    law : of the demand · shelf : holding and lots, the soonest to expire first · policy : lead and review
    """
    position = shelf.holding.available + shelf.holding.on_order
    until = int(policy.lead.days.max()) + max(policy.review_days, 1)
    soon = [lot for lot in shelf.lots if lot.expires_day is not None and lot.expires_day <= until]
    if not soon:
        return position
    days = [max(lot.expires_day or 0, 0) for lot in soon]
    used = counts.quantile(law.reaching(np.zeros(len(days)), days, 0.5), 0.5).tolist()
    kept = 0
    for lot, most in zip(soon, used, strict=True):
        kept += min(lot.quantity, max(int(most) - kept, 0))
    return position - sum(lot.quantity for lot in soon) + kept


def _next_days(law: Law, parts: int, review: int, horizon: int) -> tuple[int | None, ...]:
    """Reviews by which so many parts are asked for with 5, 50 and 95%."""
    days = np.arange(review, max(horizon, review) + 1, review)
    head = law.head(np.zeros(days.size), days, max(parts - 1, 0))
    reached = 1.0 - head[:, :parts].sum(axis=1) if parts > 0 else np.ones(days.size)
    found: list[int | None] = []
    for level in DUE_LEVELS:
        met = np.flatnonzero(reached >= level)
        found.append(int(days[met[0]]) if met.size else None)
    return tuple(found)


def _after_supply(policy: Policy, quantity: int, next_days: tuple[int | None, ...] | None) -> int | None:
    """The day an order is due or likely on which the part is sold no more."""
    day = 0 if quantity > 0 else next_days[1] if next_days else None
    return day if day is not None and not policy.can_order_on(day) else None


def _size(law: Law, policy: Policy, quantity: int, position: int) -> OrderSize:
    """The order, cut to what is used before it expires."""
    life = None
    if policy.shelf_life_days is not None:
        expires = policy.lead.median_days + policy.shelf_life_days
        life = int(counts.quantile(law.reaching([0], [expires], 0.5), 0.5)[0])
    return order_size(quantity, pack=policy.pack, minimum_order=policy.minimum_order, held=max(position, 0), life_demand=life)


def _until_help(law: Law, shelf: Shelf, policy: Policy, of: tuple[Rate, ReorderPolicy, int]) -> tuple[int | None, float, float]:
    """When help comes, and what is risked until then: as things stand, and where an order is placed in time."""
    rate, own, quantity = of
    holding, lead = shelf.holding, policy.lead
    in_time = float(sum(weight * rate.beyond(float(day), max(own.s, 0)) for day, weight in zip(lead.days, lead.weight, strict=True)))
    first = min((arrival.day for arrival in holding.arrivals), default=None)
    if first is not None:
        return first, _runs_out(law, first, holding.available), in_time
    if quantity > 0:
        chance = sum(weight * _runs_out(law, int(day), holding.available) for day, weight in zip(lead.days, lead.weight, strict=True))
        return lead.median_days, float(chance), in_time
    chance = chance_at_rate(rate, own, lead, max(policy.review_days, 1), min(holding.available, own.s + 900))
    return None, chance, max(in_time, chance)


def _runs_out(law: Law, day: int, parts: int) -> float:
    """P(more is asked for by a day than there is)."""
    if parts < 0:
        return 1.0
    return checks.number("chance", float(np.clip(1.0 - law.head([0], [day], parts)[0].sum(), 0.0, 1.0)), low=0.0)
