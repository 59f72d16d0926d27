"""Whether a part is worth keeping at all, and the last buy of one that is sold no more."""

from __future__ import annotations

from dataclasses import dataclass

from almanac.core import checks
from almanac.core.demand import counts
from almanac.core.stock.rates import Rate, count_size


@dataclass(frozen=True)
class Stocking:
    """What a year costs. without : machines wait until each part comes · with_one : one on the shelf is paid for
    waits : requests a year that would wait · days : each of them
    """

    without: float
    with_one: float
    waits: float
    days: float

    @property
    def worth_it(self) -> bool:
        """Whether keeping one costs less."""
        return self.with_one <= self.without


def stocking(wanted_a_year: float, days: float, waiting_cost: float, holding_cost: float) -> Stocking:
    """Buying when needed beside keeping one.

    Parameters
    ----------
    wanted_a_year : requests, >= 0 · days : until a part that is bought when needed is there, >= 0
    waiting_cost : of a machine that waits a day, >= 0 · holding_cost : of a part a year, >= 0

    Raises
    ------
    ContractError : an argument outside its range

    References
    ----------
    Silver, Pyke & Thomas (2017), Inventory and Production Management in Supply Chains, section 8.5.
    """
    wanted, each = checks.number("wanted_a_year", wanted_a_year, low=0.0), checks.number("days", days, low=0.0)
    waiting, holding = checks.number("waiting_cost", waiting_cost, low=0.0), checks.number("holding_cost", holding_cost, low=0.0)
    return Stocking(wanted * each * waiting, holding, wanted, each)


@dataclass(frozen=True)
class LastBuy:
    """Parts wanted for good (mean, and the count that suffices with the chance asked for), what there is, and what to buy."""

    expected: float
    enough: int
    there: int
    quantity: int


def last_buy(rate: Rate, days: float, chance: float, there: int, *, pack: int = 1) -> LastBuy:
    """How many to buy on the last day a part is sold.

    Parameters
    ----------
    rate : of the requests of the units in service of today, per day · days : unit-days still to come, over those units
    chance : that the parts suffice, in (0, 1) · there : position, and tested recovered parts that come before they are needed
    pack : parts, >= 1

    Raises
    ------
    ContractError : an argument outside its range

    References
    ----------
    Teunter & Fortuin (1999), European Journal of Operational Research 119, on the final order; exact count at a gamma rate.
    """
    level = checks.probability("chance", chance)
    left = checks.number("days", days, low=0.0)
    if left == 0:
        return LastBuy(0.0, 0, there, 0)
    pmf = rate.pmf([left], count_size(rate, left))
    enough = int(counts.quantile(pmf, level)[0])
    short = max(enough - there, 0)
    return LastBuy(rate.mean_per_day * left, enough, there, -(-short // pack) * pack)
