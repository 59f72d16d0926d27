"""Ages nobody knows: the ages a unit may have had, each weighted by having survived to it, and the renewal law of a machine's parts."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from almanac.core import checks
from almanac.core.forecast.company import Ages

AGES = 16
"""Ages at which a span is looked at."""
RENEWAL_STEPS = 64


@dataclass(frozen=True)
class PossibleAges:
    """(n, k) ages a unit of unknown age may have, and how likely each was before anybody asked how long it lasted."""

    age: checks.Floats
    base: checks.Floats


def possible_ages(ages: Ages, shape: checks.Floats, rate: checks.Floats) -> PossibleAges:
    """Ages of the units whose age is unknown, when lives are Weibull.

    Within a span every age is as likely a day of fitting as another. Where the span ends at the machine's own age A, the renewal law
    knows more: its first part with chance S(A), a later one of age a with m(A - a) S(a).

    Parameters
    ----------
    ages : with spans · shape, rate : (n,) of each unit's pool, rate per year^shape

    Returns
    -------
    PossibleAges : of the units of unknown age, in their order; base is free of S(a), for a machine's own age of all but the renewal

    References
    ----------
    Cox (1962), Renewal Theory, section 5.
    """
    of = ages.unknown
    low, high, first = ages.low[of], ages.high[of], ages.first[of]
    middles = (np.arange(AGES) + 0.5) / AGES
    age = low[:, None] + (high - low)[:, None] * middles[None]
    base = np.repeat(((high - low) / AGES)[:, None], AGES, axis=1)
    base[high <= low] = 1.0 / AGES
    if not first.any():
        return PossibleAges(age, base)
    renewed = _renewal_density(high[:, None] - age, high, shape[of], rate[of])
    base = np.where(first[:, None], base * renewed, base)
    whole = np.column_stack((age, high))
    # The first part was fitted with its machine: one point in time, not a density.
    return PossibleAges(whole, np.column_stack((base, np.where(first, 1.0, 0.0))))


def _renewal_density(since: checks.Floats, whole: checks.Floats, shape: checks.Floats, rate: checks.Floats) -> checks.Floats:
    """(n, k) m(t), failures a year of a position t years after its machine was new: F + F * m on a grid, unit by unit."""
    edges = np.linspace(0.0, 1.0, RENEWAL_STEPS + 1)[None] * np.maximum(whole, 1e-9)[:, None]
    grown = -np.expm1(-rate[:, None] * edges ** shape[:, None])
    failing = np.diff(grown, axis=1)
    expected = np.zeros_like(failing)
    for step in range(RENEWAL_STEPS):
        again = np.einsum("ns,ns->n", expected[:, :step], failing[:, step - 1 :: -1][:, :step]) if step else 0.0
        expected[:, step] = failing[:, step] + again
    step_years = np.maximum(whole, 1e-9) / RENEWAL_STEPS
    place = np.clip((since / step_years[:, None]).astype(np.int64), 0, RENEWAL_STEPS - 1)
    return np.asarray(np.take_along_axis(expected, place, axis=1) / step_years[:, None])


def weights(possible: PossibleAges, shape: checks.Floats, rate: checks.Floats) -> checks.Floats:
    """(n, k) how likely each age is of a unit that is there: its base and having survived to it."""
    return _normal(np.log(np.maximum(possible.base, 1e-300)) - rate[:, None] * possible.age ** shape[:, None])


def weights_after(
    possible: PossibleAges, shape: checks.Floats, rate: checks.Floats, watched: checks.Floats, failed: checks.Floats
) -> checks.Floats:
    """(n, k) the same once it is known how long the unit lasted under watch, and whether it failed then."""
    end = possible.age + watched[:, None]
    value = np.log(np.maximum(possible.base, 1e-300)) - rate[:, None] * end ** shape[:, None]
    value += np.where(failed[:, None] > 0, (shape[:, None] - 1.0) * np.log(np.maximum(end, 1e-9)), 0.0)
    return _normal(value)


def _normal(log_weight: checks.Floats) -> checks.Floats:
    weight = np.exp(log_weight - log_weight.max(axis=1, keepdims=True))
    return np.asarray(weight / weight.sum(axis=1, keepdims=True))
