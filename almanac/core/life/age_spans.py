"""Lives whose age nobody knows, as counts by age: each at every age it may have had, weighed by having survived to it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from almanac.core import checks
from almanac.core.forecast.company import Ages
from almanac.core.forecast.spans import PossibleAges, possible_ages, weights, weights_after
from almanac.core.life.tenures import AgeCounts, together

DAYS_PER_YEAR = 365.25


@dataclass(frozen=True)
class AgeSpans:
    """Lives (n,) of a pool whose age when watching began lies between two, years.

    first : high is the age of the machine, and of its first part if that is still in · watched : years under watch
    still, failed : how many ended that without and with a failure
    """

    low: checks.Floats
    high: checks.Floats
    first: NDArray[np.bool_]
    watched: checks.Floats
    still: checks.Floats
    failed: checks.Floats

    @property
    def units(self) -> float:
        """Lives."""
        return float(self.still.sum() + self.failed.sum())


def spread(spans: AgeSpans, shape: float, rate: float, *, seen: bool = False) -> AgeCounts:
    """Such lives as counts by age, where lives are Weibull.

    The likelihood of one is sum base f(a + x) / sum base S(a). Its slope weighs what follows a by how likely a is once the end was
    seen, and having survived to a by how likely it was before: so it enters by the one, and leaves by the other.

    Parameters
    ----------
    spans : of one pool · shape > 0, rate >= 0 : per year^shape; at 0 every age of a span is alike, and a first part is still in
    seen : enter by what is known at the end too, for what is shown: units then enter before they leave, and stay as long as they did

    Returns
    -------
    AgeCounts : ages in years

    Raises
    ------
    ContractError : a shape or rate outside its range, or no life

    References
    ----------
    Klein & Moeschberger (2003), Survival Analysis, section 3.4 (truncation); Cox (1962), Renewal Theory, section 5.
    """
    possible, shapes, rates = _possible(spans, shape, rate)
    before = weights(possible, shapes, rates)
    found = []
    for count, ending in ((spans.still, 0.0), (spans.failed, 1.0)):
        own = count > 0
        if own.any():
            after = weights_after(possible, shapes, rates, spans.watched, np.full_like(shapes, ending))[own]
            entering = after if seen else before[own]
            found.append(_counts(possible.age[own], spans.watched[own], count[own], entering, after, ending))
    return together(found)


def _possible(spans: AgeSpans, shape: float, rate: float) -> tuple[PossibleAges, checks.Floats, checks.Floats]:
    """Ages each life may have had when watching began, and its (n,) shape and rate."""
    size = spans.low.size
    shapes, rates = np.full(size, checks.positive("shape", shape)), np.full(size, checks.number("rate", rate, low=0.0))
    return possible_ages(Ages(np.full(size, np.nan), spans.low, spans.high, spans.first), shapes, rates), shapes, rates


def _counts(
    age: checks.Floats, watched: checks.Floats, count: checks.Floats, entering: checks.Floats, leaving: checks.Floats, ending: float
) -> AgeCounts:
    """Lives alike in how they ended: (n, k) ages and weights, (n,) years under watch and how many."""
    both = np.concatenate((age.ravel(), (age + watched[:, None]).ravel()))
    ages, place = np.unique(np.rint(both * DAYS_PER_YEAR), return_inverse=True)  # whole days, so that lives share their ages
    enters = np.bincount(place[: age.size], (count[:, None] * entering).ravel(), ages.size).astype(np.float64)
    leaves = np.bincount(place[age.size :], (count[:, None] * leaving).ravel(), ages.size).astype(np.float64)
    return AgeCounts(ages / DAYS_PER_YEAR, enters, leaves, ending * leaves, 0)


def ages_today(spans: AgeSpans, shape: float, rate: float) -> tuple[checks.Floats, checks.Floats]:
    """Ages today of such units that are still in service, and how likely each is: (n, k) each, rows adding up to 1.

    Raises
    ------
    ContractError : a shape or rate outside its range
    """
    possible, shapes, rates = _possible(spans, shape, rate)
    share = weights_after(possible, shapes, rates, spans.watched, np.zeros_like(shapes))
    return possible.age + spans.watched[:, None], share
