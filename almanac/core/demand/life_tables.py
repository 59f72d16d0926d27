"""The tables of lives of a kind, over the levels its pools may have, and the points at which a pool's level is taken."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray
from scipy.special import gammaincinv

from almanac.core import checks
from almanac.core.demand.life_table import LifeTable
from almanac.core.life.wear_nodes import PoolNodes, WearNodes

DAYS_PER_YEAR = 365.25
Ints = NDArray[np.int64]
KNOT_DAYS = np.array([1, 15, *range(30, 361, 30), 420, 480, 570, 720])
LEVELS_PER_UNIT = 1.5
FEWEST_LEVELS = 8
TAIL = 1e-5
"""Levels of a pool are covered up to this tail on either side."""
MOST_RENEWALS = 40.0
"""Levels of a pool end where a position would renew so often within the longest window: what lies above counts as that."""
LINEAR = 1e-4
"""Levels begin no lower than where a part of the greatest age has this chance to have failed: below, all is in proportion."""
Levels = tuple[checks.Floats, checks.Floats, checks.Floats]
MOST_KEPT = 2000
"""Pools whose levels are kept with a kind: parts and sites ask for the same ones again and again."""


@dataclass(frozen=True)
class LifeTables:
    """The table of pools over the distinct shapes of their nodes, and which of them a node uses.

    Its last pool, row -1, is one without any record, in the last pool's part group. log_pace : (p,) of each pool; lambda is of calendar
    age, so a pool that ages twice as fast has its lambda grow by 2^beta.
    """

    nodes: PoolNodes
    failures: checks.Floats
    log_pace: checks.Floats
    table: LifeTable
    shape_of: Ints
    horizon_days: int
    kept: dict[tuple[int, int], Levels] = field(default_factory=dict)

    def level_shape(self) -> checks.Floats:
        """(k, p) shape of the gamma of each pool's lambda."""
        return np.asarray(self.nodes.a + self.failures[None])

    def level_rate(self) -> checks.Floats:
        """(k, p) rate of the gamma of each pool's lambda."""
        return _level_rate(self.nodes, self.log_pace)

    def levels(self, points: int, pools: Ints) -> Levels:
        """Points of lambda (k, p, n) of some pools, their weights, and (k, p, n, l) weights that interpolate from the table's levels."""
        rows, place_of = np.unique(pools % self.failures.size, return_inverse=True)
        keys = [(points, pool) for pool in rows.tolist()]
        missing = [pool for points, pool in keys if (points, pool) not in self.kept]
        if missing:
            if len(self.kept) > MOST_KEPT:
                self.kept.clear()
                missing = rows.tolist()
            made = self._levels(points, np.array(missing))
            for column, pool in enumerate(missing):
                levels, weight, place = (array[:, column] for array in made)
                self.kept[points, pool] = levels, weight, place
        found = [self.kept[key] for key in keys]
        levels, weight, place = (np.stack(arrays, axis=1)[:, place_of] for arrays in zip(*found, strict=True))
        return levels, weight, place

    def _levels(self, points: int, pools: Ints) -> Levels:
        values, weight = gamma_points(self.level_shape()[:, pools], points)
        grid = self.table.log_level[self.shape_of]
        levels = np.minimum(values / self.level_rate()[:, pools, None], np.exp(grid[:, -1])[:, None, None])
        return levels, weight, barycentric(grid[:, None, None, :], np.log(levels))


def _level_rate(nodes: PoolNodes, log_pace: checks.Floats) -> checks.Floats:
    return np.asarray((nodes.b + nodes.hazard) * np.exp(-nodes.shape[:, None] * log_pace))


def life_tables(
    nodes: WearNodes | PoolNodes, failures: checks.Floats, *, oldest_years: float, horizon_days: int, log_pace: checks.Floats | None = None
) -> LifeTables:
    """Tables that cover every level the pools of a kind may have.

    Parameters
    ----------
    nodes : of the kind, or of each pool's part group · failures : (p,) D of each pool · oldest_years : of a unit in service
    horizon_days : longest window
    log_pace : (p,) how much faster the pools age, None where all age alike

    Raises
    ------
    ContractError : an argument outside its range
    """
    known = checks.vector("failures", failures, low=0.0, size=nodes.hazard.shape[1])
    # The last row is a pool of which nothing is known: all it has is what it borrows.
    count = np.append(known, 0.0)
    pace = np.append(np.zeros(known.size) if log_pace is None else checks.vector("log_pace", log_pace, size=known.size), 0.0)
    own = PoolNodes.alike(nodes) if isinstance(nodes, WearNodes) else nodes
    nodes = own.followed_by((own.weight[:, -1], own.a[:, -1], own.b[:, -1]))
    last = max(int(checks.number("horizon_days", horizon_days, low=1.0)), int(KNOT_DAYS[-1]))
    knots = KNOT_DAYS[last > KNOT_DAYS]
    beyond = np.arange(knots[-1] + 120, last + 120, 120)
    time = np.concatenate((knots, beyond)) / DAYS_PER_YEAR
    oldest = checks.positive("oldest_years", oldest_years) + float(time[-1])
    shapes, shape_of = np.unique(nodes.shape, return_inverse=True)
    alpha = nodes.a + count[None]
    rate = _level_rate(nodes, pace)
    low, high = np.log(gammaincinv(alpha, TAIL) / rate).min(axis=1), np.log(gammaincinv(alpha, 1 - TAIL) / rate).max(axis=1)
    spans = [_span(float(shape), low[shape_of == i].min(), high[shape_of == i].max(), time[-1], oldest) for i, shape in enumerate(shapes)]
    points = max(FEWEST_LEVELS, int(np.ceil(LEVELS_PER_UNIT * max(top - bottom for bottom, top in spans))) + FEWEST_LEVELS // 2)
    table = LifeTable(shapes, np.array([_chebyshev(*span, points) for span in spans]), time, oldest)
    return LifeTables(nodes, count, pace, table, np.asarray(shape_of, dtype=np.int64), last)


def _span(shape: float, low: float, high: float, longest: float, oldest: float) -> tuple[float, float]:
    """Logarithms of the lowest and highest level of a table, at least one apart."""
    most = shape * float(np.log(MOST_RENEWALS / longest))
    least = float(np.log(LINEAR)) - shape * float(np.log(oldest))
    top = min(max(high, least + 1.0), most)
    return min(max(low, least), top - 1.0), top


def _chebyshev(low: float, high: float, points: int) -> checks.Floats:
    """Chebyshev points of the second kind, rising."""
    return np.asarray((low + high) / 2 - (high - low) / 2 * np.cos(np.pi * np.arange(points) / (points - 1)))


def barycentric(grid: checks.Floats, at: checks.Floats) -> checks.Floats:
    """(..., l) weights that interpolate from Chebyshev points of the second kind, `grid` (..., l), at points (...) held inside it."""
    sign = (-1.0) ** np.arange(grid.shape[-1])
    sign[[0, -1]] /= 2
    away = np.minimum(np.maximum(at, grid[..., 0]), grid[..., -1])[..., None] - grid
    exact = np.abs(away) < 1e-13
    weights = np.where(exact.any(axis=-1, keepdims=True), exact, sign / np.where(exact, 1.0, away))
    return np.asarray(weights / weights.sum(axis=-1, keepdims=True))


def gamma_points(shape: checks.Floats, points: int) -> tuple[checks.Floats, checks.Floats]:
    """Gauss points and weights of a gamma of rate 1, for any shape: (..., n) each.

    Parameters
    ----------
    shape : (...) > 0 · points : n >= 1

    Raises
    ------
    Nothing.

    References
    ----------
    Golub & Welsch (1969), Mathematics of Computation 23.
    """
    order = np.arange(points)
    matrix = np.zeros((*shape.shape, points, points))
    matrix[..., order, order] = 2 * order + shape[..., None]
    side = np.sqrt(order[1:] * (order[1:] + shape[..., None] - 1))
    matrix[..., order[1:], order[:-1]] = side
    values, vectors = np.linalg.eigh(matrix)
    return np.maximum(values, 1e-300), np.asarray(vectors[..., 0, :] ** 2)
