"""When the next order is likely, as a distribution, and what the shelf risks until it arrives."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from almanac.core import checks
from almanac.core.errors import ContractError
from almanac.core.stock.lead_time import LeadTime
from almanac.core.stock.rates import KnownRate, Rate, count_size
from almanac.core.stock.reorder import ReorderPolicy

LATEST_DAYS = 365.0 * 200
"""An order that is not due by then is not due."""
DUE_LEVELS = (0.05, 0.5, 0.95)


@dataclass(frozen=True)
class Due:
    """The next order. due : now · quantity : of an order of today · days : until it is likely, 5, 50 and 95%; None where it may never be

    chance_of_waiting : that somebody waits before the next order's parts arrive
    """

    due: bool
    quantity: int
    days: tuple[float | None, ...] | None
    chance_of_waiting: float


def next_order(rate: Rate, policy: ReorderPolicy, lead: LeadTime, review_days: float, position: int) -> Due:
    """The next order of a shelf that is reviewed today.

    Parameters
    ----------
    rate : known or doubted · policy : s and Q · lead : of the supplier · review_days : R, > 0
    position : usable on hand and coming, less what is owed and promised; may be below 0

    Returns
    -------
    Due

    Raises
    ------
    ContractError : an argument outside its range
    """
    period = checks.positive("review_days", review_days)
    if position <= policy.s:
        return Due(True, policy.quantity(position), None, _waits(rate, lead, position))
    days = tuple(_day(rate, position - policy.s, period, level) for level in DUE_LEVELS)
    return Due(False, 0, days, chance_of_waiting(rate, policy, lead, period, position))


def _day(rate: Rate, parts: int, period: float, level: float) -> float | None:
    """The first review by which so many parts are asked for with a chance."""
    reviews = 1
    while rate.beyond(reviews * period, parts - 1) < level:
        reviews *= 2
        if reviews * period > LATEST_DAYS:
            return None
    low, high = reviews // 2, reviews
    while high - low > 1:
        middle = (low + high) // 2
        low, high = (low, middle) if rate.beyond(middle * period, parts - 1) >= level else (middle, high)
    return high * period


def _waits(rate: Rate, lead: LeadTime, position: int) -> float:
    """P(more is asked for during the lead time than a position holds)."""
    if position < 0:
        return 1.0
    return float(sum(weight * rate.beyond(float(days), position) for days, weight in zip(lead.days, lead.weight, strict=True)))


def chance_of_waiting(rate: Rate, policy: ReorderPolicy, lead: LeadTime, review_days: float, position: int) -> float:
    """P(somebody waits before the parts of the next order arrive), whenever a review finds it due.

    At a known rate the position falls from review to review; h(v) = sum_k P(D(R) = k | D(R) > 0) h(v - k) above s, and at or below
    s the chance that the lead time's requests pass it. Mixed over the nodes of a doubted rate.

    Parameters
    ----------
    as for `next_order`

    Raises
    ------
    ContractError : a position a thousand and more above s
    """
    if position - policy.s > 1000:
        raise ContractError(f"position: less than 1,000 above s was wanted, got {position}")
    rates, weights = rate.nodes()
    found = np.array([_chance_at(float(per_day), policy.s, lead, review_days, position) for per_day in rates])
    return float(np.clip(weights @ found, 0.0, 1.0))


def _chance_at(per_day: float, s: int, lead: LeadTime, review_days: float, position: int) -> float:
    rate = KnownRate(per_day)
    size = max(count_size(rate, review_days), position - s + 2)
    asked = rate.pmf([review_days], size)[0]
    some = 1.0 - asked[0]
    if position <= s or some <= 0.0:
        return _waits(rate, lead, position)
    below = np.array([_waits(rate, lead, s - k) for k in range(size)])
    step = asked[1:] / some
    chance = np.zeros(position - s + 1)
    for above in range(1, position - s + 1):
        stays = step[: above - 1] @ chance[above - 1 : 0 : -1]
        falls = step[above - 1 :] @ below[: step.size - above + 1]
        chance[above] = stays + falls
    return float(chance[-1])
