"""Stock levels and what each one achieves, for a given distribution of demand over the protection interval."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike
from scipy.special import gammaln, pdtr

from almanac.core import checks
from almanac.core.errors import ContractError

TAIL = 1e-15


@dataclass(frozen=True)
class Demand:
    """Probabilities of 0 .. n-1 parts; `gamma_shape` and `success` are known where it is a gamma-mixed Poisson."""

    pmf: checks.Floats
    poisson_mean: float | None = None
    gamma_shape: float | None = None
    success: float | None = None


@dataclass(frozen=True)
class LevelFigures:
    """What holding S parts achieves."""

    level: int
    cycle_service: float
    ready_rate: float
    fill_rate: float | None
    expected_backorders: float
    expected_on_hand: float


def poisson_demand(mean: float) -> Demand:
    """Poisson demand of the given mean (>= 0), cut where the tail is below 1e-15; raises ContractError."""
    value = checks.number("mean", mean, low=0.0)
    n = np.arange(int(value + 12 * np.sqrt(value) + 40))
    log_mean = np.log(value) if value > 0 else 0.0
    pmf = np.exp(n * log_mean - value - gammaln(n + 1.0)) if value > 0 else (n == 0).astype(float)
    return Demand(pmf, poisson_mean=value)


def negative_binomial_demand(mean: float, variance_to_mean: float) -> Demand:
    """Gamma-mixed Poisson demand; a ratio of 1 is Poisson.

    Parameters
    ----------
    mean : > 0 · variance_to_mean : >= 1

    Returns
    -------
    Demand : shape a = mean / (v - 1), success probability 1 / v

    Raises
    ------
    ContractError : an argument is outside the ranges above

    References
    ----------
    Sherbrooke (2004), Optimal Inventory Modeling of Systems, section 4.3.
    """
    value = checks.positive("mean", mean)
    ratio = checks.number("variance_to_mean", variance_to_mean, low=1.0)
    if ratio == 1.0:
        return poisson_demand(value)
    shape, success = value / (ratio - 1.0), 1.0 / ratio
    size = int(value + 20 * np.sqrt(value * ratio) + 40 * ratio + 40)
    n = np.arange(size)
    log_pmf = gammaln(shape + n) - gammaln(shape) - gammaln(n + 1.0) + shape * np.log(success) + n * np.log1p(-success)
    return Demand(np.exp(log_pmf), gamma_shape=shape, success=success)


def given_demand(pmf: ArrayLike) -> Demand:
    """Demand from its probabilities (non-negative, adding up to 1 within 1e-6); raises ContractError."""
    values = checks.vector("pmf", pmf, low=0.0, high=1.0)
    if abs(values.sum() - 1.0) > 1e-6:
        raise ContractError(f"pmf: probabilities adding up to 1 were wanted, got {values.sum():.9g}")
    return Demand(values)


def _fill_rate(demand: Demand, level: int) -> float | None:
    """Share of requests met at once under one-for-one replenishment (Palm; PASTA)."""
    if level == 0:
        return 0.0 if demand.poisson_mean is not None or demand.gamma_shape is not None else None
    if demand.poisson_mean is not None:
        return float(pdtr(level - 1, demand.poisson_mean)) if demand.poisson_mean > 0 else 1.0
    if demand.gamma_shape is not None and demand.success is not None:
        n = np.arange(level)
        shape = demand.gamma_shape + 1.0
        log_pmf = gammaln(shape + n) - gammaln(shape) - gammaln(n + 1.0) + shape * np.log(demand.success) + n * np.log1p(-demand.success)
        return float(np.exp(log_pmf).sum())
    return None


def figures(demand: Demand, level: int) -> LevelFigures:
    """Service of a stock level S.

    Parameters
    ----------
    demand : distribution over the protection interval
    level : S, >= 0

    Returns
    -------
    LevelFigures : cycle service P(D <= S), ready rate P(D <= S - 1), expected backorders E[(D - S)+] and on hand E[(S - D)+]

    Raises
    ------
    ContractError : a negative level

    References
    ----------
    Axsater (2015), Inventory Control, section 5.3.
    """
    if level < 0:
        raise ContractError(f"level: a whole number of at least 0 was wanted, got {level}")
    n = np.arange(demand.pmf.size)
    on_hand = float((demand.pmf * np.maximum(level - n, 0)).sum())
    short = float((demand.pmf * np.maximum(n - level, 0)).sum())
    served = float(min(demand.pmf[: level + 1].sum(), 1.0))
    ready = float(min(demand.pmf[:level].sum(), 1.0))
    return LevelFigures(level, served, ready, _fill_rate(demand, level), short, on_hand)


def cycle_service_level(pmf: checks.Floats, target: float) -> int:
    """Smallest S with P(D <= S) >= target; the probability is never rounded first (rule N4).

    Parameters
    ----------
    pmf : (n,) probabilities · target : in (0, 1)

    Returns
    -------
    int : parts

    Raises
    ------
    ContractError : the target is not a probability, or the distribution ends before it

    References
    ----------
    Silver, Pyke & Thomas (2017), Inventory and Production Management in Supply Chains, section 6.7.
    """
    goal = checks.probability("target", target)
    served = np.cumsum(pmf)
    reached = np.flatnonzero(served >= goal)
    if reached.size == 0:
        raise ContractError(f"target: the distribution ends at {served[-1]:.12g}, before {goal}")
    return int(reached[0])


def fill_rate_level(demand: Demand, target: float) -> int:
    """Smallest S whose fill rate under one-for-one replenishment reaches the target.

    Parameters
    ----------
    demand : Poisson or gamma-mixed Poisson over the lead time · target : in (0, 1)

    Returns
    -------
    int : parts

    Raises
    ------
    ContractError : a plain pmf, which does not tell when parts are asked for, or a target never reached

    References
    ----------
    Palm's theorem and PASTA: Sherbrooke (2004), Optimal Inventory Modeling of Systems, chapter 2.
    """
    goal = checks.probability("target", target)
    for level in range(demand.pmf.size):
        reached = _fill_rate(demand, level)
        if reached is None:
            raise ContractError("demand: a Poisson or negative-binomial demand was wanted for a fill rate")
        if reached >= goal:
            return level
    raise ContractError(f"target: {goal} is not reached on the grid")


def period_fill_rate(lead: ArrayLike, review: ArrayLike, level: int) -> float:
    """Share of the review period's demand met at once: 1 - (E[(D(L+R) - S)+] - E[(D(L) - S)+]) / E[D(R)].

    Parameters
    ----------
    lead, review : (n,) and (m,) probabilities of the demand over the lead time and over the review period
    level : S, >= 0

    Returns
    -------
    float : in [0, 1]; 1.0 where nothing is asked for

    Raises
    ------
    ContractError : an argument is outside the ranges above

    References
    ----------
    Silver, Pyke & Thomas (2017), Inventory and Production Management in Supply Chains, section 6.9.
    """
    over_lead, over_review = given_demand(lead).pmf, given_demand(review).pmf
    wanted = float(over_review @ np.arange(over_review.size))
    if wanted == 0.0:
        return 1.0
    both = Demand(np.convolve(over_lead, over_review))
    missed = figures(both, level).expected_backorders - figures(Demand(over_lead), level).expected_backorders
    return 1.0 - missed / wanted
