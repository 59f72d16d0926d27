"""The Weibull life by profile likelihood, with delayed entry: S(x) = exp(-lambda x^beta), lambda = eta^-beta.

Given the shape beta the best lambda is D / H(beta), so that one dimension is left to search.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.optimize import brentq
from scipy.special import gammaincinv

from almanac.core import checks
from almanac.core.errors import NoEstimate
from almanac.core.life.inspections import likelihood_of
from almanac.core.life.tenures import AgeCounts
from almanac.core.life.weibull_likelihood import LARGEST_LOG_SHAPE, SMALLEST_LOG_SHAPE, WeibullLikelihood


@dataclass(frozen=True)
class WeibullFit:
    """Shape and scale (in the ages' unit) with profile limits and standard errors; a limit that does not exist is None."""

    shape: float
    scale: float
    loglik: float
    shape_low: float | None
    shape_high: float | None
    scale_low: float | None
    scale_high: float | None
    se_shape: float | None
    se_scale: float | None

    def survival(self, age: float) -> float:
        """Probability of reaching an age."""
        return float(np.exp(-((age / self.scale) ** self.shape))) if age > 0 else 1.0


def fit_weibull(ages: AgeCounts, *, level: float = 0.90) -> WeibullFit:
    """Maximum likelihood of shape and scale.

    Parameters
    ----------
    ages : tenures by age; failures may be fractional, or found at a look and known to lie between two ages
    level : of the profile limits, in (0, 1)

    Returns
    -------
    WeibullFit

    Raises
    ------
    NoEstimate : no failure; every failure at the largest age, so that the shape runs away; or a shape that falls to 0
    ContractError : a level outside its range

    References
    ----------
    Meeker & Escobar (1998), Statistical Methods for Reliability Data, chapters 8 and 11; section 7.3 on finds.
    """
    quantile = 2.0 * float(gammaincinv(0.5, checks.probability("level", level)))
    likelihood = likelihood_of(ages)
    best = _best_log_shape(likelihood)
    shape, log_scale = float(np.exp(best)), likelihood.best_log_scale(best)
    loglik = likelihood.profile(best)
    drop = quantile / 2
    shape_low, shape_high = _shape_limits(likelihood, best, loglik - drop)
    scale_low, scale_high = _scale_limits(likelihood, log_scale, loglik - drop)
    se_shape, se_scale = _errors(likelihood, shape, log_scale)
    unit = likelihood.unit
    return WeibullFit(
        shape=shape,
        scale=float(np.exp(log_scale)) * unit,
        loglik=loglik,
        shape_low=shape_low,
        shape_high=shape_high,
        scale_low=scale_low * unit if scale_low is not None else None,
        scale_high=scale_high * unit if scale_high is not None else None,
        se_shape=se_shape,
        se_scale=se_scale * unit if se_scale is not None else None,
    )


def _best_log_shape(likelihood: WeibullLikelihood) -> float:
    if likelihood.failures <= 0:
        raise NoEstimate("no failure: a shape needs at least one")
    if not likelihood.last_failure_is_censored:
        raise NoEstimate("every failure lies at the largest age seen: the shape runs away, wait for a later survivor")
    likelihood.refuse()
    if likelihood.slope(SMALLEST_LOG_SHAPE) <= 0:
        raise NoEstimate("the likelihood is largest as the shape falls to 0: every unit was old when it was first seen")
    high = 0.0
    while likelihood.slope(high) > 0:
        high += 1.0
        if high > LARGEST_LOG_SHAPE:
            raise NoEstimate("the shape runs away: the failures lie too close to the largest age seen")
    return float(brentq(likelihood.slope, SMALLEST_LOG_SHAPE, high, xtol=1e-14, rtol=1e-15, maxiter=300))


def _shape_limits(likelihood: WeibullLikelihood, best: float, target: float) -> tuple[float | None, float | None]:
    def gap(log_shape: float) -> float:
        return likelihood.profile(log_shape) - target

    low = _crossing(gap, best, -1.0, SMALLEST_LOG_SHAPE)
    high = _crossing(gap, best, 1.0, LARGEST_LOG_SHAPE)
    return (None if low is None else float(np.exp(low))), (None if high is None else float(np.exp(high)))


def _crossing(gap: object, start: float, direction: float, bound: float) -> float | None:
    """Where a function that is positive at `start` falls through zero in a direction, None before the bound."""
    assert callable(gap)
    near, step = start, 0.05
    while True:
        far = near + direction * step
        if (far - bound) * direction > 0:
            return None
        if not gap(far) > 0:
            return float(brentq(gap, min(near, far), max(near, far), xtol=1e-13, rtol=1e-14, maxiter=300))
        near, step = far, step * 1.6


def _scale_limits(likelihood: WeibullLikelihood, log_scale: float, target: float) -> tuple[float | None, float | None]:
    """Profile over the shape at each scale. The profile's shape is followed from the best one outwards."""

    def gap(place: float) -> float:
        return likelihood.at(_shape_at(likelihood, place), place) - target

    low = _crossing(gap, log_scale, -1.0, log_scale - 60.0)
    high = _crossing(gap, log_scale, 1.0, log_scale + 60.0)
    return (None if low is None else float(np.exp(low))), (None if high is None else float(np.exp(high)))


def _shape_at(likelihood: WeibullLikelihood, log_scale: float) -> float:
    """The best log shape at a fixed scale: the slope falls through zero once."""
    low, high = -2.0, 2.0
    while likelihood.slope_at(low, log_scale) < 0 and low > SMALLEST_LOG_SHAPE:
        low -= 2.0
    while likelihood.slope_at(high, log_scale) > 0 and high < LARGEST_LOG_SHAPE:
        high += 1.0
    if likelihood.slope_at(low, log_scale) <= 0:
        return low
    if likelihood.slope_at(high, log_scale) >= 0:
        return high
    return float(brentq(likelihood.slope_at, low, high, args=(log_scale,), xtol=1e-13, rtol=1e-14, maxiter=300))


def _errors(likelihood: WeibullLikelihood, shape: float, log_scale: float) -> tuple[float | None, float | None]:
    """Standard errors on the natural scale from the observed information (ages over the largest age)."""
    by_shape, by_scale, mixed = likelihood.information(shape, log_scale)
    determinant = by_shape * by_scale - mixed**2
    if determinant <= 0:
        return None, None
    return float(np.sqrt(by_scale / determinant)), float(np.sqrt(by_shape / determinant))
