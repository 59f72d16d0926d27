"""Projected stock without new orders."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import Protocol

import numpy as np
from numpy.typing import ArrayLike, NDArray

from almanac.core import checks


class Law(Protocol):
    """What a path needs of a law of demand: the exact distribution of any window of days."""

    def reaching(self, start_days: ArrayLike, end_days: ArrayLike, level: float) -> checks.Floats: ...

    def head(self, start_days: ArrayLike, end_days: ArrayLike, most: int) -> checks.Floats: ...

    def mean_parts(self, end_days: ArrayLike) -> checks.Floats: ...


@dataclass(frozen=True)
class Arrival:
    """Confirmed parts on their way; `day` counts from the as-of day, at least 1."""

    day: int
    quantity: int


@dataclass(frozen=True)
class Holding:
    """What the path starts from: on hand less what is promised, arrivals in order of day, and the floor."""

    available: int
    arrivals: tuple[Arrival, ...] = ()
    floor: int = 0

    @property
    def on_order(self) -> int:
        return sum(arrival.quantity for arrival in self.arrivals)

    @cached_property
    def _arrivals(self) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        """(a,) days of the arrivals, rising, and (a + 1,) parts after so many of them."""
        ordered = sorted(self.arrivals, key=lambda arrival: arrival.day)
        total = np.cumsum([0, *(arrival.quantity for arrival in ordered)], dtype=np.int64)
        return np.array([arrival.day for arrival in ordered], dtype=np.int64), total

    def arrived_by(self, days: ArrayLike) -> NDArray[np.int64]:
        """(w,) parts that arrive on or before each day (w,)."""
        due, total = self._arrivals
        return np.asarray(total[np.searchsorted(due, days, side="right")])


def path_quantiles(demand_quantiles: NDArray[np.int64], holding: Holding, days: ArrayLike) -> NDArray[np.int64]:
    """Stock on each day after its arrivals, for demand quantiles of the same days.

    Parameters
    ----------
    demand_quantiles : (w,) cumulative demand · days : (w,) whole days

    Returns
    -------
    (w,) parts; below zero is unmet demand

    Raises
    ------
    ContractError : the sizes differ
    """
    when = checks.vector("days", days, low=0.0, size=demand_quantiles.size).astype(int)
    return np.asarray(holding.available + holding.arrived_by(when) - demand_quantiles)
