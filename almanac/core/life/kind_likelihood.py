"""The marginal likelihood of a kind over (log beta, log m, log a), all pools at once, with its gradient.

Given beta, failures of pool p are Poisson(lambda_p H_p(beta)) with lambda_p ~ Gamma(a, a / m); m is the kind's mean of lambda.
A pool that ages at another pace has its ages multiplied by it, so that H_p grows by pace^beta.
"""

from __future__ import annotations

from collections.abc import Sequence
from copy import copy

import numpy as np
from scipy.optimize import minimize
from scipy.special import digamma, gammaln

from almanac.core import checks
from almanac.core.errors import ContractError
from almanac.core.life.inspections import LEANINGS, FindGaps, leaning
from almanac.core.life.shrinkage import LARGEST_SHAPE, SMALLEST_SHAPE
from almanac.core.life.tenures import AgeCounts

SHAPE_BOUNDS = (float(np.log(0.05)), float(np.log(50.0)))
STARTS = tuple((float(np.log(shape)), float(np.log(a))) for shape in (0.5, 1.0, 2.5) for a in (1.0, 100.0))


class KindLikelihood:
    """Pools with one unit of age. Rows of all pools lie one behind the other, so that a power is taken once for all.

    believed : what is believed of the kind's mean, as if it had been seen at exactly that level; no pool, and spread over none
    """

    def __init__(self, pools: Sequence[AgeCounts], believed: AgeCounts | None = None) -> None:
        if not pools and believed is None:
            raise ContractError("pools: at least one was wanted")
        none = np.empty(0)
        age = np.concatenate([none, *(pool.age for pool in pools)])
        oldest = float(believed.age.max(initial=0.0)) if believed is not None else 0.0
        self.unit = max(float(age.max(initial=0.0)), oldest) or 1.0
        self.believed = _Believed(believed, self.unit) if believed is not None else None
        moved = np.concatenate([none, *(pool.left - pool.entered for pool in pools)])
        failed = np.concatenate([none, *(pool.failed for pool in pools)])
        pool_of = np.repeat(np.arange(len(pools)), [pool.age.size for pool in pools])
        kept = (age > 0) & ((moved != 0) | (failed > 0))
        self.pools = len(pools)
        self.failures = np.array([pool.failures for pool in pools], dtype=np.float64)
        self.total = float(self.failures.sum()) + (self.believed.failures if self.believed is not None else 0.0)
        self._exact = float(failed.sum())
        self._gaps = FindGaps(pools, self.unit)
        self._log = np.log(age[kept] / self.unit)
        self._moved = moved[kept]
        self._start = np.searchsorted(pool_of[kept], np.arange(len(pools)))
        self._none = np.bincount(pool_of[kept], minlength=len(pools)) == 0
        self.log_failed = float(failed[kept] @ self._log)
        self.log_pace = np.zeros(len(pools))

    def paced(self, log_pace: checks.Floats) -> KindLikelihood:
        """The same pools with ages that run faster by exp(log_pace), (p,); raises ContractError for another number of pools."""
        other = copy(self)
        other.log_pace = checks.vector("log_pace", log_pace, size=self.pools)
        return other

    def hazard(self, shape: float) -> tuple[checks.Floats, checks.Floats]:
        """(p,) H of each pool and its derivative by the shape, ages at the pools' pace over the common unit."""
        power = np.exp(shape * self._log) * self._moved
        own, by_shape, pace = self._by_pool(power), self._by_pool(power * self._log), np.exp(shape * self.log_pace)
        return pace * own, pace * (by_shape + self.log_pace * own)

    def _by_pool(self, rows: checks.Floats) -> checks.Floats:
        if rows.size == 0:
            return np.zeros(self.pools)
        # reduceat gives the element itself for an empty pool: those are put right, and a start past the end is kept inside.
        return np.where(self._none, 0.0, np.add.reduceat(rows, np.minimum(self._start, rows.size - 1)))

    def value_and_slope(self, place: checks.Floats) -> tuple[float, checks.Floats]:
        """Log marginal at (log beta, log m, log a) and its gradient; m per common unit of age to the power of beta.

        Raises
        ------
        Nothing. Pools that were never at risk carry no information.
        """
        log_shape, log_mean, log_a = place
        shape, a = float(np.exp(log_shape)), float(np.exp(log_a))
        hazard, by_shape = self.hazard(shape)
        hazard = np.maximum(hazard, np.where(self.failures > 0, np.finfo(float).tiny, 0.0))
        log_b = log_a - log_mean
        b = float(np.exp(log_b))
        # In this form nothing cancels where a is large: (a + D) ln(b + H) - a ln b = a ln(1 + H/b) + D ln(b + H).
        lifted, count, paced = np.log1p(hazard / b), self.failures, float(self.failures @ self.log_pace)
        value = gammaln(a + count) - gammaln(a) - a * lifted - count * (log_b + lifted)
        share = hazard / (b + hazard)
        by_b = a * share - count * (1.0 - share)
        by_a = a * (digamma(a + count) - digamma(a) - lifted)
        gap, by_gap = self._gaps.at(shape)
        slope = np.array(
            [
                self._exact + by_gap + shape * (self.log_failed + paced) - shape * float((by_shape * (a + count) / (b + hazard)).sum()),
                -float(by_b.sum()),
                float((by_a + by_b).sum()),
            ]
        )
        constant = self._exact * (log_shape - float(np.log(self.unit))) + (shape - 1.0) * self.log_failed + gap
        whole = float(value.sum()) + constant + shape * paced
        if self.believed is None:
            return whole, slope
        added, lean = self.believed.at(float(log_shape), float(log_mean))
        return whole + added, slope + lean

    def slope_by_pace(self, place: checks.Floats) -> checks.Floats:
        """(p,) derivative of the log marginal at (log beta, log m, log a) by the logarithm of each pool's pace."""
        shape, mean, a = np.exp(place)
        hazard = self.hazard(float(shape))[0]
        return np.asarray(shape * (self.failures - (a + self.failures) * hazard / (a / mean + hazard)))

    def crude_mean(self, log_shape: float) -> float:
        """Logarithm of failures over H of all pools together."""
        gathered = float(self.hazard(float(np.exp(log_shape)))[0].sum())
        gathered += self.believed.gathered(float(np.exp(log_shape)))[0] if self.believed is not None else 0.0
        return float(np.log(self.total / max(gathered, np.finfo(float).tiny)))


class _Believed:
    """Failures and time at risk at exactly the kind's mean level."""

    def __init__(self, counts: AgeCounts, unit: float) -> None:
        kept = counts.age > 0
        self.failures = counts.failures
        self._log = np.log(counts.age[kept] / unit)
        self._moved, failed = (counts.left - counts.entered)[kept], counts.failed[kept]
        self._log_failed, self._log_unit = float(failed @ self._log), float(np.log(unit))

    def gathered(self, shape: float) -> tuple[float, float]:
        """H, and its derivative by the shape."""
        power = np.exp(shape * self._log) * self._moved
        return float(power.sum()), float(power @ self._log)

    def at(self, log_shape: float, log_mean: float) -> tuple[float, checks.Floats]:
        """Log-likelihood and its gradient by (log beta, log m, log a)."""
        shape, mean = float(np.exp(log_shape)), float(np.exp(log_mean))
        gathered, by_shape = self.gathered(shape)
        value = self.failures * (log_mean + log_shape - self._log_unit) + (shape - 1.0) * self._log_failed - mean * gathered
        return value, np.array([self.failures + shape * (self._log_failed - mean * by_shape), self.failures - mean * gathered, 0.0])


class Penalty:
    """Normal priors on (log beta, log a), as a cost to be added; a prior with an infinite spread costs nothing."""

    def __init__(self, median: tuple[float, float], spread: tuple[float, float]) -> None:
        self.median, self.weight = np.array([median[0], 0.0, median[1]]), np.array([spread[0] ** -2, 0.0, spread[1] ** -2])

    def at(self, place: checks.Floats) -> tuple[float, checks.Floats]:
        """Cost and gradient."""
        away = place - self.median
        return float(0.5 * self.weight @ away**2), self.weight * away


NO_PENALTY = Penalty((0.0, 0.0), (np.inf, np.inf))


def most_likely(likelihood: KindLikelihood, penalty: Penalty = NO_PENALTY, *, shape: float | None = None) -> checks.Floats:
    """The place (log beta, log m, log a) of the largest penalised marginal, from several starts.

    Parameters
    ----------
    likelihood : of a kind with a failure · penalty : costs · shape : keeps beta at this value, > 0

    Returns
    -------
    (3,) place; log a at its bound means that the pools are alike

    Raises
    ------
    ContractError : a kind without any failure, which has no maximum

    References
    ----------
    Byrd, Lu, Nocedal & Zhu (1995), SIAM Journal on Scientific Computing 16 (the bounded search).
    """
    if likelihood.total <= 0:
        raise ContractError("pools: a kind with at least one failure was wanted")
    fixed = None if shape is None else float(np.log(checks.positive("shape", shape)))

    def cost(place: checks.Floats) -> tuple[float, checks.Floats]:
        value, slope = likelihood.value_and_slope(place)
        added, lean = penalty.at(place)
        return added - value, lean - slope

    bounds = [SHAPE_BOUNDS if fixed is None else (fixed, fixed), (None, None), (np.log(SMALLEST_SHAPE), np.log(LARGEST_SHAPE))]
    found = []
    for log_shape, log_a in dict.fromkeys((fixed if fixed is not None else start, a) for start, a in STARTS):
        start = np.array([log_shape, likelihood.crude_mean(log_shape), log_a])
        found.append(minimize(cost, start, jac=True, method="L-BFGS-B", bounds=bounds, options={"ftol": 1e-13, "gtol": 1e-7}))
    return np.asarray(min(found, key=lambda result: float(result.fun)).x)


def leaned(pools: Sequence[AgeCounts], penalty: Penalty = NO_PENALTY) -> list[AgeCounts]:
    """Pools of a kind whose finds lie where the kind's own rates put them between their two ages.

    Parameters
    ----------
    pools : with one unit of age · penalty : of the fit that says where

    Returns
    -------
    list of AgeCounts : the pools as they are where there is no find

    Raises
    ------
    ContractError : no pool
    """
    counts = list(pools)
    for _ in range(LEANINGS if any(pool.finds.any for pool in counts) else 0):
        likelihood = KindLikelihood(counts)
        if likelihood.total <= 0:
            return counts
        shape, mean, a = np.exp(most_likely(likelihood, penalty))
        rate = (a + likelihood.failures) / (a / mean + likelihood.hazard(float(shape))[0]) / likelihood.unit**shape
        counts = leaning(counts, float(shape), rate)
    return counts
