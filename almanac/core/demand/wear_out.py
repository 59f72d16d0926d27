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
from almanac.core.demand.cells import Cells
from almanac.core.demand.counts import Complexes
from almanac.core.demand.life_table import TERMS, LifeTable
from almanac.core.demand.life_tables import LifeTables
from almanac.core.demand.trends import Trends

LIKELY = 0.5
"""A position of which more failures than this are expected in the window is evaluated directly."""
LIKELY_OF_FEW = 0.25
"""The same in a pool that expects FEW: what cutting the series leaves out does not drown in a generating function near zero there."""
FEW = 4.0
DAYS_PER_YEAR = 365.25
RARE = 1e-4
"""Levels rarer than this do not decide how a position is evaluated."""
LARGEST_LOG = 30.0
"""A series may run away at levels too rare to matter; it is held here, and the whole inside the unit circle."""
WINDOWS_PER_LEAVING = 4
"""Few windows are summed over all positions; for more it pays to keep what those who leave had until each day that some leave."""
Ints = NDArray[np.int64]
ALIKE_YEARS = 0.05
"""Positions evaluated one by one are put together where their ages differ by less, at their mean age."""


@dataclass(frozen=True)
class _Leaving:
    """Units by the day they leave: their ages, and what they fail with until then.

    day : (d,) rising · weights : (d + 1, p, u) units on the grid of ages that are left after so many leavings
    before : (d + 1, p, m, TERMS) log series of the first to leave
    """

    day: checks.Floats
    weights: checks.Floats
    before: checks.Floats


@dataclass
class WearOut:
    """Wear-out failures of some pools of a kind with their positions.

    kind : tables of the kind · pools : (p,) rows of the kind's pools · positions : their cells, `pool` counting from 0 to p - 1
    followed : units that readings tell more of than their age does; they are in no cell
    """

    kind: LifeTables
    pools: Ints
    positions: Cells
    followed: Trends | None = None
    _series: dict[tuple[float, float], checks.Floats] = field(default_factory=dict)
    _stayed: dict[tuple[int, int], checks.Floats] = field(default_factory=dict)

    @property
    def node_weight(self) -> checks.Floats:
        """(k,) weights of the nodes."""
        return self.kind.nodes.weight

    @property
    def table(self) -> LifeTable:
        """Of the kind."""
        return self.kind.table

    def hazard_of_pools(self) -> checks.Floats:
        """(k, p) H of each pool's own record under each node's shape, in years^beta."""
        return np.asarray(self.kind.nodes.hazard[:, self.pools])

    def forget(self) -> None:
        """Drop what was kept for windows to come; a law that is kept for long needs no more than its answers."""
        self._series.clear()
        self._stayed.clear()
        for name in ("_leaving", "_aged"):
            self.__dict__.pop(name, None)

    def mean_by_pool(self, windows: checks.Floats) -> checks.Floats:
        """(w, p) expected failures in the days (start, end] of each window, over all nodes."""
        mean, _ = self.level_moments(windows)
        return np.asarray(np.einsum("k,wkp->wp", self.node_weight, mean))

    def level_moments(self, windows: checks.Floats) -> tuple[checks.Floats, checks.Floats]:
        """(w, k, p) mean over lambda of each pool's expected failures, and its variance: how unsure the rate itself is."""
        weight, series = self._coefficients(windows, 1)
        count = series[..., 0]
        mean = np.einsum("kpn,wkpn->wkp", weight, count)
        doubt = np.einsum("kpn,wkpn->wkp", weight, (count - mean[..., None]) ** 2)
        return mean + self._followed_by_pool(windows)[:, None], doubt

    def moments(self, windows: checks.Floats) -> tuple[checks.Floats, checks.Floats]:
        """(w, k) mean and variance of all failures."""
        weight, series = self._coefficients(windows, 2)
        first = np.einsum("kpn,wkpn->wkp", weight, series[..., 0])
        spread = np.einsum("kpn,wkpn->wkp", weight, series[..., 0] + 2 * series[..., 1] + (series[..., 0] - first[..., None]) ** 2)
        crossing = self._crossing(windows)
        mean = first.sum(axis=-1) + crossing.sum(axis=-1)[:, None]
        return mean, np.maximum(spread.sum(axis=-1) + (crossing * (1.0 - crossing)).sum(axis=-1)[:, None], 1e-12)

    def _crossing(self, windows: checks.Floats) -> checks.Floats:
        """(w, n) probability that each followed unit crosses in each window."""
        if self.followed is None:
            return np.zeros((windows.shape[0], 0))
        return np.asarray(self.followed.crossed(windows[:, 1]) - self.followed.crossed(windows[:, 0]))

    def _followed_by_pool(self, windows: checks.Floats) -> checks.Floats:
        """(w, p) expected crossings of the followed units."""
        if self.followed is None:
            return np.zeros((windows.shape[0], self.pools.size))
        of_pool = (self.followed.pool[:, None] == np.arange(self.pools.size)).astype(np.float64)
        return np.asarray(self._crossing(windows) @ of_pool)

    def generating(self, windows: checks.Floats, used: Complexes) -> Complexes:
        """(w, k, j) generating function of the failures at points, mixed over each pool's lambda.

        Parameters
        ----------
        windows : (w, 2) whole days · used : (j,) points on or inside the unit circle
        """
        y = used - 1.0
        total = np.ones((windows.shape[0], self.node_weight.size, used.size), dtype=np.complex128)
        crossing = self._crossing(windows)
        if crossing.size:
            total *= (1.0 + crossing[:, :, None] * y).prod(axis=1)[:, None, :]
        if self.positions.units.size == 0:
            return total
        powers = y[None] ** np.arange(1, TERMS + 1)[:, None]
        levels, weight, place = self.kind.levels(self._points(windows), self.pools)
        top = np.where(weight > RARE, levels, 0.0).max(axis=-1)
        for row, (start, end) in enumerate(windows):
            likely = self._likely(start, end, top)
            series = self._leveled(self._pool_series(start, end, likely), levels, place)
            log_g = np.empty((*levels.shape, used.size), dtype=np.complex128)
            log_g.real = np.minimum(series @ powers.real, LARGEST_LOG)
            log_g.imag = series @ powers.imag
            value = np.exp(log_g, out=log_g)
            self._multiply_direct(value, (start, end), likely, levels, place, used)
            _hold_inside(value)
            total[row] *= np.matmul(weight[..., None, :], value)[..., 0, :].prod(axis=1)
        return total

    def _points(self, windows: checks.Floats) -> int:
        """More points of lambda where the doubt about it spreads the count further than chance does."""
        mean, doubt = self.level_moments(windows)
        ratio = float(np.sqrt(np.divide(doubt, np.maximum(mean, 1e-9)).max(initial=0.0)))
        # Small ratios need few points; for large ones it is enough that neighbouring points lie closer than chance spreads a count.
        return int(np.clip(min(3 + 3 * ratio + 2 * ratio**2, 5 + 4 * ratio), 3, 48))

    def _coefficients(self, windows: checks.Floats, terms: int) -> tuple[checks.Floats, checks.Floats]:
        """Weights (k, p, n) of some levels, and (w, k, p, n, terms) coefficients of y, y^2, ... of each pool's log generating function."""
        levels, weight, place = self.kind.levels(8, self.pools)
        out = np.empty((windows.shape[0], *levels.shape, terms))
        for row, (start, end) in enumerate(windows):
            out[row] = self._leveled(self._pool_series(start, end, None)[..., :terms], levels, place)
        return weight, out

    def _leveled(self, series: checks.Floats, levels: checks.Floats, place: checks.Floats) -> checks.Floats:
        """(k, p, n, terms) series (p, m, terms) on the table's levels, at the levels of the pools."""
        per_level = (series / self.table.level[:, None]).reshape(series.shape[0], self.table.shapes.size, -1, series.shape[-1])
        of_nodes = per_level.transpose(1, 0, 2, 3)[self.kind.shape_of]
        return np.asarray(np.matmul(place, of_nodes) * levels[..., None])

    def _pool_series(self, start: float, end: float, skip: NDArray[np.bool_] | None) -> checks.Floats:
        """(p, m, TERMS) log series of the pools on the table's levels."""
        known = self._series.get((start, end))
        if known is None:
            known = self._series[start, end] = self._from_today(end) if start == 0 else self._later(start, end)
        if skip is None or not skip.any():
            return known
        return np.asarray(known - self._summed(start, end, np.flatnonzero(skip)))

    def _from_today(self, end: float) -> checks.Floats:
        """Windows from day 0: those who left before its end stand at what they had when they left."""
        if len(self._series) * WINDOWS_PER_LEAVING < self._leave_days.size:
            return self._summed(0.0, end, np.arange(self.positions.units.size))
        leaving = self._leaving
        gone = int(np.searchsorted(leaving.day, end, side="left"))
        found = self._summed(0.0, end, self._entering) + leaving.before[gone]
        for knot, share in self.table.knots_at(end / DAYS_PER_YEAR):
            found += share * self._staying(gone, knot)
        return np.asarray(found)

    def _later(self, start: float, end: float) -> checks.Floats:
        """Windows that begin later. Expected failures are a difference, so that those of months add up."""
        found = self._summed(start, end, np.arange(self.positions.units.size))
        found[..., 0] = self._pool_series(0.0, end, None)[..., 0] - self._pool_series(0.0, start, None)[..., 0]
        return found

    @cached_property
    def _leave_days(self) -> checks.Floats:
        """(d,) rising days on which units in service today leave, infinity for those that stay."""
        return np.unique(self.positions.leave[self.positions.enter <= 0])

    @cached_property
    def _entering(self) -> Ints:
        return np.flatnonzero(self.positions.enter > 0)

    @cached_property
    def _aged(self) -> tuple[Ints, checks.Floats]:
        """(n, 4) places of each position on the grid of ages, and its units there."""
        near, weights = self.table.neighbours(self.positions.age)
        return near, weights * self.positions.units[:, None]

    def _weights(self, rows: Ints) -> checks.Floats:
        """(p, u) units of each pool on the grid of ages."""
        near, units = self._aged
        ages = self.table.ages.size
        place = self.positions.pool[rows, None] * ages + near[rows]
        return np.asarray(np.bincount(place.ravel(), units[rows].ravel(), self.pools.size * ages), dtype=np.float64).reshape(-1, ages)

    def _staying(self, gone: int, knot: int) -> checks.Floats:
        """(p, m, TERMS) log series until a knot of those who are still there after the first `gone` leavings."""
        known = self._stayed.get((gone, knot))
        if known is None:
            known = self._stayed[gone, knot] = _over_ages(self._leaving.weights[gone], self.table.log_g[knot])
        return known

    @cached_property
    def _leaving(self) -> _Leaving:
        """Positions in service today, by the day they leave."""
        rows = np.flatnonzero(self.positions.enter <= 0)
        days = self._leave_days
        each = np.array([self._weights(rows[self.positions.leave[rows] == day]) for day in days])
        each = each.reshape(-1, self.pools.size, self.table.ages.size)
        series = np.zeros((days.size + 1, self.pools.size, self.table.level.size, TERMS))
        for place in np.flatnonzero(days <= self.kind.horizon_days):
            gone = rows[self.positions.leave[rows] == days[place]]
            series[place + 1] = self._summed_from_its_start(np.full(gone.size, days[place]), gone)
        left = np.cumsum(np.concatenate((np.zeros((1, *each.shape[1:])), each[::-1])), axis=0)[::-1]
        return _Leaving(days, left, np.cumsum(series, axis=0))

    def _summed(self, start: float, end: float, rows: Ints) -> checks.Floats:
        """(p, m, TERMS) log series of some positions, added up by pool."""
        stretches = self.positions.stretches(start, end, rows)
        fresh = stretches[:, 0] == 0
        out = self._summed_from_its_start(stretches[fresh, 1], rows[fresh])
        # Positions with one stretch of time in the window are looked up together.
        for (first, last), group in _groups(stretches, np.flatnonzero(~fresh)):
            out += _over_ages(self._weights(rows[group]), self.table.series(first / DAYS_PER_YEAR, last / DAYS_PER_YEAR))
        return out

    def _summed_from_its_start(self, days: checks.Floats, rows: Ints) -> checks.Floats:
        """The same where a position's own time in the window begins with the age it has on record: a sum over knots and ages alone."""
        out = np.zeros((self.pools.size, self.table.level.size, TERMS))
        if rows.size == 0:
            return out
        ages = self.table.ages.size
        knots, shares = self.table.knots_of(days / DAYS_PER_YEAR)
        near, units = self._aged
        place = (knots[:, :, None] * ages + near[rows, None]).reshape(rows.size, -1)
        amount = (shares[:, :, None] * units[rows, None]).reshape(rows.size, -1)
        asked, column = np.unique(place, return_inverse=True)
        flat = self.positions.pool[rows, None] * asked.size + column.reshape(place.shape)
        weights = np.bincount(flat.ravel(), amount.ravel(), self.pools.size * asked.size).reshape(-1, asked.size)
        table = self.table.log_g.reshape(self.table.knots.size * ages, -1)
        return np.asarray((weights @ table[asked]).reshape(out.shape))

    def _likely(self, start: float, end: float, top: checks.Floats) -> NDArray[np.bool_]:
        """Positions with more than LIKELY failures expected in the window at the highest level (k, p) of their pool, under any shape."""
        stretch = self.positions.stretches(start, end) / DAYS_PER_YEAR
        at = self.positions.age + np.where(self.positions.enter > 0, 0.0, stretch[:, 0])
        length = stretch[:, 1] - stretch[:, 0]
        expected = np.zeros(at.size)
        knot = min(int(np.searchsorted(self.table.knots, (end - start) / DAYS_PER_YEAR)), self.table.knots.size - 1)
        fresh = self.table.reached[knot, 0].sum(axis=-1).reshape(self.table.shapes.size, -1)
        for i, shape in enumerate(self.table.shapes):
            level = top[self.kind.shape_of == i].max(axis=0)
            row = np.minimum(np.searchsorted(self.table.log_level[i], np.log(level)), fresh.shape[1] - 1)
            first = -np.expm1(-level[self.positions.pool] * ((at + length) ** shape - at**shape))
            # A replacement may fail again: where hazards fall, that happens more often than the first failure.
            expected = np.maximum(expected, first * (1.0 + fresh[i, row])[self.positions.pool])
        of_pool = np.bincount(self.positions.pool, self.positions.units * expected, self.pools.size)
        return np.asarray(expected > np.where(of_pool < FEW, LIKELY_OF_FEW, LIKELY)[self.positions.pool])

    def _multiply_direct(
        self,
        value: Complexes,
        window: tuple[float, float],
        likely: NDArray[np.bool_],
        levels: checks.Floats,
        place: checks.Floats,
        used: Complexes,
    ) -> None:
        """Multiply generating functions (k, p, n, j) by those of the likely positions, one by one."""
        chosen = np.flatnonzero(likely)
        if chosen.size == 0:
            return
        pools, units, reached = self._alike(window, chosen)
        powers = (used - 1.0) * used ** np.arange(reached.shape[-1])[:, None]
        for pool in np.unique(pools):
            mine = pools == pool
            # (k, l, r j): the interpolation over levels is one product of matrices for each node.
            own = reached[mine].transpose(1, 2, 0, 3)[self.kind.shape_of]
            chance = np.matmul(place[:, pool], own.reshape(*own.shape[:2], -1)).reshape(*levels[:, pool].shape, *own.shape[2:])
            chance *= levels[:, pool, :, None, None]
            one = np.empty((*chance.shape[:3], used.size), dtype=np.complex128)
            one.real = 1.0 + chance @ powers.real
            one.imag = chance @ powers.imag
            value[:, pool] *= _to_powers(one, units[mine])

    def _alike(self, window: tuple[float, float], rows: Ints) -> tuple[Ints, checks.Floats, checks.Floats]:
        """Positions of one pool, one stretch of time and nearly one age put together: pools, units, (r, s, l, k) reached."""
        stretch, age, units = (self.positions.stretches(*window, rows), self.positions.age[rows], self.positions.units[rows])
        coded = [np.unique(column, return_inverse=True)[1] for column in stretch.T]
        columns = (self.positions.pool[rows], *coded, np.round(age / ALIKE_YEARS).astype(np.int64))
        key = np.ravel_multi_index(columns, tuple(int(column.max()) + 1 for column in columns))
        _, first, place = np.unique(key, return_index=True, return_inverse=True)
        together = np.asarray(np.bincount(place, units), dtype=np.float64)
        mean_age = np.bincount(place, units * age) / together
        return self.positions.pool[rows[first]], together, self._reached(stretch[first], mean_age)

    def _reached(self, stretch: checks.Floats, age: checks.Floats) -> checks.Floats:
        """(r, s, l, k) P(N >= k) per unit of level, of positions of some ages over (r, 2) days of their own time."""
        table = self.table
        most = table.reached.shape[-1]
        found = np.empty((age.size, table.level.size * most))
        fresh = stretch[:, 0] == 0
        knots, shares = table.knots_of(stretch[fresh, 1] / DAYS_PER_YEAR)
        near, weights = table.neighbours(age[fresh])
        place = (knots[:, :, None] * table.ages.size + near[:, None]).reshape(-1, 8)
        amount = (shares[:, :, None] * weights[:, None]).reshape(-1, 1, 8)
        found[fresh] = np.matmul(amount, table.reached.reshape(-1, found.shape[1])[place])[:, 0]
        for (begin, end), group in _groups(stretch, np.flatnonzero(~fresh)):
            between = table.between(begin / DAYS_PER_YEAR, end / DAYS_PER_YEAR)
            found[group] = _over_ages(table.at_ages(age[group]), between).reshape(group.size, -1)
        by_level = found.reshape(age.size, -1, most) / table.level[:, None]
        return np.asarray(by_level.reshape(age.size, table.shapes.size, -1, most))


def _hold_inside(value: Complexes) -> None:
    """No generating function is larger than 1 on the unit circle; in place."""
    size = value.real**2 + value.imag**2
    over = size > 1.0
    if over.any():
        value[over] /= np.sqrt(size[over])


def _to_powers(values: Complexes, units: checks.Floats) -> Complexes:
    """(..., j) product over the last axis but one of values to the power of their units, by repeated squaring.

    Whole powers need no logarithm, whose branch would matter to none of them; what is left of shared units takes one.
    """
    whole = np.floor(units).astype(np.int64)
    rest = units - whole
    shared = np.flatnonzero(rest > 1e-9)
    out = np.ones((*values.shape[:-2], values.shape[-1]), dtype=np.complex128)
    if shared.size:
        out = np.power(values[..., shared, :], rest[shared, None]).prod(axis=-2)
    while whole.any():
        odd = (whole & 1).astype(bool)
        if odd.any():
            out *= values[..., odd, :].prod(axis=-2)
        kept = whole > 1
        values, whole = values[..., kept, :] ** 2, whole[kept] >> 1
    return out


def _over_ages(weights: checks.Floats, table: checks.Floats) -> checks.Floats:
    """(p, m, j) a table of ages (u, m, j) added up over weights (p, u)."""
    ages, rows, terms = table.shape
    return np.asarray((weights @ table.reshape(ages, rows * terms)).reshape(-1, rows, terms))


def _groups(stretch: checks.Floats, rows: Ints) -> list[tuple[tuple[float, float], Ints]]:
    """Rows of `stretch` by their days; those of no time left out."""
    if rows.size == 0:
        return []
    kinds, place = np.unique(stretch[rows], axis=0, return_inverse=True)
    order = np.argsort(place.ravel(), kind="stable")
    split = np.split(rows[order], np.searchsorted(place.ravel()[order], np.arange(1, kinds.shape[0])))
    return [((float(a), float(b)), group) for (a, b), group in zip(kinds, split, strict=True) if b > a]
