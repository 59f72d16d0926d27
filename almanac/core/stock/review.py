"""What a position carries when a shelf is looked at: the distributions of demand that decide, and every measure of service.

An order of today arrives after the lead time L; what waits for the next review, R days on, arrives after R + L. So the position
after a review carries the requests of (0, R + L], and those of (L, R + L] are the ones it decides about.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import ArrayLike
from scipy.special import gammaln, xlog1py, xlogy

from almanac.core import checks
from almanac.core.errors import ContractError
from almanac.core.stock.lead_time import LeadTime
from almanac.core.stock.rates import Rate, count_size

INSTANTS = 24
"""Moments between L and R + L at which the shelf is looked at, by Gauss-Legendre: against 96 of them nothing moves by 1e-9."""
_X, _WEIGHT = np.polynomial.legendre.leggauss(INSTANTS)


@dataclass(frozen=True)
class ReviewDemand:
    """Demand around a review, of one shelf.

    lead, both : (n,) probabilities of the counts over (0, L] and (0, R + L], mixed over the lead time
    within : (n,) the same over (0, u], averaged over u in (L, R + L]
    review : (n,) over (0, R] · window : mean requests of (L, R + L]
    joint : (n, n) of the count over (0, R] and over the L after it, where it is known
    """

    lead: checks.Floats
    both: checks.Floats
    within: checks.Floats
    review: checks.Floats
    window: float
    joint: checks.Floats | None = None

    @cached_property
    def short_before(self) -> checks.Floats:
        """(n + 1,) E[(D(0, L] - y)+] for y = 0 .. n."""
        return excess(self.lead)

    @cached_property
    def short_after(self) -> checks.Floats:
        """(n + 1,) E[(D(0, R + L] - y)+]."""
        return excess(self.both)

    @cached_property
    def waiting(self) -> checks.Floats:
        """(n + 1,) parts owed on average between L and R + L."""
        return excess(self.within)

    @cached_property
    def fill(self) -> checks.Floats:
        """(n + 1,) share of the requests of (L, R + L] met at once by a position y; 1 where nothing is asked for."""
        if self.window <= 0:
            return np.ones(self.both.size + 1)
        return np.asarray(np.clip(1.0 - (self.short_after - self.short_before) / self.window, 0.0, 1.0))

    @cached_property
    def ready(self) -> checks.Floats:
        """(n + 1,) share of the days between L and R + L with a part on the shelf: P(D(0, u] <= y - 1)."""
        return np.concatenate(([0.0], np.minimum(np.cumsum(self.within), 1.0)))

    @cached_property
    def nobody_waits(self) -> checks.Floats:
        """(n + 1,) P(D(0, u] <= y)."""
        return np.concatenate((np.minimum(np.cumsum(self.within), 1.0), [1.0]))

    def on_hand(self, position: int) -> float:
        """Parts on the shelf on average between L and R + L."""
        mean = float(self.within @ np.arange(self.within.size))
        return position - mean + at(self.waiting, position)


def excess(pmf: checks.Floats) -> checks.Floats:
    """(..., n + 1) E[(D - y)+] for y = 0 .. n of counts with probabilities (..., n)."""
    beyond = np.maximum(pmf.sum(axis=-1, keepdims=True) - np.cumsum(pmf, axis=-1), 0.0)
    found = np.zeros((*pmf.shape[:-1], pmf.shape[-1] + 1))
    found[..., :-1] = np.cumsum(beyond[..., ::-1], axis=-1)[..., ::-1]
    return found


def at(values: checks.Floats, position: int) -> float:
    """A figure of a position: the last one past the end, where the demand's tail is."""
    if position < 0:
        raise ContractError(f"position: at least 0 was wanted, got {position}")
    return float(values[min(position, values.size - 1)])


def review_demand(rate: Rate, lead: LeadTime, review_days: float) -> ReviewDemand:
    """Demand around a review at a constant rate.

    Parameters
    ----------
    rate : known or doubted · lead : the lead time's distribution · review_days : R, > 0

    Returns
    -------
    ReviewDemand : mixing over the lead time is exact while orders do not overtake one another

    Raises
    ------
    ContractError : an argument outside its range

    References
    ----------
    Hadley & Whitin (1963), Analysis of Inventory Systems, chapter 5; Svoronos & Zipkin (1991), Management Science 37, on leads.
    """
    period = checks.positive("review_days", review_days)
    days = lead.days.astype(np.float64)
    size = count_size(rate, float(days.max()) + period)
    u, share = instants(days, period)
    within = np.einsum("w,wn->n", (lead.weight[:, None] * share).ravel(), rate.pmf(u.ravel(), size))
    return ReviewDemand(
        lead=lead.weight @ rate.pmf(days, size),
        both=lead.weight @ rate.pmf(days + period, size),
        within=within,
        review=rate.pmf([period], size)[0],
        window=rate.mean_per_day * period,
        joint=_joint(rate.pmf(days + period, size), period / (days + period), lead.weight),
    )


def instants(lead_days: checks.Floats, period: float) -> tuple[checks.Floats, checks.Floats]:
    """(l, i) moments between each lead and a period later, and their weights, which add up to 1 for each."""
    u = lead_days[:, None] + period * (_X[None] + 1.0) / 2.0
    return u, np.broadcast_to(_WEIGHT / 2.0, u.shape)


def _joint(total: ArrayLike, share: ArrayLike, weight: ArrayLike) -> checks.Floats:
    """(n, n) of counts before and after the review within the whole: given the whole, binomial by their days."""
    whole, early, mix = np.asarray(total), np.asarray(share), np.asarray(weight)
    size = whole.shape[1]
    first, second = np.arange(size)[:, None], np.arange(size)[None]
    both = np.minimum(first + second, size - 1)
    log_ways = gammaln(both + 1.0) - gammaln(first + 1.0) - gammaln(np.maximum(both - first, 0) + 1.0)
    found = np.zeros((size, size))
    for pmf, part, portion in zip(whole, early, mix, strict=True):
        chance = np.exp(log_ways + xlogy(first, part) + xlog1py(second, -part)) if part < 1 else (second == 0).astype(float)
        found += portion * pmf[both] * chance
    found[first + second >= size] = 0.0
    return found
