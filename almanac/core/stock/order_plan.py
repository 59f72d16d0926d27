"""When to order and how much: the order-by day, the quantity for that day, and the state of the shelf."""

from __future__ import annotations

from dataclasses import dataclass, replace
from enum import StrEnum
from functools import partial

import numpy as np

from almanac.core import checks
from almanac.core.demand import counts
from almanac.core.errors import ContractError
from almanac.core.stock import levels
from almanac.core.stock.lead_time import LeadTime
from almanac.core.stock.path import Arrival, Holding, Law, chance_below, guessed_chance_below
from almanac.core.stock.quantity import OrderSize, order_size


class State(StrEnum):
    """short: order by today, or late · thin: order by a day within the review period · covered: otherwise."""

    SHORT = "short"
    THIN = "thin"
    COVERED = "covered"


@dataclass(frozen=True)
class Policy:
    """What the company decided and what the supplier sells."""

    target: float
    review_days: int
    lead: LeadTime
    pack: int = 1
    minimum_order: int = 1
    shelf_life_days: int | None = None


@dataclass(frozen=True)
class OrderPlan:
    """The next order of a part.

    order_day : days after the as-of day, None when nothing is due within the horizon · late : even today is too late
    chance_if_today : P(below the floor before an order placed today arrives) · level : S for the order day
    position : median inventory position on that day · size : the quantity and how it came about
    """

    state: State
    order_day: int | None
    late: bool
    chance_if_today: float
    level: int | None
    position: int | None
    size: OrderSize | None

    @property
    def size_quantity(self) -> int:
        """Parts to order on the order day; 0 when nothing is due or nothing is needed at median demand."""
        return self.size.quantity if self.size else 0


def chance_before_arrival(law: Law, holding: Holding, lead: LeadTime, order_days: list[int], since_day: int = -1) -> checks.Floats:
    """P(path below the floor at any time before an order placed on each day arrives), mixed over the lead time."""
    ends = np.array(order_days, dtype=np.int64)[:, None] + lead.days[None]
    chance = chance_below(law, holding, ends.ravel(), since_day=since_day).reshape(ends.shape)
    return np.asarray(chance @ lead.weight)


@dataclass(frozen=True)
class OrderDay:
    """The last day to order: `day` is None where nothing is due within the horizon; `late` where even today is too late."""

    day: int | None
    late: bool
    chance_if_today: float

    def windows(self, policy: Policy) -> list[tuple[int, int]]:
        """Windows of demand (start, end] by which the order of that day is sized, beyond what its day was found by."""
        if self.day is None:
            return []
        ends = [self.day + int(lead) + policy.review_days for lead in policy.lead.days]
        if policy.shelf_life_days is not None:
            ends.append(self.day + policy.lead.median_days + policy.shelf_life_days)
        return [(self.day, end) for end in ends]


def order_day(law: Law, holding: Holding, policy: Policy, *, horizon_days: int, since_day: int = -1) -> OrderDay:
    """The last day to order such that the floor holds with the target's chance until the parts arrive.

    Parameters
    ----------
    As of `plan_order`.

    Returns
    -------
    OrderDay

    Raises
    ------
    ContractError : an argument is outside its range
    """
    risk = 1.0 - checks.probability("target", policy.target)
    if horizon_days < policy.review_days:
        raise ContractError(f"horizon_days: at least the review period of {policy.review_days} days was wanted, got {horizon_days}")
    found = _Search(law, holding, policy.lead, risk, since_day).run(horizon_days)
    if found.chance_today > risk:
        return OrderDay(0, True, found.chance_today)
    return OrderDay(None if found.last_good == horizon_days else found.last_good, False, found.chance_today)


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
    due : what `order_day` says, where it was asked before

    Returns
    -------
    OrderPlan : order day 0 with `late` set when the target is missed whatever is ordered today. The quantity is S less the
    median position on the order day, in packs; where that is nothing although an order is due, the smallest order

    Raises
    ------
    ContractError : an argument is outside the ranges above

    References
    ----------
    Silver, Pyke & Thomas (2017), Inventory and Production Management in Supply Chains, sections 6.7 and 6.9.
    """
    found = due or order_day(law, holding, policy, horizon_days=horizon_days, since_day=since_day)
    if found.day is None:
        return OrderPlan(State.COVERED, None, False, found.chance_if_today, None, None, None)
    by_day = State.THIN if found.day <= policy.review_days else State.COVERED
    state = State.SHORT if found.day == 0 else by_day
    return _sized(law, holding, policy, state, found.day, late=found.late, chance=found.chance_if_today)


@dataclass
class _Search:
    """The last day that keeps the risk: a guess from two moments says where to look, exact chances decide."""

    law: Law
    holding: Holding
    lead: LeadTime
    risk: float
    since_day: int
    chance_today: float = 1.0
    last_good: int = -1
    first_bad: int | None = None

    def run(self, horizon: int) -> _Search:
        guess = self._guess(horizon)
        self._look({0, guess - 2, guess, guess + 1, guess + 3, horizon if guess >= horizon else 0}, horizon)
        step = 8
        while self.chance_today <= self.risk and self.first_bad is None and self.last_good < horizon:
            self._look({self.last_good + step, self.last_good + 4 * step, horizon if step > 8 else 0}, horizon)
            step *= 8
        while self.first_bad is not None and self.first_bad - self.last_good > 1 and self.chance_today <= self.risk:
            gap = self.first_bad - self.last_good
            stride = max(gap // 8, 1)
            self._look(set(range(self.last_good + stride, self.first_bad, stride)), horizon)
        return self

    def _guess(self, horizon: int) -> int:
        """Last day whose guessed chance keeps the risk; days are guessed every third one."""
        days = np.arange(0, horizon + 1, 3)
        ends = days[:, None] + self.lead.days[None]
        chance = guessed_chance_below(self.law, self.holding, ends.ravel(), since_day=self.since_day).reshape(ends.shape) @ self.lead.weight
        good = np.flatnonzero(chance <= self.risk)
        return horizon if good.size == days.size else int(days[good[-1]]) if good.size else 0

    def _look(self, days: set[int], horizon: int) -> None:
        """Exact chances on some days. They never fall from one day to the next, so each answer bounds the rest."""
        looks = sorted(day for day in days if 0 <= day <= horizon)
        chances = chance_before_arrival(self.law, self.holding, self.lead, looks, self.since_day)
        for day, chance in zip(looks, chances, strict=True):
            if day == 0:
                self.chance_today = float(chance)
            if chance <= self.risk:
                self.last_good = max(self.last_good, day)
            elif self.first_bad is None or day < self.first_bad:
                self.first_bad = day


def _sized(law: Law, holding: Holding, policy: Policy, state: State, day: int, *, late: bool, chance: float) -> OrderPlan:
    """S over (day, day + L + R] mixed over the lead time, less the median position on the day, in packs and within shelf life."""
    ends = day + policy.lead.days + policy.review_days
    pmf = law.reaching([0, *[day] * ends.size], [day, *ends], policy.target)
    level = levels.cycle_service_level(policy.lead.weight @ pmf[1:], policy.target)
    used = int(counts.quantile(pmf[:1], 0.5)[0])
    life_demand = None
    if policy.shelf_life_days is not None:
        expires = day + policy.lead.median_days + policy.shelf_life_days
        life_demand = int(counts.quantile(law.reaching([day], [expires], 0.5), 0.5)[0])
    position = holding.available + holding.on_order - used
    size = partial(
        order_size,
        pack=policy.pack,
        minimum_order=policy.minimum_order,
        held=max(position, 0),
        life_demand=life_demand,
    )
    needed = level - position
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


def plan_year(law: Law, holding: Holding, policy: Policy, *, horizon_days: int, most: int = 60) -> list[PlannedOrder]:
    """The orders of the coming months, each planned as if those before it were confirmed at the median lead time.

    Parameters
    ----------
    law, holding, policy : as for plan_order · horizon_days : days · most : orders to stop at, >= 1

    Returns
    -------
    list of PlannedOrder : in order of day. Where the order-by day needs nothing at median demand, the plan looks again
    every review period

    Raises
    ------
    ContractError : an argument is outside the ranges above
    """
    orders: list[PlannedOrder] = []
    now, since = holding, -1
    while len(orders) < most:
        plan = plan_order(law, now, policy, horizon_days=horizon_days, since_day=since)
        if plan.order_day is None or plan.size is None:
            return orders
        day, quantity = plan.order_day, plan.size.quantity
        while quantity == 0:
            day += max(policy.review_days, 1)
            if day >= horizon_days:
                return orders
            quantity = _sized(law, now, policy, plan.state, day, late=False, chance=plan.chance_if_today).size_quantity
        order = PlannedOrder(day, day + max(policy.lead.median_days, 1), quantity)
        orders.append(order)
        since = order.arrives_day
        arrivals = sorted((*now.arrivals, Arrival(order.arrives_day, order.quantity)), key=lambda arrival: arrival.day)
        now = Holding(now.available, tuple(arrivals), now.floor)
    return orders
