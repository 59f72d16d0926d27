"""Log generating functions of pools as power series in z - 1, added up over their positions on the levels of a table."""

from __future__ import annotations

from collections.abc import Iterator
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy import sparse

from almanac.core import checks
from almanac.core.demand.age_groups import AgeGroups
from almanac.core.demand.life_table import TERMS, LifeTable

DAYS_PER_YEAR = 365.25
WINDOWS_PER_LEAVING = 4
"""Few windows are summed over all positions; for more it pays to keep what those who leave had until each day that some leave."""
MOST_LEFT = 4_000_000
"""Units on the grid of ages are kept for each day that some leave while all of them are no more numbers than this."""
Ints = NDArray[np.int64]


class _Leaving:
    """Units by the day they leave: their ages, and what they fail with until then.

    day : (d,) rising · weights : (d + 1, p, u) units on the grid of ages that are left after so many leavings
    before : (d + 1, p, m, TERMS) log series of the first to leave
    """

    def __init__(self, day: checks.Floats, weights: checks.Floats, before: checks.Floats) -> None:
        self.day, self.weights, self.before = day, weights, before


class PoolSeries:
    """Series of p pools of one kind in any window of days; those of a window are kept until `forget`."""

    def __init__(self, table: LifeTable, pools: int, positions: AgeGroups, horizon_days: int) -> None:
        self.table, self.pools, self.positions, self.horizon_days = table, pools, positions, horizon_days
        self._kept: dict[tuple[float, float], checks.Floats] = {}
        self._stayed: dict[tuple[int, int], checks.Floats] = {}

    def forget(self) -> None:
        """Drop what was kept."""
        self._kept.clear()
        self._stayed.clear()
        for name in ("_leaving", "_aged"):
            self.__dict__.pop(name, None)

    def of(self, start: float, end: float) -> checks.Floats:
        """(p, m, TERMS) log series of all pools in the days (start, end]."""
        known = self._kept.get((start, end))
        if known is None:
            known = self._kept[start, end] = self._from_today(end) if start == 0 else self._later(start, end)
        return known

    def _from_today(self, end: float) -> checks.Floats:
        """Windows from day 0: those who left before its end stand at what they had when they left."""
        days = self._leave_days.size
        if len(self._kept) * WINDOWS_PER_LEAVING < days or days * self.pools * self.table.ages.size > MOST_LEFT:
            return self.summed(0.0, end, np.arange(self.positions.units.size))
        leaving = self._leaving
        gone = int(np.searchsorted(leaving.day, end, side="left"))
        found = self.summed(0.0, end, self._entering) + leaving.before[gone]
        for knot, share in self.table.knots_at(end / DAYS_PER_YEAR):
            found += share * self._staying(gone, knot)
        return np.asarray(found)

    def _later(self, start: float, end: float) -> checks.Floats:
        """Windows that begin later. Expected failures are a difference, so that those of months add up."""
        found = self.summed(start, end, np.arange(self.positions.units.size))
        found[..., 0] = self._expected(end) - self._expected(start)
        return found

    def _expected(self, end: float) -> checks.Floats:
        """(p, m) the first coefficients of the window (0, end]."""
        stretches = self.positions.stretches(0.0, end)
        rows = np.flatnonzero(stretches[:, 1] > stretches[:, 0])
        first = self.table.log_g[..., 0]
        return np.asarray(self._on_knots(stretches[rows, 1], rows) @ first.reshape(-1, first.shape[-1]))

    def _on_knots(self, lengths: checks.Floats, rows: Ints) -> sparse.csr_array:
        """(p, t u) units of some positions on the knots around their lengths of time, days, and the ages around theirs."""
        knots, shares = self.table.knots_of(lengths / DAYS_PER_YEAR)
        near, units = self._aged
        ages = self.table.ages.size
        place = knots[:, :, None] * ages + near[rows, None]
        amount = shares[:, :, None] * units[rows, None]
        pool = np.repeat(self.positions.pool[rows], 8)
        return sparse.csr_array((amount.ravel(), (pool, place.ravel())), shape=(self.pools, self.table.knots.size * ages))

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
        return np.asarray(np.bincount(place.ravel(), units[rows].ravel(), self.pools * ages), dtype=np.float64).reshape(-1, ages)

    def _staying(self, gone: int, knot: int) -> checks.Floats:
        """(p, m, TERMS) log series until a knot of those who are still there after the first `gone` leavings."""
        known = self._stayed.get((gone, knot))
        if known is None:
            known = self._stayed[gone, knot] = over_ages(self._leaving.weights[gone], self.table.log_g[knot])
        return known

    @cached_property
    def _leaving(self) -> _Leaving:
        """Positions in service today, by the day they leave."""
        rows = np.flatnonzero(self.positions.enter <= 0)
        days = self._leave_days
        each = np.array([self._weights(rows[self.positions.leave[rows] == day]) for day in days])
        each = each.reshape(-1, self.pools, self.table.ages.size)
        series = np.zeros((days.size + 1, self.pools, self.table.level.size, TERMS))
        for place in np.flatnonzero(days <= self.horizon_days):
            gone = rows[self.positions.leave[rows] == days[place]]
            self._add(series[place + 1], np.full(gone.size, days[place]), gone)
        left = np.cumsum(np.concatenate((np.zeros((1, *each.shape[1:])), each[::-1])), axis=0)[::-1]
        return _Leaving(days, left, np.cumsum(series, axis=0))

    def summed(self, start: float, end: float, rows: Ints) -> checks.Floats:
        """(p, m, TERMS) log series of some positions, added up by pool."""
        out = np.zeros((self.pools, self.table.level.size, TERMS))
        stretches = self.positions.stretches(start, end, rows)
        served = stretches[:, 1] > stretches[:, 0]
        fresh = served & (stretches[:, 0] == 0)
        if fresh.any():
            self._add(out, stretches[fresh, 1], rows[fresh])
        later = served & ~fresh
        if later.any():
            self._add_later(out, stretches[later], rows[later])
        return out

    def _add_later(self, out: checks.Floats, stretches: checks.Floats, rows: Ints) -> None:
        """Add the series of positions that are older when their time in the window begins: a few kept windows, each over all ages."""
        corner, share = self.table.corners_of(stretches[:, 0] / DAYS_PER_YEAR, (stretches[:, 1] - stretches[:, 0]) / DAYS_PER_YEAR)
        near, units = self._aged
        ages = self.table.ages.size
        pool = self.positions.pool[rows]
        for key, row, amount in by_corner(corner, share):
            # One window's corners are no other's: of many pools only a few are in it.
            found, own = np.unique(pool[row], return_inverse=True)
            place = own[:, None] * ages + near[rows[row]]
            units_there = amount[:, None] * units[rows[row]]
            weights = np.asarray(np.bincount(place.ravel(), units_there.ravel(), found.size * ages), dtype=np.float64)
            out[found] += over_ages(weights.reshape(-1, ages), self.table.series_at(key))

    def _add(self, out: checks.Floats, lengths: checks.Floats, rows: Ints) -> None:
        """Add the series of positions whose own time in the window begins with the age they have on record, and is so long."""
        table = self.table
        # Most stay to the end: one length of time, for which the sum over ages is a product of small matrices.
        distinct, which = np.unique(lengths, return_inverse=True)
        common = np.bincount(which).argmax()
        stay = which == common
        for knot, share in table.knots_at(float(distinct[common]) / DAYS_PER_YEAR):
            out += over_ages(share * self._weights(rows[stay]), table.log_g[knot])
        if stay.all():
            return
        weights = self._on_knots(lengths[~stay], rows[~stay])
        out += (weights @ table.log_g.reshape(weights.shape[1], -1)).reshape(out.shape)


def by_corner(corner: Ints, share: checks.Floats) -> Iterator[tuple[int, Ints, checks.Floats]]:
    """Each corner of (n, 4) that has a share, with the rows it is of and their shares."""
    flat = np.flatnonzero(share > 0)
    flat = flat[np.argsort(corner.ravel()[flat], kind="stable")]
    keys, first = np.unique(corner.ravel()[flat], return_index=True)
    for key, places in zip(keys.tolist(), np.split(flat, first[1:]), strict=True):
        yield key, places // corner.shape[1], share.ravel()[places]


def over_ages(weights: checks.Floats, table: checks.Floats) -> checks.Floats:
    """(p, m, j) a table of ages (u, m, j) added up over weights (p, u)."""
    ages, rows, terms = table.shape
    return np.asarray((weights @ table.reshape(ages, rows * terms)).reshape(-1, rows, terms))
