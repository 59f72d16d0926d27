"""Demand around a review under an exact law, and the constant rate of like mean and spread."""

from __future__ import annotations

import numpy as np

from almanac.core import checks
from almanac.core.demand import counts
from almanac.core.stock.lead_time import LeadTime
from almanac.core.stock.path import Law
from almanac.core.stock.rates import Rate, doubted_rate, known_rate
from almanac.core.stock.review import ReviewDemand

NEARLY_ALL = 1 - 1e-10
MOST_MOMENTS = 8
"""Days between L and R + L on which the shelf is looked at."""


def exact_review(law: Law, lead: LeadTime, review_days: int) -> ReviewDemand:
    """Demand around a review of today under a law of its own.

    Parameters
    ----------
    law : of the shelf, from today on · lead : of whoever supplies it · review_days : R, >= 1

    Returns
    -------
    ReviewDemand : without the joint counts, which no law gives

    Raises
    ------
    ContractError : a review period below a day
    """
    period = int(checks.number("review_days", review_days, low=1.0))
    steps = np.unique(np.ceil(np.linspace(1, period, min(period, MOST_MOMENTS))).astype(np.int64))
    moments = (lead.days[:, None] + steps[None]).ravel()
    days = np.concatenate((lead.days, lead.days + period, moments, [period]))
    pmf = law.reaching(np.zeros(days.size), days, NEARLY_ALL)
    size = lead.days.size
    before, after, within = pmf[:size], pmf[size : 2 * size], pmf[2 * size : -1]
    mean = law.mean_parts([*(lead.days + period), *lead.days])
    return ReviewDemand(
        lead=lead.weight @ before,
        both=lead.weight @ after,
        within=np.repeat(lead.weight, steps.size) @ within / steps.size,
        review=pmf[-1],
        window=float(lead.weight @ (mean[:size] - mean[size:])),
    )


def like_rate(law: Law, days: int) -> Rate | None:
    """The constant rate whose count over some days has a law's mean and spread; None where nothing is expected.

    A law narrower than a Poisson of its mean, as of parts that wear out together, is taken for a Poisson: no promise is lost by that.

    Parameters
    ----------
    law : from today on · days : >= 1
    """
    pmf = law.reaching([0], [days], NEARLY_ALL)
    mean, variance = (float(value[0]) for value in counts.mean_and_variance(pmf))
    if mean <= 1e-9:
        return None
    if variance <= mean * (1 + 1e-6):
        return known_rate(mean / days)
    shape = mean**2 / (variance - mean)
    return doubted_rate(shape, shape / (mean / days))
