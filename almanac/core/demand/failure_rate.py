"""The figure shown everywhere: annualised failure rate at the present mix of pools, with its credible interval."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.optimize import brentq
from scipy.special import gammainc, gammaincinv

from almanac.core import checks
from almanac.core.demand.law import DemandLaw


@dataclass(frozen=True)
class AnnualisedRate:
    """Failures per unit-year with its interval at `level`."""

    rate: float
    low: float
    high: float
    level: float


def annualised_rate(law: DemandLaw, *, window_days: int = 365, level: float = 0.90) -> AnnualisedRate | None:
    """Expected wear-out failures of the coming year per mean unit in service.

    The rate is a weighted sum of gammas, mixed over the kind's nodes. Given a node it is taken as the gamma of equal
    mean and variance, which is exact for one pool.

    Parameters
    ----------
    law : DemandLaw with a horizon of at least `window_days`
    window_days : days, >= 1
    level : credible level, in (0, 1)

    Returns
    -------
    AnnualisedRate, or None when no unit is in service

    Raises
    ------
    ContractError : an argument is outside the ranges above

    References
    ----------
    Satterthwaite (1946), Biometrics Bulletin 2, on matching a weighted sum by two moments.
    """
    checks.number("window_days", window_days, low=1.0)
    tail = (1 - checks.probability("level", level)) / 2
    exposure = law.window_exposure(np.array([0]), np.array([window_days]))[0]
    if exposure.sum() <= 0:
        return None
    share = np.ones(1) if law.nodes.pooled else exposure / exposure.sum()
    mean = (law.pool_shape / law.pool_rate) @ share
    variance = (law.pool_shape / law.pool_rate**2) @ share**2
    low, high = (_mixed_quantile(law.nodes.weight, mean**2 / variance, mean / variance, p) for p in (tail, 1 - tail))
    return AnnualisedRate(float(law.nodes.weight @ mean), low, high, level)


def _mixed_quantile(weight: checks.Floats, shape: checks.Floats, rate: checks.Floats, level: float) -> float:
    """Quantile of a mixture of gammas: it lies between the smallest and the largest of its components' quantiles."""
    each = gammaincinv(shape, level) / rate
    low, high = float(each.min()), float(each.max())
    if high - low <= 1e-12 * high:
        return high
    return float(brentq(lambda x: float(weight @ gammainc(shape, rate * x)) - level, low, high, xtol=1e-12 * high, rtol=1e-10))
