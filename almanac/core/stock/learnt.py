"""Lead time as deliveries taught it: what the supplier states, weighed against days on record, orders not yet there among them."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from almanac.core import checks
from almanac.core.errors import ContractError
from almanac.core.stock.lead_time import LeadTime, lead_time

STATED_WEIGHT = 5.0
"""What a supplier states weighs as many deliveries as this."""
HALF_LIFE_DAYS = 365.0
"""A delivery a year older weighs half: suppliers change."""
POINTS = 6
"""Days a learnt lead time is told by; more would say nothing more and cost every computation that mixes over them."""


@dataclass(frozen=True)
class Delivery:
    """One delivery, or what of an order is not there yet.

    days : from placing to arriving; of an open one days gone so far · share : of its order, 0 to 1 · open : not there yet
    age_days : since it arrived, 0 for an open one
    """

    days: int
    share: float = 1.0
    open: bool = False
    age_days: int = 0


@dataclass(frozen=True)
class Learnt:
    """law : of the lead time to compute with · deliveries : that had a say · late : open ones past every stated day"""

    law: LeadTime
    deliveries: int
    late: int


def learn(stated: LeadTime, seen: Sequence[Delivery], *, weight: float = STATED_WEIGHT, half_life: float = HALF_LIFE_DAYS) -> Learnt:
    """The lead time after what was seen: mean of a Dirichlet process centred on the stated one.

    An arrival adds its weight to its day. An order not yet there is right-censored: its weight goes to the later days in proportion
    to what they have (the product-limit form does exactly that). Where none is known beyond, it is taken for tomorrow's arrival: the
    least that can be true.

    Parameters
    ----------
    stated : the supplier's own word, worth `weight` deliveries, > 0
    seen : deliveries; each weighs its share, halved every `half_life` days, > 0

    Returns
    -------
    Learnt : of at most six days

    Raises
    ------
    ContractError : days or ages below 0, shares outside 0 to 1, a weight or half life not above 0

    References
    ----------
    Ferguson (1973), A Bayesian analysis of some nonparametric problems; Kaplan & Meier (1958), Nonparametric estimation from
    incomplete observations; Susarla & Van Ryzin (1976) for the two together; Efron (1967) for the redistribution to the right.
    """
    checks.positive("weight", weight)
    checks.positive("half_life", half_life)
    for one in seen:
        checks.number("days", one.days, low=0.0)
        checks.number("age_days", one.age_days, low=0.0)
        checks.number("share", one.share, low=0.0, high=1.0)
    said = [one for one in seen if one.share > 0]
    mass = _summed((int(day), weight * float(share)) for day, share in zip(stated.days, stated.weight, strict=True))
    for day, share in _summed((one.days, one.share * 0.5 ** (one.age_days / half_life)) for one in said if not one.open).items():
        mass[day] += share
    waited = _summed((one.days, one.share) for one in said if one.open)
    late = sum(one.open and one.days >= int(stated.days[-1]) for one in said)
    return Learnt(condensed(_spread(mass, waited), POINTS), sum(not one.open for one in said), late)


def _summed(pairs: Iterable[tuple[int, float]]) -> defaultdict[int, float]:
    found: defaultdict[int, float] = defaultdict(float)
    for day, share in pairs:
        found[day] += share
    return found


def _spread(mass: Mapping[int, float], waited: Mapping[int, float]) -> LeadTime:
    """The product-limit law of what arrived and what is waited for; who waits past every known day is taken to arrive tomorrow."""
    last = max(mass)
    events = _summed([*mass.items(), *((gone + 1, share) for gone, share in waited.items() if gone >= last)])
    open_now = {gone: share for gone, share in waited.items() if gone < last}
    found, left = {}, 1.0
    for day in sorted(day for day, share in events.items() if share > 0):
        at_risk = sum(share for later, share in events.items() if later >= day)
        at_risk += sum(share for gone, share in open_now.items() if gone >= day)
        found[day] = left * events[day] / at_risk
        left -= found[day]
    return _law(found)


def _law(mass: Mapping[int, float]) -> LeadTime:
    """Shares by day as a law; summed floats may pass 1 by their last digit."""
    shares = np.array(list(mass.values()))
    return lead_time(list(mass), np.minimum(shares / shares.sum(), 1.0))


def condensed(law: LeadTime, points: int) -> LeadTime:
    """A lead time on fewer days: neighbours that differ least are taken together at their mean, rounded up, until `points` are left.

    Parameters
    ----------
    law : any · points : days to keep, >= 1

    Returns
    -------
    LeadTime : its mean at most a day above that of `law`, never below

    Raises
    ------
    ContractError : fewer than one point
    """
    if points < 1:
        raise ContractError(f"points: at least 1 was wanted, got {points}")
    days, weight = [float(day) for day in law.days], [float(share) for share in law.weight]
    while len(days) > points:
        cost = [weight[i] * weight[i + 1] / (weight[i] + weight[i + 1]) * (days[i + 1] - days[i]) ** 2 for i in range(len(days) - 1)]
        at = int(np.argmin(cost))
        both = weight[at] + weight[at + 1]
        days[at] = (days[at] * weight[at] + days[at + 1] * weight[at + 1]) / both
        weight[at] = both
        del days[at + 1], weight[at + 1]
    merged = _summed((int(np.ceil(day - 1e-9)), share) for day, share in zip(days, weight, strict=True))
    return _law(merged)
