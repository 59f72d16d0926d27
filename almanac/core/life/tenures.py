"""Tenures to exposure and failures by whole day of age: the sufficient statistic of every life model here."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from almanac.core import checks
from almanac.core.errors import ContractError

Ints = NDArray[np.int64]


@dataclass(frozen=True)
class AgeCounts:
    """Units entering, leaving and failing by age. A unit that enters at e and leaves at x is at risk at ages e < u <= x.

    age : (k,) distinct ages, ascending · entered, left, failed : (k,) units · dropped : units that carry no exposure
    """

    age: checks.Floats
    entered: checks.Floats
    left: checks.Floats
    failed: checks.Floats
    dropped: int

    @property
    def exposure(self) -> float:
        """Total time at risk, in the unit of `age`."""
        return float(((self.left - self.entered) * self.age).sum())

    @property
    def failures(self) -> float:
        return float(self.failed.sum())

    @property
    def units(self) -> float:
        return float(self.entered.sum())

    def at_risk(self) -> checks.Floats:
        """(k,) units at risk at each age: entered before it and not left before it."""
        entered_before = np.cumsum(self.entered) - self.entered
        left_before = np.cumsum(self.left) - self.left
        return np.asarray(entered_before - left_before)


def age_counts(entry: ArrayLike, exit_: ArrayLike, failed: ArrayLike, count: ArrayLike | None = None) -> AgeCounts:
    """Collapse tenures to counts by age.

    Parameters
    ----------
    entry, exit_ : (n,) ages at which observation began and ended, >= 0, exit_ >= entry
    failed : (n,) 0 or 1
    count : (n,) tenures each row stands for, >= 0; ones by default

    Returns
    -------
    AgeCounts : rows with exit_ == entry carry no exposure; they are left out and counted in `dropped`

    Raises
    ------
    ContractError : an argument is outside the ranges above

    References
    ----------
    Klein & Moeschberger (2003), Survival Analysis, section 4.6 (left truncation).
    """
    start = checks.vector("entry", entry, low=0.0)
    stop = checks.vector("exit", exit_, low=0.0, size=start.size)
    event = checks.vector("failed", failed, low=0.0, high=1.0, size=start.size)
    weight = np.ones(start.size) if count is None else checks.vector("count", count, low=0.0, size=start.size)
    if (stop < start).any():
        place = int(np.flatnonzero(stop < start)[0])
        raise ContractError(f"exit[{place}]: {stop[place]:g} is before entry {start[place]:g}")
    kept = stop > start
    start, stop, event, weight_kept = start[kept], stop[kept], event[kept], weight[kept]
    age, place_of = np.unique(np.concatenate((start, stop)), return_inverse=True)
    first, last = place_of[: start.size], place_of[start.size :]
    size = age.size
    return AgeCounts(
        age=age,
        entered=np.bincount(first, weight_kept, size).astype(float),
        left=np.bincount(last, weight_kept, size).astype(float),
        failed=np.bincount(last, weight_kept * event, size).astype(float),
        dropped=int(weight[~kept].sum()),
    )


def wear_out_window(entry_days: ArrayLike, exit_days: ArrayLike, dead_on_arrival_days: float) -> tuple[checks.Floats, checks.Floats]:
    """Entry and exit ages of wear-out exposure: it starts when a dead-on-arrival failure no longer can.

    Parameters
    ----------
    entry_days, exit_days : (n,) ages, >= 0
    dead_on_arrival_days : days after fitting that belong to the dead-on-arrival stream, >= 0

    Returns
    -------
    entry, exit : (n,) ages; equal where the tenure carries no wear-out exposure

    Raises
    ------
    ContractError : an argument is outside the ranges above
    """
    entry = checks.vector("entry_days", entry_days, low=0.0)
    stop = checks.vector("exit_days", exit_days, low=0.0, size=entry.size)
    first = np.maximum(entry, checks.number("dead_on_arrival_days", dead_on_arrival_days, low=0.0))
    return first, np.maximum(stop, first)
