"""Parts that fail seldom and have no ages on record: a rate from a handful of draws, and the reorder point that keeps the promise."""

from __future__ import annotations

from dataclasses import dataclass

from almanac.core import checks
from almanac.core.life.rate import RateEstimate, constant_rate
from almanac.core.stock.lead_time import LeadTime
from almanac.core.stock.rates import DoubtedRate
from almanac.core.stock.reorder import Promise, ReorderPolicy, order_quantity, reorder_point, service_of
from almanac.core.stock.review import review_demand

HALF = 0.5
"""Shape of the prior: of a Poisson rate nobody knows anything of."""
YEAR = 365.25


@dataclass(frozen=True)
class Draws:
    """What is on record. drawn : parts · unit_days : that places served · units : places that take the part now"""

    drawn: float
    unit_days: float
    units: float


@dataclass(frozen=True)
class Terms:
    """How a part is bought and promised. order_cost : of a line · holding_cost : of a part a year"""

    lead: LeadTime
    review_days: float
    promise: Promise
    pack: int = 1
    minimum_order: int = 1
    order_cost: float = 0.0
    holding_cost: float = 0.0


@dataclass(frozen=True)
class FewPlan:
    """rate : of a place a year with its exact limits · a_year : parts wanted · fill : requests met at once"""

    rate: RateEstimate
    a_year: float
    policy: ReorderPolicy
    fill: float


def plan_few(draws: Draws, terms: Terms) -> FewPlan | None:
    """The reorder point of a part by its draws alone, the doubt about their rate in it; None where no place ever served a day.

    The rate a day of all places is Gamma(drawn + 1/2, unit days / units): no draw is not a rate of nothing (rule N3).

    Parameters
    ----------
    draws : all >= 0 · terms : review_days > 0

    Raises
    ------
    ContractError : an argument outside its range

    References
    ----------
    Jeffreys (1961), Theory of Probability, section 3.1, for the prior; the reorder point as in `reorder_point`.
    """
    drawn = checks.number("drawn", draws.drawn, low=0.0)
    served = checks.number("unit_days", draws.unit_days, low=0.0)
    units = checks.number("units", draws.units, low=0.0)
    if served == 0.0 or units == 0.0:
        return None
    rate = DoubtedRate(drawn + HALF, served / units)
    demand = review_demand(rate, terms.lead, terms.review_days)
    a_year = rate.mean_per_day * YEAR
    lot = order_quantity(
        a_year,
        pack=terms.pack,
        minimum_order=terms.minimum_order,
        order_cost=terms.order_cost,
        holding_cost=terms.holding_cost,
    )
    policy = ReorderPolicy(reorder_point(demand, lot, terms.promise), lot)
    fill = service_of(demand, policy, terms.review_days).fill
    return FewPlan(constant_rate(drawn, served / YEAR), a_year, policy, fill)
