"""Positions that are likely to fail in a window, where a series in z - 1 converges slowly: evaluated one by one."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from almanac.core import checks
from almanac.core.demand.age_groups import AgeGroups
from almanac.core.demand.counts import Complexes
from almanac.core.demand.life_table import TERMS, LifeTable
from almanac.core.demand.wear_series import DAYS_PER_YEAR, Ints, by_corner, over_ages

LIKELY = 0.5
"""A position of which more failures than this are expected in the window is evaluated by itself."""
LIKELY_OF_FEW = 0.25
"""The same in a pool that expects FEW: what cutting the series leaves out does not drown in a generating function near zero there."""
FEW = 4.0
LEFT_OUT = 1e-6
"""What the terms that the series leaves out may add to the logarithm of a pool."""
ALIKE_YEARS = 0.05
"""Positions evaluated one by one are put together where their ages differ by less, at their mean age."""
NUMBERS = 60_000
"""Numbers worked on at a time: so many stay near the processor."""
LEAST = 1e-300
"""Squared size of a generating function that is zero, so that it has a logarithm."""


def likely(
    table: LifeTable, shape_of: Ints, positions: AgeGroups, top: checks.Floats, window: tuple[float, float], rows: Ints, away: float
) -> NDArray[np.bool_]:
    """Whether positions `rows` have so many failures expected in a window, at the highest level (k, p) of their pool, under any shape.

    away : how far from 1 the points z of the generating function lie, at most 2. Many parts need only points close to 1, and the
        series is right there however likely each of them is to fail.
    """
    start, end = window
    stretch = positions.stretches(start, end, rows) / DAYS_PER_YEAR
    pool = positions.pool[rows]
    at = positions.age[rows] + stretch[:, 0]
    until = at + stretch[:, 1] - stretch[:, 0]
    expected = np.zeros(rows.size)
    knot = min(int(np.searchsorted(table.knots, (end - start) / DAYS_PER_YEAR)), table.knots.size - 1)
    fresh = table.reached[knot, 0].sum(axis=-1).reshape(table.shapes.size, -1)
    for i, shape in enumerate(table.shapes):
        level = top[shape_of == i].max(axis=0)
        row = np.minimum(np.searchsorted(table.log_level[i], np.log(level)), fresh.shape[1] - 1)
        first = -np.expm1(-level[pool] * (until**shape - at**shape))
        # A replacement may fail again: where hazards fall, that happens more often than the first failure.
        expected = np.maximum(expected, first * (1.0 + fresh[i, row])[pool])
    of_pool = np.bincount(pool, positions.units[rows] * expected, top.shape[1])
    left_out = np.bincount(pool, positions.units[rows] * (expected * away) ** (TERMS + 1), top.shape[1]) / (TERMS + 1)
    return np.asarray((expected > np.where(of_pool < FEW, LIKELY_OF_FEW, LIKELY)[pool]) & (left_out[pool] > LEFT_OUT))


class SinglePositions:
    """Likely positions in one window, alike ones together, by pool.

    pool : (r,) rising · units : (r,) · reached : (r, s, l, k) P(N >= k) per unit of level
    """

    def __init__(self, table: LifeTable, positions: AgeGroups, window: tuple[float, float], rows: Ints) -> None:
        stretch, age, units = positions.stretches(*window, rows), positions.age[rows], positions.units[rows]
        coded = [np.unique(column, return_inverse=True)[1] for column in stretch.T]
        columns = (positions.pool[rows], *coded, np.round(age / ALIKE_YEARS).astype(np.int64))
        key = np.ravel_multi_index(columns, tuple(int(column.max(initial=0)) + 1 for column in columns))
        _, first, place = np.unique(key, return_index=True, return_inverse=True)
        self.units = np.asarray(np.bincount(place, units), dtype=np.float64)
        mean_age = np.bincount(place, units * age) / self.units
        self.pool = positions.pool[rows[first]]
        self.reached = _reached(table, stretch[first], mean_age)

    def multiply(self, value: Complexes, first: int, levels: checks.Floats, place: checks.Floats, shape_of: Ints, used: Complexes) -> None:
        """Multiply generating functions (k, p, n, j) of pools from `first` on by those of their likely positions.

        levels, place : (k, p, n) and (k, p, n, l) of the same pools
        """
        begin, end = np.searchsorted(self.pool, (first, first + value.shape[1]))
        if begin == end:
            return
        pool = self.pool[begin:end] - first
        # (k, r, l, t): the interpolation over levels is one small product of matrices for each node and position.
        own = self.reached[begin:end].transpose(1, 0, 2, 3)[shape_of]
        chance = np.matmul(place[:, pool], own) * levels[:, pool, :, None]
        powers = (used - 1.0) * used ** np.arange(own.shape[-1])[:, None]
        starts = np.append(np.flatnonzero(np.diff(pool, prepend=-1)), pool.size)
        most = max(1, NUMBERS // (chance.shape[0] * chance.shape[2] * used.size))
        for some in _portions(starts, most):
            rows = slice(int(some[0]), int(some[-1]))
            value[:, pool[some[:-1]]] *= _product(chance[:, rows], powers, self.units[begin:end][rows], some[:-1] - rows.start)


def _portions(starts: Ints, most: int) -> Iterator[Ints]:
    """Pools from one start to another, (p + 1,) each, of about so many positions; at least one pool."""
    begin, last = 0, starts.size - 1
    while begin < last:
        end = min(max(begin + 1, int(np.searchsorted(starts, starts[begin] + most, side="right")) - 1), last)
        yield starts[begin : end + 1]
        begin = end


def _product(chance: checks.Floats, powers: Complexes, units: checks.Floats, starts: Ints) -> Complexes:
    """(k, p, n, j) generating functions of positions (k, r, n, t) to the power of their units (r,), multiplied from start to start.

    Logarithm and angle are added up: whole turns matter to no whole unit, and what is left of shared units takes the nearest branch.
    """
    real, imag = chance @ powers.real, chance @ powers.imag
    real += 1.0
    angle = np.arctan2(imag, real)
    size = np.log(np.maximum(real**2 + imag**2, LEAST))
    size *= 0.5 * units[:, None, None]
    angle *= units[:, None, None]
    whole = np.empty((*size.shape[:1], starts.size, *size.shape[2:]), dtype=np.complex128)
    # No generating function is larger than 1 on the unit circle.
    length, turned = np.exp(np.minimum(np.add.reduceat(size, starts, axis=1), 0.0)), np.add.reduceat(angle, starts, axis=1)
    np.multiply(length, np.cos(turned), out=whole.real)
    np.multiply(length, np.sin(turned), out=whole.imag)
    return whole


def _reached(table: LifeTable, stretch: checks.Floats, age: checks.Floats) -> checks.Floats:
    """(r, s, l, k) P(N >= k) per unit of level, of positions of some ages over (r, 2) days of their own time."""
    most = table.reached.shape[-1]
    found = np.empty((age.size, table.level.size * most))
    fresh = stretch[:, 0] == 0
    knots, shares = table.knots_of(stretch[fresh, 1] / DAYS_PER_YEAR)
    near, weights = table.neighbours(age[fresh])
    place = (knots[:, :, None] * table.ages.size + near[:, None]).reshape(-1, 8)
    amount = (shares[:, :, None] * weights[:, None]).reshape(-1, 1, 8)
    found[fresh] = np.matmul(amount, table.reached.reshape(-1, found.shape[1])[place])[:, 0]
    if not fresh.all():
        found[~fresh] = _reached_later(table, stretch[~fresh] / DAYS_PER_YEAR, age[~fresh])
    by_level = found.reshape(age.size, -1, most) / table.level[:, None]
    return np.asarray(by_level.reshape(age.size, table.shapes.size, -1, most))


def _reached_later(table: LifeTable, stretch: checks.Floats, age: checks.Floats) -> checks.Floats:
    """(r, s l k) the same for stretches of time, years, that begin later."""
    corner, share = table.corners_of(stretch[:, 0], stretch[:, 1] - stretch[:, 0])
    weights = table.at_ages(age)
    found = np.zeros((age.size, table.level.size * table.reached.shape[-1]))
    for key, row, amount in by_corner(corner, share):
        found[row] += over_ages(amount[:, None] * weights[row], table.reached_at(key)).reshape(row.size, -1)
    return found
