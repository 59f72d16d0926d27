"""What a log shows beside rates: parts that fail again too soon, and how often nothing was wrong with a part."""

from __future__ import annotations

import math
from dataclasses import dataclass

from scipy.special import betaincinv

from almanac.core import checks

DAYS_A_YEAR = 365.25


def sooner_probability(rate: float, age_days: float) -> float:
    """Probability that a part of a constant rate fails at this age or sooner: 1 - exp(-rate x age).

    Parameters
    ----------
    rate : failures per unit and year, > 0 · age_days : of the part when it failed, >= 0

    Returns
    -------
    float : in [0, 1); small means that something else than the part may be wrong

    Raises
    ------
    ContractError : an argument outside its range

    References
    ----------
    Meeker & Escobar (1998), Statistical Methods for Reliability Data, section 4.4.
    """
    yearly = checks.positive("rate", rate)
    age = checks.number("age_days", age_days, low=0.0)
    return -math.expm1(-yearly * age / DAYS_A_YEAR)


@dataclass(frozen=True)
class Share:
    """A share with its interval, and the counts it rests on."""

    share: float
    low: float
    high: float
    count: int
    total: int


def share_of(count: int, total: int, *, level: float = 0.9) -> Share:
    """A binomial share with Jeffreys' interval.

    Parameters
    ----------
    count : in [0, total] · total : >= 0 · level : of the interval, in (0, 1)

    Returns
    -------
    Share : 0.5 within (0, 1) where nothing was counted

    Raises
    ------
    ContractError : an argument outside its range

    References
    ----------
    Brown, Cai & DasGupta (2001), Interval estimation for a binomial proportion, Statistical Science 16.
    """
    whole = checks.number("total", total, low=0.0)
    part = checks.number("count", count, low=0.0, high=whole)
    tail = (1.0 - checks.probability("level", level)) / 2
    a, b = part + 0.5, whole - part + 0.5
    low = 0.0 if part == 0 else float(betaincinv(a, b, tail))
    high = 1.0 if part == whole else float(betaincinv(a, b, 1 - tail))
    return Share(part / whole if whole else 0.5, low, high, int(part), int(whole))
