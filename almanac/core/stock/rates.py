"""Demand at a constant rate, known or doubted: exact counts over any days."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike
from scipy.special import betainc, gammaln, pdtrc, roots_genlaguerre, xlogy

from almanac.core import checks
from almanac.core.errors import ContractError

TAIL = 1e-13
"""Counts less likely than this together are left out."""
LARGEST_COUNT = 200_000
NODES = 15
"""Of a doubted rate: against 60 of them chances of waiting move by less than 1e-6 for shapes of 0.3 and more."""


@dataclass(frozen=True)
class KnownRate:
    """Requests a day that come by a Poisson process."""

    per_day: float

    @property
    def mean_per_day(self) -> float:
        return self.per_day

    def pmf(self, days: ArrayLike, size: int) -> checks.Floats:
        """(w, size) probabilities of 0 .. size-1 requests over some days (w,)."""
        mean = self.per_day * np.asarray(days, dtype=np.float64)[:, None]
        count = np.arange(size)
        return np.asarray(np.exp(xlogy(count, mean) - mean - gammaln(count + 1.0)))

    def beyond(self, days: float, count: int) -> float:
        """P(more than `count` requests over some days)."""
        return float(pdtrc(count, self.per_day * days))

    def nodes(self, count: int = NODES) -> tuple[checks.Floats, checks.Floats]:  # noqa: ARG002
        """(k,) rates and their weights: one, for nothing is doubted."""
        return np.array([self.per_day]), np.ones(1)


@dataclass(frozen=True)
class DoubtedRate:
    """A rate a day that is itself Gamma(shape, rate): counts over `t` days are negative binomial."""

    shape: float
    rate: float

    @property
    def mean_per_day(self) -> float:
        return self.shape / self.rate

    def pmf(self, days: ArrayLike, size: int) -> checks.Floats:
        """(w, size) probabilities of 0 .. size-1 requests over some days (w,)."""
        time = np.asarray(days, dtype=np.float64)[:, None]
        count = np.arange(size)
        log_size = gammaln(self.shape + count) - gammaln(self.shape) - gammaln(count + 1.0)
        chance = time / (self.rate + time)
        return np.asarray(np.exp(log_size + self.shape * np.log1p(-chance) + xlogy(count, chance)))

    def beyond(self, days: float, count: int) -> float:
        """P(more than `count` requests over some days)."""
        return float(betainc(count + 1.0, self.shape, days / (self.rate + days))) if days > 0 else 0.0

    def nodes(self, count: int = NODES) -> tuple[checks.Floats, checks.Floats]:
        """(k,) rates and their weights, by generalised Gauss-Laguerre quadrature."""
        return gamma_nodes(self.shape, self.rate, count)


Rate = KnownRate | DoubtedRate


def times(rate: Rate, factor: float) -> Rate:
    """A rate so many times as high, with the same doubt in proportion."""
    if isinstance(rate, KnownRate):
        return KnownRate(rate.per_day * factor)
    return DoubtedRate(rate.shape, rate.rate / factor)


def gamma_nodes(shape: float, rate: float, count: int) -> tuple[checks.Floats, checks.Floats]:
    """(count,) values of a gamma and their weights, which add up to 1.

    Parameters
    ----------
    shape, rate : > 0 · count : >= 1

    Raises
    ------
    ContractError : an argument outside its range

    References
    ----------
    Davis & Rabinowitz (1984), Methods of Numerical Integration, section 3.6.
    """
    a, b = checks.positive("shape", shape), checks.positive("rate", rate)
    if a > 150:
        # The weight of the quadrature overflows, and the gamma is a narrow normal by then.
        x, weight = np.polynomial.hermite_e.hermegauss(count)
        return np.asarray(np.maximum(a + np.sqrt(a) * x, 1e-9 * a) / b), np.asarray(weight / weight.sum())
    x, weight = roots_genlaguerre(count, a - 1.0)
    return np.asarray(x / b), np.asarray(weight / weight.sum())


def known_rate(per_day: float) -> KnownRate:
    """A rate that is known (> 0 a day); raises ContractError."""
    return KnownRate(checks.positive("rate", per_day))


def doubted_rate(shape: float, rate: float) -> DoubtedRate:
    """A rate with its doubt: Gamma(shape, rate), both > 0, `rate` in days; raises ContractError."""
    return DoubtedRate(checks.positive("shape", shape), checks.positive("rate", rate))


def count_size(rate: Rate, days: float) -> int:
    """How many counts hold all but 1e-13 of what is asked for over some days.

    Raises
    ------
    ContractError : more than 200,000 would be needed
    """
    mean = rate.mean_per_day * days
    size = int(mean + 12 * np.sqrt(mean) + 24)
    while rate.beyond(days, size - 1) > TAIL:
        size *= 2
        if size > LARGEST_COUNT:
            raise ContractError(f"rate: fewer than {LARGEST_COUNT:,} requests over {days:g} days were wanted")
    return size
