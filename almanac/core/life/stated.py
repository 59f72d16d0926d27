"""A stated starting point: what somebody believes of a kind before the log tells, worth as many failures as it is held to be."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from almanac.core import checks
from almanac.core.errors import ContractError
from almanac.core.life.tenures import AgeCounts

SPAN_YEARS, STEPS = 5.0, 10
"""Ages a single stated rate is spread over, and steps of each stretch of ages."""


@dataclass(frozen=True)
class Stated:
    """A belief such as "8 of 100 a year, after three years 15; as sure as if I had seen 5 fail".

    per_year : failures per unit and year, > 0 · worth : failures it weighs as much as, > 0
    after_years, later : age from which on another rate holds, and that rate; both or none
    """

    per_year: float
    worth: float
    after_years: float | None = None
    later: float | None = None

    def __post_init__(self) -> None:
        checks.positive("per_year", self.per_year)
        checks.positive("worth", self.worth)
        if (self.after_years is None) != (self.later is None):
            raise ContractError("after_years, later: both or none were wanted")
        if self.after_years is not None and self.later is not None:
            checks.positive("after_years", self.after_years)
            checks.positive("later", self.later)

    @property
    def exposure_years(self) -> float:
        """Unit-years in which it expects as many failures as it is worth, as long at either rate."""
        later = self.per_year if self.later is None else self.later
        return self.worth / ((self.per_year + later) / 2.0)


def stated_counts(stated: Stated) -> AgeCounts:
    """The belief as if it had been seen: units under watch over a span of ages, and its failures spread over it.

    With two rates the span is twice the age at which they change, so that both are seen for as long.

    Parameters
    ----------
    stated : the belief

    Returns
    -------
    AgeCounts : in years; a log of the same size weighs as much

    Raises
    ------
    Nothing.

    References
    ----------
    Gelman et al. (2013), Bayesian Data Analysis, section 2.4 (a conjugate prior as so many observations seen before).
    """
    turn = SPAN_YEARS / 2.0 if stated.after_years is None else stated.after_years
    units = stated.exposure_years / (2.0 * turn)
    later = stated.per_year if stated.later is None else stated.later
    middles = (np.arange(STEPS) + 0.5) / STEPS * turn
    age = np.concatenate((middles, turn + middles, [2.0 * turn]))
    each = units * turn / STEPS
    failed = np.concatenate((np.full(STEPS, each * stated.per_year), np.full(STEPS, each * later), [0.0]))
    whole = np.concatenate(([0.0], age))
    entered, left = np.zeros(whole.size), np.zeros(whole.size)
    entered[0], left[-1] = units, units
    return AgeCounts(whole, entered, left, np.concatenate(([0.0], failed)), 0)
