"""Pools with few failures borrow from their kind: the gamma-Poisson model of a constant rate.

Failures of pool p are Poisson(lambda_p T_p) with lambda_p ~ Gamma(shape a, rate b); m = a / b is the kind's mean rate.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike
from scipy.optimize import brentq
from scipy.special import digamma, gammaln

from almanac.core import checks
from almanac.core.errors import ContractError

LARGEST_SHAPE = 1e4
"""Where a reaches this, the pools are alike and the kind is pooled."""
SMALLEST_SHAPE = 1e-3


@dataclass(frozen=True)
class GammaPrior:
    """Gamma(shape, rate) over the pool rates of a kind. `loglik` is None where the prior was given or nothing failed."""

    shape: float
    rate: float
    loglik: float | None
    boundary: bool = False
    no_failures: bool = False

    @property
    def mean(self) -> float:
        return self.shape / self.rate


@dataclass(frozen=True)
class PoolPosterior:
    """Gamma(shape, rate) of each pool's rate: (p,) arrays."""

    shape: checks.Floats
    rate: checks.Floats

    @property
    def mean(self) -> checks.Floats:
        return np.asarray(self.shape / self.rate, dtype=np.float64)


def pool_arrays(failures: ArrayLike, exposure: ArrayLike) -> tuple[checks.Floats, checks.Floats]:
    """Checked failures D and exposure T of the pools; raises ContractError, also for a failure without exposure."""
    count = checks.vector("failures", failures, low=0.0)
    time = checks.vector("exposure", exposure, low=0.0, size=count.size)
    impossible = (time == 0.0) & (count > 0.0)
    if impossible.any():
        raise ContractError(f"exposure[{int(np.flatnonzero(impossible)[0])}]: failures without time in service")
    return count, time


def log_marginal(shape: float, rate: float, failures: checks.Floats, exposure: checks.Floats) -> float:
    """Log marginal of (a, b) up to a constant: sum of lnG(a+D) - lnG(a) + a ln b - (a+D) ln(b+T)."""
    gained = gammaln(shape + failures) - gammaln(shape)
    return float((gained - shape * np.log1p(exposure / rate) - failures * np.log(rate + exposure)).sum())


def count_loglik(shape: float, rate: float, failures: ArrayLike, exposure: ArrayLike) -> float:
    """Sum of negative-binomial log probabilities of the pools' counts.

    Parameters
    ----------
    shape, rate : a > 0 and b > 0 of the gamma
    failures, exposure : (p,) D >= 0 and T >= 0

    Returns
    -------
    float : log likelihood

    Raises
    ------
    ContractError : an argument is outside the ranges above

    References
    ----------
    Carlin & Louis (2000), Bayes and Empirical Bayes Methods for Data Analysis, section 3.3.
    """
    count, time = pool_arrays(failures, exposure)
    a, b = checks.positive("shape", shape), checks.positive("rate", rate)
    scale = np.where(count > 0, count * np.log(np.where(time > 0, time, 1.0)), 0.0) - gammaln(count + 1.0)
    return log_marginal(a, b, count, time) + float(scale.sum())


def best_rate(shape: float, failures: checks.Floats, exposure: checks.Floats) -> float:
    """The b that maximises the marginal at fixed a: the root of sum a/b - (a+D)/(b+T), sought in log b."""

    def score(log_rate: float) -> float:
        rate = np.exp(log_rate)
        return float((shape * exposure - failures * rate).dot(1.0 / (rate + exposure)))

    seen = exposure[exposure > 0]
    low = np.log(seen.min()) + np.log(shape) - np.log(failures.max() + 1.0) - 30.0
    high = np.log(seen.max()) + np.log(shape) + 30.0
    return float(np.exp(brentq(score, low, high, xtol=1e-14, rtol=1e-15)))


def fit_prior(failures: ArrayLike, exposure: ArrayLike) -> GammaPrior:
    """Empirical-Bayes gamma prior of a kind, by maximum marginal likelihood.

    The likelihood often has no finite maximum in a (pools that really are alike): a is capped at 1e4, which means pooled,
    and `boundary` says so. A kind with no failure takes Gamma(0.5, total exposure): never a zero rate.

    Parameters
    ----------
    failures, exposure : (p,) D >= 0 and T >= 0, some T > 0

    Returns
    -------
    GammaPrior

    Raises
    ------
    ContractError : no exposure at all, or an argument outside the ranges above

    References
    ----------
    Gaver & O'Muircheartaigh (1987), Robust empirical Bayes analyses of event rates, Technometrics 29.
    """
    count, time = pool_arrays(failures, exposure)
    if time.sum() == 0.0:
        raise ContractError("exposure: at least one pool with time in service was wanted")
    if count.sum() == 0.0:
        return GammaPrior(0.5, float(time.sum()), None, no_failures=True)
    count, time = count[time > 0], time[time > 0]

    def slope(log_shape: float) -> float:
        shape = float(np.exp(log_shape))
        rate = best_rate(shape, count, time)
        gained = digamma(shape + count) - digamma(shape) - np.log1p(time / rate)
        return float(gained.sum()) * shape

    grid = np.linspace(np.log(SMALLEST_SHAPE), np.log(LARGEST_SHAPE), 60)
    slopes = np.array([slope(place) for place in grid])
    peaks = [grid[-1]] if slopes[-1] > 0 else []
    peaks += [brentq(slope, grid[i], grid[i + 1], xtol=1e-13, rtol=1e-14) for i in np.flatnonzero((slopes[:-1] > 0) & (slopes[1:] <= 0))]
    peaks = peaks or [grid[0]]
    fitted = [(float(np.exp(peak)), best_rate(float(np.exp(peak)), count, time)) for peak in peaks]
    shape, rate = max(fitted, key=lambda pair: log_marginal(pair[0], pair[1], count, time))
    return GammaPrior(shape, rate, count_loglik(shape, rate, count, time), boundary=shape >= LARGEST_SHAPE * (1 - 1e-9))


def posterior(prior: GammaPrior, failures: ArrayLike, exposure: ArrayLike) -> PoolPosterior:
    """Rate of each pool given its own record: Gamma(a + D, b + T).

    A kind without failures already spent its exposure in Gamma(0.5, T): it is not added a second time.

    Parameters
    ----------
    prior : GammaPrior of the kind
    failures, exposure : (p,) D >= 0 and T >= 0

    Returns
    -------
    PoolPosterior

    Raises
    ------
    ContractError : an argument is outside the ranges above

    References
    ----------
    Carlin & Louis (2000), Bayes and Empirical Bayes Methods for Data Analysis, section 3.3.
    """
    count, time = pool_arrays(failures, exposure)
    added = np.zeros_like(time) if prior.no_failures else time
    return PoolPosterior(prior.shape + count, prior.rate + added)
