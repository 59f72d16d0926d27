"""Pools of a kind share one shape and borrow their level: the gamma-Poisson hierarchy on H(beta).

Given beta, failures of pool p are Poisson(lambda_p H_p(beta)) with lambda_p ~ Gamma(a, b).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.optimize import minimize_scalar
from scipy.special import gammaln

from almanac.core import checks
from almanac.core.errors import ContractError, NoEstimate
from almanac.core.life import shrinkage
from almanac.core.life.inspections import LEANINGS, FindGaps, leaning
from almanac.core.life.shrinkage import GammaPrior
from almanac.core.life.tenures import AgeCounts
from almanac.core.life.weibull_likelihood import WeibullLikelihood
from almanac.core.parts.declared.kinds import FORECASTS

LOG_SHAPE_SD = 0.7
"""Weak stated prior: two early failures among a thousand survivors must not give a shape of nine, nor eight of a true 3.5 one of 2."""
LOG_SHAPE_MEDIAN = {kind: float(np.log(forecast.shape_median)) for kind, forecast in FORECASTS.items()}
SEARCH = (float(np.log(0.05)), float(np.log(50.0)))


@dataclass(frozen=True)
class SharedShape:
    """The kind: shape, gamma prior of lambda in the ages' unit to the power of the shape, the marginal log-likelihood."""

    shape: float
    prior_shape: float
    prior_rate: float
    loglik: float
    boundary: bool
    no_failures: bool
    failures: checks.Floats
    hazard: checks.Floats

    def posterior(self) -> tuple[checks.Floats, checks.Floats]:
        """Gamma(shape, rate) of each pool's lambda: (p,) arrays."""
        prior = GammaPrior(self.prior_shape, self.prior_rate, None, no_failures=self.no_failures)
        after = shrinkage.posterior(prior, self.failures, self.hazard)
        return after.shape, after.rate


class PoolLikelihood:
    """Pools with a common unit of age, so that one shape means the same in all of them."""

    def __init__(self, pools: Sequence[AgeCounts]) -> None:
        if not pools:
            raise ContractError("pools: at least one was wanted")
        self.unit = max(float(pool.age.max()) if pool.age.size else 0.0 for pool in pools) or 1.0
        self.pools = [WeibullLikelihood(pool) for pool in pools]
        self.exact = float(sum(pool.failures for pool in self.pools))
        self.failures = np.array([pool.failures for pool in pools])
        self._gaps = FindGaps(pools, self.unit)
        self.log_failed = sum(pool.log_failed + pool.failures * float(np.log(pool.unit / self.unit)) for pool in self.pools)

    def hazard(self, shape: float) -> checks.Floats:
        """(p,) H of each pool, ages over the common unit."""
        return np.array([pool.powers(shape)[0] * (pool.unit / self.unit) ** shape for pool in self.pools])

    def at(self, shape: float) -> tuple[float, GammaPrior, checks.Floats]:
        """The marginal at a shape with its best gamma, the gamma, and H; a constant of the data apart from the unit."""
        hazard = np.maximum(self.hazard(shape), 0.0)
        hazard[(hazard <= 0) & (self.failures > 0)] = np.finfo(float).tiny
        prior = shrinkage.fit_prior(self.failures, hazard)
        value = shrinkage.log_marginal(prior.shape, prior.rate, self.failures, hazard)
        value += self.exact * float(np.log(shape / self.unit)) + (shape - 1) * self.log_failed + self._gaps.at(shape)[0]
        return value, prior, hazard


def fit_shared_shape(pools: Sequence[AgeCounts], *, kind: str | None = None) -> SharedShape:
    """Shape and gamma of a kind by maximum marginal likelihood; with a kind's name, under its stated weak prior.

    Parameters
    ----------
    pools : tenures by age of each pool, in one unit · kind : memory, ssd, battery or fan; None maximises without a prior

    Returns
    -------
    SharedShape : `boundary` where the pools are alike (a at its cap); no failure at all gives Gamma(0.5, H) at shape 1

    Raises
    ------
    NoEstimate : no time at risk at all · ContractError : no pool, or a kind without a stated prior

    References
    ----------
    Carlin & Louis (2000), Bayes and Empirical Bayes Methods for Data Analysis, chapter 3.
    """
    if kind is not None and kind not in LOG_SHAPE_MEDIAN:
        raise ContractError(f"kind: one of {', '.join(LOG_SHAPE_MEDIAN)} was wanted, got {kind!r}")
    found = _shared_shape(pools, kind)
    for _ in range(LEANINGS if any(pool.finds.any for pool in pools) else 0):
        shape, rate = found.posterior()
        found = _shared_shape(leaning(pools, found.shape, shape / rate), kind)
    return found


def _shared_shape(pools: Sequence[AgeCounts], kind: str | None) -> SharedShape:
    """The same for finds that lie where they do."""
    likelihood = PoolLikelihood(pools)
    if float(likelihood.hazard(1.0).sum()) <= 0:
        raise NoEstimate("no unit was at risk for any time")
    if likelihood.failures.sum() == 0:
        return _found(likelihood, 1.0 if kind is None else float(np.exp(LOG_SHAPE_MEDIAN[kind])))

    def cost(log_shape: float) -> float:
        penalty = 0.5 * ((log_shape - LOG_SHAPE_MEDIAN[kind]) / LOG_SHAPE_SD) ** 2 if kind is not None else 0.0
        return penalty - likelihood.at(float(np.exp(log_shape)))[0]

    best = _minimum(cost)
    return _found(likelihood, float(np.exp(best)))


def _minimum(cost: object) -> float:
    """The lowest place of a function of one variable: a grid first, because it may have two valleys, then Brent."""
    assert callable(cost)
    grid = np.linspace(*SEARCH, 41)
    values = [cost(place) for place in grid]
    lowest = int(np.argmin(values))
    left, right = grid[max(lowest - 1, 0)], grid[min(lowest + 1, grid.size - 1)]
    return float(minimize_scalar(cost, bounds=(left, right), method="bounded", options={"xatol": 1e-10}).x)


def _found(likelihood: PoolLikelihood, shape: float) -> SharedShape:
    value, prior, hazard = likelihood.at(shape)
    # lambda per unit of age to the power of the shape: H in the common unit becomes H in the ages' own unit.
    stretch = likelihood.unit**shape
    if prior.no_failures:
        value = 0.0
    return SharedShape(
        shape=shape,
        prior_shape=prior.shape,
        prior_rate=prior.rate * stretch,
        loglik=value,
        boundary=prior.boundary,
        no_failures=prior.no_failures,
        failures=likelihood.failures,
        hazard=hazard * stretch,
    )


def log_marginal_of(pools: Sequence[AgeCounts], shape: float, a: float, b: float) -> float:
    """The marginal log-likelihood of (beta, a, b) with prod x^(beta-1): the function a fit maximises.

    Parameters
    ----------
    pools : tenures by age · shape : beta > 0 · a, b : of the gamma, > 0, b in the ages' unit to the power of the shape

    Returns
    -------
    float

    Raises
    ------
    ContractError : an argument not above 0
    """
    beta, first, second = checks.positive("shape", shape), checks.positive("a", a), checks.positive("b", b)
    total = 0.0
    for pool in pools:
        one = WeibullLikelihood(pool)
        count, hazard = pool.failures, one.powers(beta)[0] * one.unit**beta
        total += float(gammaln(first + count) - gammaln(first) + first * np.log(second) - (first + count) * np.log(second + hazard))
        total += one.failures * float(np.log(beta)) + (beta - 1) * (one.log_failed + one.failures * float(np.log(one.unit)))
        total += FindGaps([pool], 1.0).at(beta)[0]
    return total
