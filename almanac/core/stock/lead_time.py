"""Lead time as a distribution: days from placing an order to having it on the shelf."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from almanac.core import checks
from almanac.core.errors import ContractError


@dataclass(frozen=True)
class LeadTime:
    """days : (l,) ascending whole days · weight : (l,) probabilities adding up to 1."""

    days: NDArray[np.int64]
    weight: checks.Floats

    @property
    def mean_days(self) -> float:
        return float(self.days @ self.weight)

    @property
    def median_days(self) -> int:
        return self.days_for(0.5)

    def days_for(self, share: float) -> int:
        """Days within which at least this share of orders is there; share in (0, 1]."""
        place = int(np.searchsorted(np.cumsum(self.weight), share - 1e-12))
        return int(self.days[min(place, self.days.size - 1)])


def lead_time(days: ArrayLike, weight: ArrayLike) -> LeadTime:
    """A lead-time distribution from its support.

    Parameters
    ----------
    days : (l,) whole days >= 0, l >= 1, in any order
    weight : (l,) probabilities > 0 adding up to 1 within 1e-6

    Returns
    -------
    LeadTime

    Raises
    ------
    ContractError : an argument is outside the ranges above
    """
    support = checks.vector("days", days, low=0.0)
    chance = checks.vector("weight", weight, low=0.0, high=1.0, size=support.size)
    if support.size == 0 or abs(chance.sum() - 1.0) > 1e-6:
        raise ContractError(f"weight: probabilities adding up to 1 were wanted, got {chance.sum():g}")
    order = np.argsort(support)
    return LeadTime(np.round(support[order]).astype(np.int64), chance[order] / chance.sum())
