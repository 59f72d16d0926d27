"""When to order and how much: the reorder point s and the quantity Q that keep a promise."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from almanac.core import checks
from almanac.core.errors import ContractError, NoEstimate
from almanac.core.stock.review import ReviewDemand, at

YEAR_DAYS = 365.0


class Measure(StrEnum):
    """What a promise counts."""

    FILL = "fill"
    READY = "ready"
    CYCLE = "cycle"
    LEAST_COST = "least-cost"


@dataclass(frozen=True)
class Promise:
    """What the company wants of a shelf. target : share in (0, 1); of least cost b / (b + h), the share of days nobody waits"""

    measure: Measure
    target: float


@dataclass(frozen=True)
class ReorderPolicy:
    """Order when the position is s or less, in the fewest lots of Q that bring it above s; at most s + Q."""

    s: int
    lot: int

    @property
    def most(self) -> int:
        """The highest position there is after a review."""
        return self.s + self.lot

    def quantity(self, position: int) -> int:
        """Parts to order at a review, 0 where the position is above s."""
        return 0 if position > self.s else -(-(self.s + 1 - position) // self.lot) * self.lot


@dataclass(frozen=True)
class Service:
    """What a policy gives in the long run; rates are per year of 365 days.

    fill : requests met at once · ready : days with a part on the shelf · cycle : orders during whose lead time nobody is refused
    expected_waiting : machine-days of waiting a year · expected_on_hand : parts · orders_a_year : reviews at which an order leaves
    """

    fill: float
    ready: float
    cycle: float | None
    expected_waiting: float
    expected_on_hand: float
    orders_a_year: float


def order_quantity(
    demand_a_year: float, *, pack: int = 1, minimum_order: int = 1, order_cost: float = 0.0, holding_cost: float = 0.0
) -> int:
    """Q: whole packs, not below the minimum order, of least cost of ordering and holding; one pack where an order costs nothing.

    Parameters
    ----------
    demand_a_year : parts, >= 0 · pack, minimum_order : >= 1 · order_cost : of an order line, >= 0
    holding_cost : of a part a year, >= 0

    Returns
    -------
    int : parts

    Raises
    ------
    ContractError : an argument outside its range, or an order that costs while holding does not: any lot would be too small

    References
    ----------
    Harris (1913); Silver, Pyke & Thomas (2017), Inventory and Production Management in Supply Chains, section 4.2.
    """
    if pack < 1 or minimum_order < 1:
        raise ContractError(f"pack, minimum_order: whole numbers of at least 1 were wanted, got {pack} and {minimum_order}")
    smallest = -(-minimum_order // pack) * pack
    cost, demand = checks.number("order_cost", order_cost, low=0.0), checks.number("demand_a_year", demand_a_year, low=0.0)
    holding = checks.number("holding_cost", holding_cost, low=0.0)
    if cost == 0.0 or demand == 0.0:
        return smallest
    if holding == 0.0:
        raise ContractError("holding, price: above 0 were wanted where an order costs something, or no lot is large enough")
    best = np.sqrt(2.0 * cost * demand / holding)
    lots = {max(smallest, int(best // pack) * pack), max(smallest, (int(best // pack) + 1) * pack)}
    return min(sorted(lots), key=lambda lot: cost * demand / lot + holding * lot / 2.0)


def least_cost(waiting_cost_a_day: float, holding_cost_a_year: float) -> Promise:
    """The promise of least cost: days on which nobody waits, b / (b + h).

    Parameters
    ----------
    waiting_cost_a_day : of a machine that waits, > 0 · holding_cost_a_year : of a part, > 0

    Raises
    ------
    ContractError : an argument outside its range

    References
    ----------
    Zipkin (2000), Foundations of Inventory Management, section 6.5.
    """
    waiting = checks.positive("waiting_cost", waiting_cost_a_day)
    holding = checks.positive("holding_cost", holding_cost_a_year) / YEAR_DAYS
    return Promise(Measure.LEAST_COST, waiting / (waiting + holding))


def reorder_point(demand: ReviewDemand, lot: int, promise: Promise, *, lowest: int = 0) -> int:
    """The smallest s whose mean over s + 1 ... s + Q meets the promise.

    Parameters
    ----------
    demand : around the coming review · Q : lot, >= 1 · promise : measure and target · lowest : 0, or -1 for a depot that only feeds others

    Returns
    -------
    int : s

    Raises
    ------
    ContractError : a target that is no probability
    NoEstimate : a promise no stock keeps

    References
    ----------
    Hadley & Whitin (1963), Analysis of Inventory Systems, section 5.3; Axsater (2015), Inventory Control, section 5.3.
    """
    target = checks.probability("target", promise.target)
    if promise.measure == Measure.CYCLE:
        return _cycle_point(demand, lot, target, lowest)
    values = {Measure.FILL: demand.fill, Measure.READY: demand.ready, Measure.LEAST_COST: demand.nobody_waits}[promise.measure]
    # Past the end of the distribution every request is met.
    padded = np.concatenate((values, np.full(lot + 1, values[-1])))
    total = np.concatenate(([0.0], np.cumsum(padded)))
    means = (total[lot:] - total[:-lot]) / lot
    met = np.flatnonzero(means >= target)
    if met.size == 0:
        raise NoEstimate(f"no stock meets {target:.10g}: the distribution of demand ends before it")
    return max(int(met[0]) - 1, lowest)


def _cycle_point(demand: ReviewDemand, lot: int, target: float, lowest: int) -> int:
    for s in range(lowest, demand.both.size):
        reached = cycle_service(demand, s, lot)
        if reached is not None and reached >= target:
            return s
    raise NoEstimate(f"no stock meets {target:.10g}: the distribution of demand ends before it")


def cycle_service(demand: ReviewDemand, s: int, lot: int) -> float | None:
    """P(nobody is refused between an order and its arrival), over orders: mixed over how far below s a review finds the position.

    Parameters
    ----------
    demand : around a review, with its joint counts · s : reorder point, >= -1 · Q : lot, >= 1

    Returns
    -------
    float : None where no order ever leaves

    Raises
    ------
    ContractError : the joint distribution of the counts is not known
    """
    if demand.joint is None:
        raise ContractError("joint: the counts before and after a review were wanted together")
    size = demand.both.size
    # Met at a position p are the counts up to p; below nothing, none is.
    met = np.concatenate((np.zeros((size, 1)), np.cumsum(demand.joint, axis=1)), axis=1)
    before = demand.joint.sum(axis=1)
    used = np.arange(size)
    ordered = kept = 0.0
    for y in range(s + 1, s + lot + 1):
        found = y - used
        orders = found <= s
        room = np.clip(found[orders] + 1, 0, size)
        ordered += float(before[orders].sum())
        kept += float(met[used[orders], room].sum())
    return min(kept / ordered, 1.0) if ordered > 1e-15 else None


def service_of(demand: ReviewDemand, policy: ReorderPolicy, review_days: float) -> Service:
    """What a policy gives in the long run.

    Parameters
    ----------
    demand : around a review · policy : s and Q · review_days : R, > 0

    Raises
    ------
    ContractError : s below -1
    """
    positions = range(policy.s + 1, policy.most + 1)
    reviews = YEAR_DAYS / checks.positive("review_days", review_days)
    beyond = 1.0 - np.concatenate(([0.0], np.cumsum(demand.review)))
    orders = np.mean([max(at(beyond, y - policy.s), 0.0) for y in positions])
    return Service(
        fill=float(np.mean([at(demand.fill, y) for y in positions])),
        ready=float(np.mean([at(demand.ready, y) for y in positions])),
        cycle=cycle_service(demand, policy.s, policy.lot) if demand.joint is not None else None,
        expected_waiting=float(YEAR_DAYS * np.mean([at(demand.waiting, y) for y in positions])),
        expected_on_hand=float(np.mean([demand.on_hand(y) for y in positions])),
        orders_a_year=float(reviews * orders),
    )
