"""Parts found failed at a look: the Weibull's likelihood when a failure is only known to lie between two ages.

A find adds S(l) - S(r) where a failure of known age adds a density. With L = l^beta, R = r^beta and u = lambda (R - L) / 2 it is
2 exp(-lambda (L + R) / 2) sinh u, so that it counts as a failure with the exposure of the middle, times what sinh u / u adds.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from scipy.optimize import brentq

from almanac.core import checks
from almanac.core.errors import ContractError, NoEstimate
from almanac.core.life.tenures import AgeCounts, shared_out
from almanac.core.life.weibull_likelihood import LARGEST_LOG_SHAPE, WeibullLikelihood

FLAT = 1e-9
"""A slope below this for each failure says nothing of a shape."""
LEANINGS = 4
"""Finds are put where a fit of several pools puts them so many times: each time what is left to move shrinks to a tenth or less."""


class InspectedLikelihood(WeibullLikelihood):
    """The likelihood of tenures of which some failures were found at a look; exact, whatever the length of an interval."""

    def __init__(self, ages: AgeCounts) -> None:
        middle = shared_out(ages, np.full(ages.finds.count.size, 0.5))
        super().__init__(middle)
        with np.errstate(divide="ignore"):
            self._ends = np.log(np.array([ages.finds.low, ages.finds.high]) / self.unit)
        self._count = ages.finds.count
        self._highest = float(ages.finds.high.max(initial=0.0)) / self.unit
        self._exact = self.failures
        self.failures = ages.failures

    @property
    def last_failure_is_censored(self) -> bool:
        """Whether some failure may lie below the largest age."""
        return True

    def _log_rate(self, shape: float) -> float:
        """The best logarithm of lambda at a shape: its slope falls all the way."""
        hazard, gap = self.powers(shape)[0], gaps(self._ends, shape)[0]
        if hazard <= 0:
            return float(np.inf)

        def slope(log_rate: float) -> float:
            rate = float(np.exp(log_rate))
            half = rate * gap / 2
            return self.failures - rate * hazard + float(self._count @ (half * lean(half)))

        middle = float(np.log(self.failures / hazard))
        low, high = middle - 1.0, middle + 1.0
        while slope(low) < 0:
            low -= 2.0
        while slope(high) > 0:
            high += 2.0
        return float(brentq(slope, low, high, xtol=1e-14, rtol=1e-15, maxiter=300))

    def _value(self, shape: float, log_rate: float) -> float:
        gap, hazard, rate = gaps(self._ends, shape)[0], self.powers(shape)[0], float(np.exp(log_rate))
        inner = self._exact * np.log(shape) + self.failures * log_rate + (shape - 1) * self.log_failed - rate * hazard
        # Finds are probabilities, so that only failures of known age carry a unit.
        return float(inner + self._count @ (np.log(gap) + log_sinhc(rate * gap / 2)) - self._exact * np.log(self.unit))

    def profile(self, log_shape: float) -> float:
        """Log-likelihood at a shape with its best lambda, in the ages' own unit."""
        shape = float(np.exp(log_shape))
        log_rate = self._log_rate(shape)
        return self._value(shape, log_rate) if np.isfinite(log_rate) else -np.inf

    def slope(self, log_shape: float) -> float:
        """Derivative of the profile by the logarithm of the shape: at the best lambda, that of the likelihood."""
        shape = float(np.exp(log_shape))
        return self._by_shape(shape, self._log_rate(shape))

    def _by_shape(self, shape: float, log_rate: float) -> float:
        rate, (gap, once, _) = float(np.exp(log_rate)), gaps(self._ends, shape)
        moved = rate * shape * self.powers(shape)[1]
        finds = float(self._count @ (once / gap + lean(rate * gap / 2) * rate * once / 2))
        return self._exact + shape * self.log_failed - moved + finds

    def best_log_scale(self, log_shape: float) -> float:
        """Logarithm of the best scale at a shape, over the largest age."""
        shape = float(np.exp(log_shape))
        return -self._log_rate(shape) / shape

    def at(self, log_shape: float, log_scale: float) -> float:
        """Log-likelihood at a shape and a scale over the largest age."""
        shape = float(np.exp(log_shape))
        return self._value(shape, -shape * log_scale)

    def slope_at(self, log_shape: float, log_scale: float) -> float:
        """Derivative of the log-likelihood by the logarithm of the shape at a fixed scale."""
        shape = float(np.exp(log_shape))
        log_rate = -shape * log_scale
        rate, gap = float(np.exp(log_rate)), gaps(self._ends, shape)[0]
        half = rate * gap / 2
        by_rate = self.failures - rate * self.powers(shape)[0] + float(self._count @ (half * lean(half)))
        return self._by_shape(shape, log_rate) + by_rate * log_rate

    def information(self, shape: float, log_scale: float) -> tuple[float, float, float]:
        """Minus the second derivatives by (shape, shape), (scale, scale) and both at the largest likelihood, scale over the largest age."""
        log_rate = -shape * log_scale
        rate, (gap, once, twice) = float(np.exp(log_rate)), gaps(self._ends, shape)
        hazard, first, second = self.powers(shape)
        half = rate * gap / 2
        slope, bend, move = lean(half), bent(half), rate * once / 2
        by_b = shape * self.log_failed - rate * (shape * first + shape**2 * second)
        by_b += float(self._count @ (twice / gap - (once / gap) ** 2 + bend * move**2 + slope * rate * twice / 2))
        by_p = -rate * hazard + float(self._count @ (half * slope + half**2 * bend))
        mixed = -rate * shape * first + float(self._count @ (bend * half * move + slope * move))
        # From (log shape, log lambda) to (shape, scale): log lambda = -shape log scale, and the slopes are zero here.
        scale = float(np.exp(log_scale))
        to_b, to_p, by_scale = 1.0 / shape, -log_scale, -shape / scale
        shapes = by_b * to_b**2 + 2 * mixed * to_b * to_p + by_p * to_p**2
        return -shapes, -by_p * by_scale**2, -(mixed * to_b + by_p * to_p) * by_scale

    def refuse(self) -> None:
        """Raise NoEstimate where the looks leave the shape open."""
        slopes = [abs(self.slope(place)) for place in (np.log(0.5), 0.0, np.log(3.0))]
        if max(slopes) < FLAT * self.failures:
            raise NoEstimate("every failure was found at the first look at one age: the looks say nothing of the shape")
        if not self._exact and self._highest >= 1.0 and self.slope(LARGEST_LOG_SHAPE / 2) > -FLAT:
            raise NoEstimate("every failure may lie at the largest age seen: the shape runs away, wait for a later survivor")


class FindGaps:
    """What finds add to a marginal likelihood in place of densities: the sum of log(R - L), ages over a common unit.

    Beside it a find is a failure with the exposure it has in its pool's counts; `leaning` puts that where the rate wants it.
    """

    def __init__(self, pools: Sequence[AgeCounts], unit: float) -> None:
        finds = [pool.finds for pool in pools if pool.finds.any]
        self.count = np.concatenate([np.empty(0), *(own.count for own in finds)])
        ends = np.array([[low, high] for own in finds for low, high in zip(own.low, own.high, strict=True)]).reshape(-1, 2).T
        with np.errstate(divide="ignore"):
            self._ends = np.log(ends / unit)

    def at(self, shape: float) -> tuple[float, float]:
        """The sum at a shape, and its derivative by the logarithm of the shape."""
        if self.count.size == 0:
            return 0.0, 0.0
        gap, once, _ = gaps(self._ends, shape)
        return float(self.count @ np.log(gap)), float(self.count @ (once / gap))


def gaps(log_ends: checks.Floats, shape: float) -> tuple[checks.Floats, checks.Floats, checks.Floats]:
    """R - L of each find, with its first two derivatives by the logarithm of the shape; log_ends : (2, f)."""
    power = np.exp(shape * log_ends)
    log = np.where(np.isfinite(log_ends), log_ends, 0.0)
    once = shape * power * log
    twice = once * (1.0 + shape * log)
    of_gap, by_once, by_twice = (rows[1] - rows[0] for rows in (power, once, twice))
    return np.maximum(of_gap, np.finfo(float).tiny), by_once, by_twice


def likelihood_of(ages: AgeCounts) -> WeibullLikelihood:
    """The likelihood of some tenures: the closed one where no failure was found at a look."""
    return InspectedLikelihood(ages) if ages.finds.any else WeibullLikelihood(ages)


def log_sinhc(half: checks.Floats) -> checks.Floats:
    """log(sinh u / u), u >= 0."""
    small = half < 1e-4
    used = np.where(small, 1.0, half)
    return np.where(small, half**2 / 6.0, used + np.log1p(-np.exp(-2.0 * used)) - np.log(2.0 * used))


def lean(half: checks.Floats) -> checks.Floats:
    """Its derivative, coth u - 1 / u: how far before the middle of its interval a find lies, as a share of half the interval."""
    small = half < 1e-3
    used = np.where(small, 1.0, half)
    return np.where(small, half / 3.0 - half**3 / 45.0, 1.0 / np.tanh(used) - 1.0 / used)


def bent(half: checks.Floats) -> checks.Floats:
    """Its second derivative, 1 / u^2 - 1 / sinh^2 u."""
    small = half < 1e-2
    used = np.where(small, 1.0, np.minimum(half, 300.0))
    return np.where(small, 1.0 / 3.0 - half**2 / 15.0, 1.0 / used**2 - 1.0 / np.sinh(used) ** 2)


def leaning(pools: Sequence[AgeCounts], shape: float, rate: checks.Floats) -> list[AgeCounts]:
    """Pools whose finds lie where their rates put them; with the middle of an interval, rates of long intervals come out too low.

    Parameters
    ----------
    pools : p of them · shape : beta > 0 · rate : (p,) lambda of each pool in the ages' unit to the power of -beta, >= 0

    Returns
    -------
    list of p AgeCounts: at these rates the exposure of a find, lambda x^beta, is what is expected of it

    Raises
    ------
    ContractError : another number of rates than of pools, or an argument outside its range

    References
    ----------
    Dempster, Laird & Rubin (1977), Journal of the Royal Statistical Society B 39 (the expectation step).
    """
    beta = checks.positive("shape", shape)
    level = checks.vector("rate", rate, low=0.0)
    if level.size != len(pools):
        raise ContractError(f"rate: one for each of {len(pools)} pools was wanted, got {level.size}")
    found = []
    for pool, own in zip(pools, level, strict=True):
        half = own * (pool.finds.high**beta - pool.finds.low**beta) / 2
        found.append(shared_out(pool, 0.5 + lean(half) / 2) if pool.finds.any else pool)
    return found
