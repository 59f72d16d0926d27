"""Failures of a stock part whose lives wear out: the exact law of a window, mixed over every pool's level and the kind's nodes.

Given (beta, a) of a node, each pool's lambda is a gamma of its own record; given lambda, positions are independent. A pool's log
generating function is a power series in z - 1 summed over its ages; positions that are likely to fail in the window, where the
series converges slowly, are evaluated directly.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from almanac.core import checks
from almanac.core.demand.counts import Complexes
from almanac.core.demand.life_table import TERMS, LifeTable
from almanac.core.demand.life_tables import MOST_KEPT, Levels, LifeTables, barycentric, gamma_points
from almanac.core.errors import ContractError

LIKELY = 0.4
"""A position that fails in the window with more than this chance is evaluated directly."""
DAYS_PER_YEAR = 365.25
RARE = 1e-6
"""Levels rarer than this do not decide how a position is evaluated."""
Ints = NDArray[np.int64]
EVERY = slice(None)
ALIKE_YEARS = 0.05
"""Positions evaluated one by one are put together where their ages differ by less, at their mean age."""


@dataclass(frozen=True)
class Cells:
    """Positions alike, by row: their pool, the age of their part in years, how many, and the days they enter and leave service."""

    pool: Ints
    age: checks.Floats
    units: checks.Floats
    enter: checks.Floats
    leave: checks.Floats


def cells(pool: NDArray[np.int64], age: checks.Floats, units: checks.Floats, enter: checks.Floats, leave: checks.Floats) -> Cells:
    """Checked positions.

    Parameters
    ----------
    pool : (n,) row of the pool · age : (n,) years when it enters or on day 0, >= 0 · units : (n,) >= 0
    enter, leave : (n,) days from now; 0 or earlier is in service today; leave may be inf

    Returns
    -------
    Cells : rows that are never in service left out

    Raises
    ------
    ContractError : an argument outside its range
    """
    old = checks.vector("age", age, low=0.0)
    number = checks.vector("units", units, low=0.0, size=old.size)
    begin = np.maximum(checks.vector("enter", enter, size=old.size), 0.0)
    end = np.asarray(leave, dtype=np.float64)
    if end.shape != old.shape or np.isnan(end).any():
        raise ContractError("leave: a day for each row was wanted, infinite where none is planned")
    kept = (number > 0) & (end > begin)
    return Cells(np.asarray(pool, dtype=np.int64)[kept], old[kept], number[kept], begin[kept], end[kept])


@dataclass(frozen=True)
class _Leaving:
    """Units by the day they leave: their ages, and what they fail with until then.

    day : (d,) rising · weights : (d, p, u) units on the grid of ages · before : of each table, (d + 1, p, l, TERMS) log series of the
    first to leave
    """

    day: checks.Floats
    weights: checks.Floats
    before: list[checks.Floats]


@dataclass
class WearOut:
    """Wear-out failures of some pools of a kind with their positions.

    kind : tables of the kind · pools : (p,) rows of the kind's pools · positions : their cells, `pool` counting from 0 to p - 1
    """

    kind: LifeTables
    pools: Ints
    positions: Cells
    _series: dict[tuple[float, float], list[checks.Floats]] = field(default_factory=dict)
    _stayed: dict[tuple[int, int, int], checks.Floats] = field(default_factory=dict)

    @property
    def node_weight(self) -> checks.Floats:
        """(k,) weights of the nodes."""
        return self.kind.nodes.weight

    def hazard_of_pools(self) -> checks.Floats:
        """(k, p) H of each pool's own record under each node's shape, in years^beta."""
        return np.asarray(self.kind.nodes.hazard[:, self.pools])

    def forget(self) -> None:
        """Drop what was kept for windows to come; a law that is kept for long needs no more than its answers."""
        self._series.clear()
        self._stayed.clear()
        for name in ("_leaving", "_aged", "_units_of"):
            self.__dict__.pop(name, None)

    def mean_by_pool(self, windows: checks.Floats) -> checks.Floats:
        """(w, p) expected failures in the days (start, end] of each window, over all nodes."""
        mean, _ = self.level_moments(windows)
        return np.asarray(np.einsum("k,wkp->wp", self.node_weight, mean))

    def level_moments(self, windows: checks.Floats) -> tuple[checks.Floats, checks.Floats]:
        """(w, k, p) mean over lambda of each pool's expected failures, and its variance: how unsure the rate itself is."""
        levels, weight, place = self._levels(8)
        count = self._expected(windows, place, levels)
        mean = np.einsum("kpn,wkpn->wkp", weight, count)
        return mean, np.einsum("kpn,wkpn->wkp", weight, (count - mean[..., None]) ** 2)

    def moments(self, windows: checks.Floats) -> tuple[checks.Floats, checks.Floats]:
        """(w, k) mean and variance of all failures."""
        levels, weight, place = self._levels(8)
        series = self._coefficients(windows, place, levels, 2)
        first = np.einsum("kpn,wkpn->wkp", weight, series[..., 0])
        spread = np.einsum("kpn,wkpn->wkp", weight, series[..., 0] + 2 * series[..., 1] + (series[..., 0] - first[..., None]) ** 2)
        return np.asarray(first.sum(axis=-1)), np.maximum(spread.sum(axis=-1), 1e-12)

    def generating(self, windows: checks.Floats, used: Complexes) -> Complexes:
        """(w, k, j) generating function of the failures at points, mixed over each pool's lambda.

        Parameters
        ----------
        windows : (w, 2) whole days · used : (j,) points on or inside the unit circle
        """
        y = used - 1.0
        powers = y[None] ** np.arange(1, TERMS + 1)[:, None]
        total = np.ones((windows.shape[0], self.node_weight.size, used.size), dtype=np.complex128)
        if self.positions.units.size == 0:
            return total
        levels, weight, place = self._levels(self._points(windows))
        for row, window in enumerate(windows):
            likely = self._likely(window, np.where(weight > RARE, levels, 0.0))
            series = self._coefficients(window[None], place, levels, TERMS, skip=likely)[0]
            log_g = (series @ powers.real) + 1j * (series @ powers.imag) + self._direct(window, likely, place, y)
            # The series may run away at levels too rare to matter; no generating function is larger than 1 on the unit circle.
            log_g.real = np.minimum(log_g.real, 0.0)
            total[row] = np.matmul(weight[..., None, :], np.exp(log_g))[..., 0, :].prod(axis=1)
        return total

    def _points(self, windows: checks.Floats) -> int:
        """More points of lambda where the doubt about it spreads the count further than chance does."""
        mean, doubt = self.level_moments(windows)
        ratio = float(np.sqrt(np.divide(doubt, np.maximum(mean, 1e-9)).max(initial=0.0)))
        # Small ratios need few points; for large ones it is enough that neighbouring points lie closer than chance spreads a count.
        return int(np.clip(min(4 + 4 * ratio + 4 * ratio**2, 8 + 6 * ratio), 4, 48))

    def _levels(self, points: int) -> Levels:
        """Levels (k, p, n), their weights, and for each table the interpolation weights (k', p, n, l) of its nodes."""
        key = (points, tuple(self.pools.tolist()))
        known = self.kind.kept.get(key)
        if known is None:
            known = self._leveled(points)
            if len(self.kind.kept) >= MOST_KEPT:
                self.kind.kept.clear()
            self.kind.kept[key] = known
        return known

    def _leveled(self, points: int) -> Levels:
        shape, rate = self.kind.level_shape()[:, self.pools], self.kind.level_rate()[:, self.pools]
        values, weight = gamma_points(shape, points)
        levels = values / rate[..., None]
        log_levels = np.log(levels)
        place = [barycentric(table.log_level, log_levels[self.kind.table_of == i]) for i, table in enumerate(self.kind.tables)]
        return levels, weight, place

    def _expected(self, windows: checks.Floats, place: list[checks.Floats], levels: checks.Floats) -> checks.Floats:
        return np.asarray(self._coefficients(windows, place, levels, 1)[..., 0])

    def _coefficients(
        self,
        windows: checks.Floats,
        place: list[checks.Floats],
        levels: checks.Floats,
        terms: int,
        *,
        skip: NDArray[np.bool_] | None = None,
    ) -> checks.Floats:
        """(w, k, p, n, terms) coefficients of y, y^2, ... of each pool's log generating function."""
        out = np.zeros((windows.shape[0], *levels.shape, terms))
        for row, (start, end) in enumerate(windows):
            for i, series in enumerate(self._pool_series(float(start), float(end), skip)):
                per_level = series[..., :terms] / self.kind.tables[i].level[:, None]
                out[row, self.kind.table_of == i] = np.matmul(place[i], per_level)
        return out * levels[None, ..., None]

    def _pool_series(self, start: float, end: float, skip: NDArray[np.bool_] | None) -> list[checks.Floats]:
        """(p, l, TERMS) log series of the pools on each table's levels."""
        known = self._series.get((start, end))
        if known is None:
            known = self._series[start, end] = self._from_today(end) if start == 0 else self._later(start, end)
        if skip is None or not skip.any():
            return known
        left_out = self._summed(start, end, np.flatnonzero(skip))
        return [whole - part for whole, part in zip(known, left_out, strict=True)]

    def _from_today(self, end: float) -> list[checks.Floats]:
        """Windows from day 0: those who left before its end stand at what they had when they left."""
        leaving, found = self._leaving, self._summed(0, end, self._entering)
        gone = int(np.searchsorted(leaving.day, end, side="left"))
        for i, table in enumerate(self.kind.tables):
            found[i] += leaving.before[i][gone]
            for knot, share in table.knots_of(end / DAYS_PER_YEAR):
                found[i] += share * self._staying(i, gone, knot)
        return found

    def _later(self, start: float, end: float) -> list[checks.Floats]:
        """Windows that begin later. Expected failures are a difference, so that those of months add up."""
        found = self._summed(start, end, np.arange(self.positions.units.size))
        for series, until, before in zip(found, self._pool_series(0, end, None), self._pool_series(0, start, None), strict=True):
            series[..., 0] = until[..., 0] - before[..., 0]
        return found

    @cached_property
    def _entering(self) -> Ints:
        return np.flatnonzero(self.positions.enter > 0)

    @cached_property
    def _aged(self) -> checks.Floats:
        """(n, u) weights of each position on the grid of ages, which the tables of a kind share."""
        return self.kind.tables[0].at_ages(self.positions.age)

    @cached_property
    def _units_of(self) -> checks.Floats:
        """(p, n) units of each position in the row of its pool."""
        return np.asarray((np.arange(self.pools.size)[:, None] == self.positions.pool) * self.positions.units)

    def _weights(self, rows: Ints) -> checks.Floats:
        """(p, u) units of each pool on the grid of ages."""
        return np.asarray(self._units_of[:, rows] @ self._aged[rows])

    def _staying(self, i: int, gone: int, knot: int) -> checks.Floats:
        """(p, l, TERMS) log series until a knot of the table of those who are still there after `gone` days of leaving."""
        key = (i, gone, knot)
        known = self._stayed.get(key)
        if known is None:
            weights = self._leaving.weights[gone:].sum(axis=0)
            known = self._stayed[key] = _over_ages(weights, self.kind.tables[i].knot_series(knot))
        return known

    @cached_property
    def _leaving(self) -> _Leaving:
        """Positions in service today, by the day they leave."""
        rows = np.flatnonzero(self.positions.enter <= 0)
        days = np.unique(self.positions.leave[rows])
        weights = np.array([self._weights(rows[self.positions.leave[rows] == day]) for day in days])
        weights = weights.reshape(-1, self.pools.size, self.kind.tables[0].ages.size)
        before = []
        for table in self.kind.tables:
            series = np.zeros((days.size + 1, self.pools.size, table.level.size, TERMS))
            for place in np.flatnonzero(days <= self.kind.horizon_days):
                series[place + 1] = _over_ages(weights[place], table.series(0.0, float(days[place]) / DAYS_PER_YEAR))
            before.append(np.cumsum(series, axis=0))
        return _Leaving(days, weights, before)

    def _summed(self, start: float, end: float, rows: Ints) -> list[checks.Floats]:
        """Positions with one stretch of time in the window are looked up together, and added up by pool."""
        out = [np.zeros((self.pools.size, table.level.size, TERMS)) for table in self.kind.tables]
        for (first, last), group in _groups(_stretches(self.positions, start, end, rows), rows):
            weights = self._weights(group)
            for i, table in enumerate(self.kind.tables):
                out[i] += _over_ages(weights, table.series(first / DAYS_PER_YEAR, last / DAYS_PER_YEAR))
        return out

    def _likely(self, window: checks.Floats, levels: checks.Floats) -> NDArray[np.bool_]:
        """Positions that fail in the window with a chance past LIKELY at the highest level of their pool, under any shape."""
        stretch = _stretches(self.positions, float(window[0]), float(window[1])) / DAYS_PER_YEAR
        at = self.positions.age + np.where(self.positions.enter > 0, 0.0, stretch[:, 0])
        length = stretch[:, 1] - stretch[:, 0]
        found = np.zeros(at.size, dtype=bool)
        top = levels.max(axis=-1)
        for i, table in enumerate(self.kind.tables):
            level = top[self.kind.table_of == i].max(axis=0)[self.positions.pool]
            gathered = level * ((at + length) ** table.shape - at**table.shape)
            found |= -np.expm1(-gathered) > LIKELY
        return found

    def _direct(self, window: checks.Floats, likely: NDArray[np.bool_], place: list[checks.Floats], y: Complexes) -> Complexes:
        """(k, p, n, j) log generating function of the likely positions, term by term."""
        out = np.zeros((self.node_weight.size, *place[0].shape[1:3], y.size), dtype=np.complex128)
        chosen = np.flatnonzero(likely)
        groups = _groups(_stretches(self.positions, float(window[0]), float(window[1]), chosen), chosen)
        if not groups:
            return out
        alike = [_alike(self.positions, group) for _, group in groups]
        pools, units = (np.concatenate([one[place] for one in alike]) for place in (0, 2))
        for i, table in enumerate(self.kind.tables):
            nodes = self.kind.table_of == i
            moments = np.concatenate([self._moments_of(table, own, one[1]) for (own, _), one in zip(groups, alike, strict=True)])
            powers = y[None] ** np.arange(1, moments.shape[-1] + 1)[:, None]
            for pool in np.unique(pools):
                mine = pools == pool
                share = place[i][:, pool]
                binomial = np.tensordot(share, moments[mine], axes=(2, 1)) * np.exp(share @ table.log_level)[..., None, None]
                value = 1.0 + binomial @ powers
                log_g = 0.5 * np.log(np.maximum(value.real**2 + value.imag**2, 1e-300)) + 1j * np.arctan2(value.imag, value.real)
                out[nodes, pool] += np.einsum("r,knrj->knj", units[mine], log_g)
        return out

    def _moments_of(self, table: LifeTable, own: tuple[float, float], age: checks.Floats) -> checks.Floats:
        """(r, l, j) binomial moments of positions of some ages over a stretch, per unit of level."""
        moments = table.between(own[0] / DAYS_PER_YEAR, own[1] / DAYS_PER_YEAR) / table.level[:, None, None]
        return _over_ages(table.at_ages(age), moments)


def _alike(positions: Cells, rows: Ints) -> tuple[Ints, checks.Floats, checks.Floats]:
    """Positions of one pool and nearly one age put together: pools, mean ages and units."""
    step = np.round(positions.age[rows] / ALIKE_YEARS).astype(np.int64)
    kinds, place = np.unique(np.column_stack((positions.pool[rows], step)), axis=0, return_inverse=True)
    units = np.asarray(np.bincount(place.ravel(), positions.units[rows]), dtype=np.float64)
    return kinds[:, 0], np.bincount(place.ravel(), positions.units[rows] * positions.age[rows]) / units, units


def _over_ages(weights: checks.Floats, table: checks.Floats) -> checks.Floats:
    """(p, l, j) a table of ages (l, u, j) added up over weights (p, u)."""
    levels, ages, terms = table.shape
    flat = weights @ table.transpose(1, 0, 2).reshape(ages, levels * terms)
    return np.asarray(flat.reshape(-1, levels, terms))


def _stretches(positions: Cells, start: float, end: float, rows: Ints | slice = EVERY) -> checks.Floats:
    """(n, 2) days of its own time, from when it entered, that each position spends in a window."""
    enter, leave = positions.enter[rows], positions.leave[rows]
    first = np.maximum(np.minimum(start, leave) - enter, 0.0)
    last = np.maximum(np.minimum(end, leave) - enter, 0.0)
    return np.column_stack((first, np.maximum(first, last)))


def _groups(own: checks.Floats, rows: Ints) -> list[tuple[tuple[float, float], Ints]]:
    """Rows by their stretch; those of no time left out."""
    if rows.size == 0:
        return []
    kinds, place = np.unique(own, axis=0, return_inverse=True)
    order = np.argsort(place.ravel(), kind="stable")
    split = np.split(rows[order], np.searchsorted(place.ravel()[order], np.arange(1, kinds.shape[0])))
    return [((float(a), float(b)), group) for (a, b), group in zip(kinds, split, strict=True) if b > a]
