"""When to order and how much: the order-by day, the quantity for that day, and the state of the shelf."""

from __future__ import annotations

from dataclasses import dataclass, replace
from enum import StrEnum
from functools import partial

from almanac.core.demand import counts
from almanac.core.errors import ContractError
from almanac.core.stock import levels
from almanac.core.stock.order_day import OrderChances, OrderDay
from almanac.core.stock.path import Arrival, Holding, Law
from almanac.core.stock.policy import Policy
from almanac.core.stock.quantity import OrderSize, order_size


class State(StrEnum):
    """short: order by today, or late · thin: order by a day within the review period · covered: otherwise."""

    SHORT = "short"
    THIN = "thin"
    COVERED = "covered"


@dataclass(frozen=True)
class OrderPlan:
    """The next order of a part.

    order_day : days after the as-of day, None when nothing is due within the horizon · late : even today is too late
    chance_if_today : P(below the floor before an order placed today arrives) · level : S for the order day
    position : median inventory position on that day · size : the quantity and how it came about
    due_after_supply : day on which an order would be due that nobody can place any more; then there is no order day
    """

    state: State
    order_day: int | None
    late: bool
    chance_if_today: float
    level: int | None
    position: int | None
    size: OrderSize | None
    due_after_supply: int | None = None

    @property
    def size_quantity(self) -> int:
        """Parts to order on the order day; 0 when nothing is due or nothing is needed at median demand."""
        return self.size.quantity if self.size else 0


def plan_order(
    law: Law, holding: Holding, policy: Policy, *, horizon_days: int, since_day: int = -1, due: OrderDay | None = None
) -> OrderPlan:
    """Last day to order such that the floor holds with the target's chance until the parts arrive.

    Parameters
    ----------
    law : distribution of demand; its own horizon reaches past horizon_days + lead time + review (+ shelf life)
    holding : available stock, confirmed arrivals and the floor
    policy : target, review period, lead time, pack, shelf life
    horizon_days : how far ahead an order day is looked for, >= the review period
    since_day : moments up to this day are past mending (an order of the plan arrives then)
    due : what `OrderChances.last_day` says, where it was asked before

    Returns
    -------
    OrderPlan : order day 0 with `late` set when the target is missed whatever is ordered today. The quantity is S and the floor
    less the median position on the order day, in packs; where that is nothing although an order is due, the smallest order

    Raises
    ------
    ContractError : an argument is outside the ranges above

    References
    ----------
    Silver, Pyke & Thomas (2017), Inventory and Production Management in Supply Chains, sections 6.7 and 6.9.
    """
    if horizon_days < policy.review_days:
        raise ContractError(f"horizon_days: at least the review period of {policy.review_days} days was wanted, got {horizon_days}")
    found = due or OrderChances(law, holding, policy.lead, since_day).last_day(policy.target, horizon_days)
    if found.day is None:
        return OrderPlan(State.COVERED, None, False, found.chance_if_today, None, None, None)
    by_day = State.THIN if found.day <= policy.review_days else State.COVERED
    state = State.SHORT if found.day == 0 else by_day
    if not policy.can_order_on(found.day):
        return OrderPlan(state, None, found.late, found.chance_if_today, None, None, None, due_after_supply=found.day)
    return _sized(law, holding, policy, state, found.day, late=found.late, chance=found.chance_if_today)


def _sized(law: Law, holding: Holding, policy: Policy, state: State, day: int, *, late: bool, chance: float) -> OrderPlan:
    """S over (day, day + L + R] mixed over the lead time, on top of the floor, less the median position on the day, in packs and within
    shelf life: what keeps the path at the floor over that time with the target's chance."""
    ends = day + policy.lead.days + policy.review_days
    level = levels.cycle_service_level(policy.lead.weight @ law.sliding(day, ends, policy.target), policy.target)
    used = int(counts.quantile(law.reaching([0], [day], 0.5), 0.5)[0])
    life_demand = None
    if policy.shelf_life_days is not None:
        expires = day + policy.lead.median_days + policy.shelf_life_days
        life_demand = int(counts.quantile(law.sliding(day, [expires], 0.5), 0.5)[0])
    position = holding.available + holding.on_order - used
    size = partial(
        order_size,
        pack=policy.pack,
        minimum_order=policy.minimum_order,
        held=max(position, 0),
        life_demand=life_demand,
    )
    needed = level + holding.floor - position
    if needed <= 0 and not late:
        # At median demand nothing is needed that day, but without any order the target would be missed: the smallest one.
        return OrderPlan(state, day, late, chance, level, position, replace(size(1), needed=0))
    return OrderPlan(state, day, late, chance, level, position, size(needed))


@dataclass(frozen=True)
class PlannedOrder:
    """One order of the plan: placed on a day, expected on another."""

    day: int
    arrives_day: int
    quantity: int


def plan_year(
    law: Law, holding: Holding, policy: Policy, *, horizon_days: int, most: int = 60, first: OrderPlan | None = None
) -> list[PlannedOrder]:
    """The orders of the coming months, each planned as if those before it were confirmed at the median lead time.

    Parameters
    ----------
    law, holding, policy : as for plan_order · horizon_days : days · most : orders to stop at, >= 1
    first : the plan of the first order where it was made already

    Returns
    -------
    list of PlannedOrder : in order of day, none after the end of supply. Where the shelf is late but enough is on its way, the plan
    looks on from its arrival

    Raises
    ------
    ContractError : an argument is outside the ranges above
    """
    orders: list[PlannedOrder] = []
    now, since = holding, -1
    while len(orders) < most:
        plan = first or plan_order(law, now, policy, horizon_days=horizon_days, since_day=since)
        first = None
        if plan.order_day is None or plan.size is None:
            return orders
        if plan.size.quantity == 0:
            # Late, though what is on its way is enough once it is here: until then there is nothing that an order mends.
            since = min((arrival.day for arrival in now.arrivals if arrival.day > since), default=horizon_days)
            continue
        order = PlannedOrder(plan.order_day, plan.order_day + max(policy.lead.median_days, 1), plan.size.quantity)
        orders.append(order)
        since = order.arrives_day
        arrivals = sorted((*now.arrivals, Arrival(order.arrives_day, order.quantity)), key=lambda arrival: arrival.day)
        now = Holding(now.available, tuple(arrivals), now.floor)
    return orders
