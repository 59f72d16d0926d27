"""A law of demand at one rate for good."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from almanac.core.checks import Floats
from almanac.core.stock.rates import Rate, count_size


@dataclass(frozen=True)
class Steady:
    """Requests at one rate, known or doubted; windows that begin later are taken for ones of their length from today."""

    rate: Rate

    def reaching(self, start_days: ArrayLike, end_days: ArrayLike, level: float) -> Floats:
        """(w, n) distribution of each window's count, all of it whatever the level."""
        del level
        days = np.asarray(end_days, dtype=np.float64) - np.asarray(start_days, dtype=np.float64)
        return self.rate.pmf(days, count_size(self.rate, float(days.max(initial=1.0))))

    def head(self, start_days: ArrayLike, end_days: ArrayLike, most: int) -> Floats:
        """(w, most + 1) the same up to a count."""
        days = np.asarray(end_days, dtype=np.float64) - np.asarray(start_days, dtype=np.float64)
        return self.rate.pmf(days, most + 1)

    def mean_parts(self, end_days: ArrayLike) -> Floats:
        """(w,) expected until each day."""
        return np.asarray(self.rate.mean_per_day * np.asarray(end_days, dtype=np.float64))
