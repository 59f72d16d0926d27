"""Tenures to exposure and failures by whole day of age: the sufficient statistic of every life model here."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import ArrayLike, NDArray

from almanac.core import checks
from almanac.core.errors import ContractError

Ints = NDArray[np.int64]


@dataclass(frozen=True)
class Finds:
    """Failures found at a look: each happened at some age in (low, high].

    low, high : (f,) ages, low < high · count : (f,) units
    early : (f,) share of the way from high back to low at which each counts as having left, a half where nothing better is known
    """

    low: checks.Floats
    high: checks.Floats
    count: checks.Floats
    early: checks.Floats

    @property
    def any(self) -> bool:
        return bool(self.count.size)


NO_FINDS = Finds(np.empty(0), np.empty(0), np.empty(0), np.empty(0))


@dataclass(frozen=True)
class AgeCounts:
    """Units entering, leaving and failing by age. A unit that enters at e and leaves at x is at risk at ages e < u <= x.

    age : (k,) distinct ages, ascending · entered, left, failed : (k,) units · dropped : units that carry no exposure
    finds : failures of which only two ages are known that they lie between. They are not in `failed`; in `left` each is shared
    out between its two ages, so that whatever adds up over ages has it on the way between them
    """

    age: checks.Floats
    entered: checks.Floats
    left: checks.Floats
    failed: checks.Floats
    dropped: int
    finds: Finds = NO_FINDS

    @property
    def exposure(self) -> float:
        """Total time at risk, in the unit of `age`."""
        return float(((self.left - self.entered) * self.age).sum())

    @property
    def failures(self) -> float:
        return float(self.failed.sum() + self.finds.count.sum())

    @property
    def units(self) -> float:
        return float(self.entered.sum())

    def at_risk(self) -> checks.Floats:
        """(k,) units at risk at each age: entered before it and not left before it."""
        entered_before = np.cumsum(self.entered) - self.entered
        left_before = np.cumsum(self.left) - self.left
        return np.asarray(entered_before - left_before)


def age_counts(
    entry: ArrayLike, exit_: ArrayLike, failed: ArrayLike, count: ArrayLike | None = None, looked: ArrayLike | None = None
) -> AgeCounts:
    """Collapse tenures to counts by age.

    Parameters
    ----------
    entry, exit_ : (n,) ages at which observation began and ended, >= 0, exit_ >= entry
    failed : (n,) 0 or 1
    count : (n,) tenures each row stands for, >= 0; ones by default
    looked : (n,) age at the last look that saw a failed unit in order, <= exit_: it failed between then and exit_; at exit_ itself
    where the age of the failure is known, which is the default

    Returns
    -------
    AgeCounts : rows with exit_ == entry carry no exposure; they are left out and counted in `dropped`

    Raises
    ------
    ContractError : an argument is outside the ranges above

    References
    ----------
    Klein & Moeschberger (2003), Survival Analysis, sections 4.6 (left truncation) and 5.2 (interval censoring).
    """
    start = checks.vector("entry", entry, low=0.0)
    stop = checks.vector("exit", exit_, low=0.0, size=start.size)
    event = checks.vector("failed", failed, low=0.0, high=1.0, size=start.size)
    weight = np.ones(start.size) if count is None else checks.vector("count", count, low=0.0, size=start.size)
    if (stop < start).any():
        place = int(np.flatnonzero(stop < start)[0])
        raise ContractError(f"exit[{place}]: {stop[place]:g} is before entry {start[place]:g}")
    seen = stop if looked is None else checks.vector("looked", looked, low=0.0, size=start.size)
    if (seen > stop).any():
        place = int(np.flatnonzero(seen > stop)[0])
        raise ContractError(f"looked[{place}]: {seen[place]:g} is after exit {stop[place]:g}")
    kept = stop > start
    low = np.maximum(seen, start)[kept]
    start, stop, event, weight_kept = start[kept], stop[kept], event[kept], weight[kept]
    found = (event > 0) & (low < stop)
    age, place_of = np.unique(np.concatenate((start, stop, low[found])), return_inverse=True)
    first, last = place_of[: start.size], place_of[start.size : 2 * start.size]
    size, event = age.size, np.where(found, 0.0, event)
    counts = AgeCounts(
        age=age,
        entered=np.bincount(first, weight_kept, size).astype(float),
        left=np.bincount(last, weight_kept, size).astype(float),
        failed=np.bincount(last, weight_kept * event, size).astype(float),
        dropped=int(weight[~kept].sum()),
    )
    if not found.any():
        return counts
    between = np.column_stack((low[found], stop[found]))
    kinds, row = np.unique(between, axis=0, return_inverse=True)
    whole = np.bincount(row.ravel(), weight_kept[found], kinds.shape[0]).astype(float)
    finds = Finds(kinds[:, 0], kinds[:, 1], whole, np.zeros(whole.size))
    return shared_out(replace(counts, finds=finds), np.full(whole.size, 0.5))


def shared_out(ages: AgeCounts, early: checks.Floats) -> AgeCounts:
    """The same counts with each find elsewhere between its two ages.

    Parameters
    ----------
    ages : with f finds · early : (f,) share of each that counts as having left at its low age, the rest at its high one

    Returns
    -------
    AgeCounts

    Raises
    ------
    ContractError : a share outside 0 .. 1
    """
    finds = ages.finds
    share = checks.vector("early", early, low=0.0, high=1.0, size=finds.count.size)
    moved = finds.count * (share - finds.early)
    left = ages.left.copy()
    np.add.at(left, np.searchsorted(ages.age, finds.low), moved)
    np.add.at(left, np.searchsorted(ages.age, finds.high), -moved)
    return replace(ages, left=left, finds=replace(finds, early=share))


def together(pools: Sequence[AgeCounts]) -> AgeCounts:
    """All pools as one.

    Parameters
    ----------
    pools : with one unit of age, at least one

    Returns
    -------
    AgeCounts

    Raises
    ------
    ContractError : no pool
    """
    if not pools:
        raise ContractError("pools: at least one was wanted")
    age, place = np.unique(np.concatenate([pool.age for pool in pools]), return_inverse=True)
    columns = [np.concatenate([getattr(pool, name) for pool in pools]) for name in ("entered", "left", "failed")]
    entered, left, failed = (np.bincount(place, column, age.size).astype(float) for column in columns)
    finds = Finds(*(np.concatenate([getattr(pool.finds, name) for pool in pools]) for name in ("low", "high", "count", "early")))
    return AgeCounts(age, entered, left, failed, sum(pool.dropped for pool in pools), finds)


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
