"""Projected stock without new orders, and the chance that it falls below the floor."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import Protocol

import numpy as np
from numpy.typing import ArrayLike, NDArray
from scipy.special import bdtr, gammaln, ndtr

from almanac.core import checks

NEGLIGIBLE = 1e-10
"""Moments less likely than this to break the floor are left out: together they could not move an order day."""


class Law(Protocol):
    """What a path needs of a law of demand: the exact distribution of any window of days."""

    def reaching(self, start_days: ArrayLike, end_days: ArrayLike, level: float) -> checks.Floats: ...

    def sliding(self, start_day: int, end_days: ArrayLike, level: float) -> checks.Floats: ...

    def head(self, start_days: ArrayLike, end_days: ArrayLike, most: int) -> checks.Floats: ...

    def mean_parts(self, end_days: ArrayLike) -> checks.Floats: ...

    def approximate_moments(self, end_days: ArrayLike) -> tuple[checks.Floats, checks.Floats]: ...


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

    def slack_before(self, days: ArrayLike) -> NDArray[np.int64]:
        """(w,) most demand of (0, day] that leaves the path at the floor just before what arrives on each day (w,)."""
        return np.asarray(self.available - self.floor + self.arrived_by(np.asarray(days) - 1))


def chance_below(law: Law, holding: Holding, days: ArrayLike, *, since_day: int = -1) -> checks.Floats:
    """P(path below the floor at any time after `since_day` up to each day), looked at before every arrival and on the day.

    The path only falls between arrivals, so these are the only moments that matter. Joint probabilities over several
    moments thin the count of the whole window back in time: given n draws in (0, t2], those in (0, t1] are binomial with
    the ratio of the means. That is exact for mixed Poisson demand whose pools keep their proportions.

    Parameters
    ----------
    law : distribution of demand · holding : start, arrivals and floor
    days : (w,) whole days >= 0
    since_day : moments up to this day are past mending and not looked at; a window that ends by then has chance 0

    Returns
    -------
    (w,) probabilities

    Raises
    ------
    ContractError : a negative day

    References
    ----------
    Kingman (1993), Poisson Processes, section 2.2 (thinning).
    """
    when = checks.vector("days", days, low=0.0).astype(np.int64)
    # What arrives after the last day that is looked at changes nothing before it, however far ahead it was dated.
    moments = _risky(law, holding, _moments(holding, since_day, int(when.max(initial=0))))
    slack = holding.slack_before(when)
    head = law.head(np.zeros(when.size), when, max(0, int(slack.max(initial=0))))
    chances = 1.0 - np.where(slack >= 0, np.cumsum(head, axis=1)[np.arange(when.size), np.maximum(slack, 0)], 0.0)
    seen = sorted({*moments, *when.tolist()}) if moments else []
    mean = dict(zip(seen, law.mean_parts(seen), strict=True))
    for place in np.flatnonzero(when > moments[0]) if moments else ():
        checked = [moment for moment in moments if moment < when[place]] + [int(when[place])]
        chances[place] = 1.0 - _stays_above(head[place], holding, checked, np.array([mean[day] for day in checked]))
    chances[when <= since_day] = 0.0
    return np.clip(chances, 0.0, 1.0)


def _moments(holding: Holding, since_day: int, last_day: int) -> list[int]:
    """Days of the arrivals that can matter up to a day, rising."""
    return sorted({arrival.day for arrival in holding.arrivals if since_day < arrival.day <= last_day})


def _risky(law: Law, holding: Holding, moments: list[int]) -> list[int]:
    """Moments before an arrival whose own chance of being below the floor is worth counting."""
    if not moments:
        return []
    slack = holding.slack_before(moments)
    head = law.head(np.zeros(len(moments)), moments, max(0, int(slack.max())))
    chance = [1.0 - float(row[: max(room + 1, 0)].sum()) for row, room in zip(head, slack, strict=True)]
    return [moment for moment, alone in zip(moments, chance, strict=True) if alone > NEGLIGIBLE]


def _stays_above(pmf: checks.Floats, holding: Holding, checked: list[int], means: checks.Floats) -> float:
    """P(never below the floor at the checked days), from the count of the last one backwards."""
    slack = holding.slack_before(checked).tolist()
    alive, at = _cut(pmf, slack[-1]), len(checked) - 1
    for earlier in range(len(checked) - 2, -1, -1):
        limit = slack[earlier]
        if limit >= alive.size - 1:
            continue  # no count that survives later can break this moment
        if limit < 0:
            return 0.0
        share = min(means[earlier] / means[at], 1.0) if means[at] > 0 else 1.0
        if earlier == 0:
            return float(alive[: limit + 1].sum() + alive[limit + 1 :] @ bdtr(limit, np.arange(limit + 1, alive.size), share))
        alive, at = _cut(alive @ _thinning(alive.size, share), limit), earlier
    return float(alive.sum())


def _cut(pmf: checks.Floats, limit: int) -> checks.Floats:
    return pmf[: max(limit + 1, 0)]


def _thinning(size: int, share: float) -> checks.Floats:
    """(size, size) binomial probabilities: row n, column m is P(m of n | share)."""
    n, m = np.arange(size)[:, None], np.arange(size)[None]
    if share >= 1.0:
        return np.eye(size)
    if share <= 0.0:
        return np.asarray((m == 0) * np.ones((size, 1)))
    inside = np.where(m <= n, n - m, 0)
    log_chance = gammaln(n + 1.0) - gammaln(m + 1.0) - gammaln(inside + 1.0) + m * np.log(share) + inside * np.log1p(-share)
    return np.where(m <= n, np.exp(log_chance), 0.0)


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


def guessed_chance_below(law: Law, holding: Holding, days: ArrayLike, *, since_day: int = -1) -> checks.Floats:
    """Near enough what `chance_below` computes, from two moments: where a search for a day begins, never its answer.

    Parameters
    ----------
    law, holding, days, since_day : as for `chance_below`

    Returns
    -------
    (w,) probabilities, each moment taken by itself

    Raises
    ------
    ContractError : a negative day
    """
    when = checks.vector("days", days, low=0.0).astype(np.int64)
    moments = _moments(holding, since_day, int(when.max(initial=0)))
    seen = np.concatenate([when, np.array(moments, dtype=np.int64)])
    mean, variance = law.approximate_moments(seen)
    slack = holding.slack_before(seen)
    alone = 1.0 - ndtr((slack + 0.5 - mean) / np.sqrt(np.maximum(variance, 1e-9)))
    chances = np.where(when > since_day, alone[: when.size], 0.0)
    for moment, chance in zip(moments, alone[when.size :], strict=True):
        chances = np.where(when > moment, np.maximum(chances, chance), chances)
    return chances
