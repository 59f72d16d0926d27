"""The figure shown everywhere: annualised failure rate at the present mix of pools, with its credible interval."""

from __future__ import annotations

from collections.abc import Sequence
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
    return rate_of([law], window_days=window_days, level=level)


def rate_of(laws: Sequence[DemandLaw], *, window_days: int = 365, level: float = 0.90) -> AnnualisedRate | None:
    """The same over several parts of one kind.

    Laws that share their nodes share all their kind has in common. Where their shapes differ, what each node moves is taken to move all
    parts together, and what is in doubt about a pool's own level to go its own way.

    Parameters
    ----------
    laws : of one kind, with a horizon of at least `window_days` · window_days : days, >= 1 · level : in (0, 1)

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
    window = np.array([0]), np.array([window_days])
    exposure = np.concatenate([law.window_exposure(*window)[0] for law in laws]) if laws else np.zeros(0)
    if exposure.sum() <= 0:
        return None
    share = exposure / exposure.sum()
    moments = [law.rate_moments(window_days) for law in laws]
    weight = laws[0].nodes.weight
    if any(law.nodes.weight.shape != weight.shape or (law.nodes.weight != weight).any() for law in laws):
        return _over_groups([law.nodes.weight for law in laws], moments, share, level)
    by_pool, doubt = (np.concatenate([one[place] for one in moments], axis=1) for place in (0, 1))
    # Where a kind never failed its pools have one rate in common, so the doubt about it does not average out.
    mean, variance = by_pool @ share, doubt[:, 0] if laws[0].nodes.pooled else doubt @ share**2
    low, high = (_mixed_quantile(weight, mean**2 / variance, mean / variance, p) for p in (tail, 1 - tail))
    return AnnualisedRate(float(weight @ mean), low, high, level)


def _over_groups(
    weights: list[checks.Floats], moments: list[tuple[checks.Floats, checks.Floats]], share: checks.Floats, level: float
) -> AnnualisedRate:
    """The rate of parts whose nodes weigh differently, as the gamma that has its mean and variance. share : (p,) of the time in service"""
    mean = own = together = 0.0
    left = share
    for weight, (by_pool, doubt) in zip(weights, moments, strict=True):
        of_law, left = left[: by_pool.shape[1]], left[by_pool.shape[1] :]
        at = by_pool @ of_law
        middle = float(weight @ at)
        mean += middle
        together += max(float(weight @ (at - middle) ** 2), 0.0) ** 0.5
        own += float(weight @ (doubt @ of_law**2))
    variance, tail = own + together**2, (1 - level) / 2
    low, high = (float(gammaincinv(mean**2 / variance, p)) * variance / mean for p in (tail, 1 - tail))
    return AnnualisedRate(mean, low, high, level)


def rates_by_pool(law: DemandLaw, *, window_days: int = 365, level: float = 0.90) -> list[AnnualisedRate | None]:
    """Failures per unit-year of each pool of a law, each with its interval; None for a pool without units in service.

    Parameters
    ----------
    law : with a horizon of at least `window_days` · window_days : days, >= 1 · level : in (0, 1)

    Returns
    -------
    list, one entry a pool

    Raises
    ------
    ContractError : an argument is outside the ranges above
    """
    checks.number("window_days", window_days, low=1.0)
    tail = (1 - checks.probability("level", level)) / 2
    exposure = law.window_exposure(np.array([0]), np.array([window_days]))[0]
    mean, doubt = law.rate_moments(window_days)
    found: list[AnnualisedRate | None] = []
    for pool, years in enumerate(exposure):
        if years <= 0:
            found.append(None)
            continue
        shape, rate = mean[:, pool] ** 2 / doubt[:, pool], mean[:, pool] / doubt[:, pool]
        low, high = (_mixed_quantile(law.nodes.weight, shape, rate, p) for p in (tail, 1 - tail))
        found.append(AnnualisedRate(float(law.nodes.weight @ mean[:, pool]), low, high, level))
    return found


def _mixed_quantile(weight: checks.Floats, shape: checks.Floats, rate: checks.Floats, level: float) -> float:
    """Quantile of a mixture of gammas: it lies between the smallest and the largest of its components' quantiles."""
    each = gammaincinv(shape, level) / rate
    low, high = float(each.min()), float(each.max())
    if high - low <= 1e-12 * high:
        return high

    def above(x: float) -> float:
        return float(weight @ gammainc(shape, rate * x)) - level

    # Where one component carries all, its own quantile is the answer, and rounding may put it on either side.
    if above(low) >= 0.0:
        return low
    if above(high) <= 0.0:
        return high
    return float(brentq(above, low, high, xtol=1e-12 * high, rtol=1e-10))
