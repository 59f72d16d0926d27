"""The tables of lives of a kind, over the levels its pools may have, and the points at which a pool's level is taken."""

from __future__ import annotations

from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray
from scipy.special import gammaincinv

from almanac.core import checks
from almanac.core.demand.life_table import LifeTable
from almanac.core.life.wear_nodes import WearNodes

DAYS_PER_YEAR = 365.25
Ints = NDArray[np.int64]
KNOT_DAYS = np.array([1, 15, *range(30, 361, 30), 420, 480, 570, 720])
LEVELS_PER_UNIT = 2.0
FEWEST_LEVELS = 8
TAIL = 1e-5
"""Levels of a pool are covered up to this tail on either side."""
Levels = tuple[checks.Floats, checks.Floats, list[checks.Floats]]
MOST_KEPT = 48
"""Sets of levels kept with a kind: sites of one part ask for the same."""


@dataclass(frozen=True)
class LifeTables:
    """The tables of a kind: one for each distinct shape of its nodes, and which of them a node uses.

    Its last pool, row -1, is one without any record.
    """

    nodes: WearNodes
    failures: checks.Floats
    tables: tuple[LifeTable, ...]
    table_of: Ints
    horizon_days: int
    kept: dict[tuple[int, tuple[int, ...]], Levels] = field(default_factory=dict)

    def level_shape(self) -> checks.Floats:
        """(k, p) shape of the gamma of each pool's lambda."""
        return np.asarray(self.nodes.a[:, None] + self.failures[None])

    def level_rate(self) -> checks.Floats:
        """(k, p) rate of the gamma of each pool's lambda."""
        return np.asarray(self.nodes.b[:, None] + self.nodes.hazard)


def life_tables(nodes: WearNodes, failures: checks.Floats, *, oldest_years: float, horizon_days: int) -> LifeTables:
    """Tables that cover every level the pools of a kind may have.

    Parameters
    ----------
    nodes : of the kind · failures : (p,) D of each pool · oldest_years : of a unit in service · horizon_days : longest window

    Raises
    ------
    ContractError : an argument outside its range
    """
    known = checks.vector("failures", failures, low=0.0, size=nodes.hazard.shape[1])
    # The last row is a pool of which nothing is known: all it has is what it borrows.
    count = np.append(known, 0.0)
    nodes = replace(nodes, hazard=np.pad(nodes.hazard, ((0, 0), (0, 1))))
    last = max(int(checks.number("horizon_days", horizon_days, low=1.0)), int(KNOT_DAYS[-1]))
    knots = KNOT_DAYS[last > KNOT_DAYS]
    beyond = np.arange(knots[-1] + 120, last + 120, 120)
    time = np.concatenate((knots, beyond)) / DAYS_PER_YEAR
    shapes, table_of = np.unique(nodes.shape, return_inverse=True)
    alpha = nodes.a[:, None] + count[None]
    rate = nodes.b[:, None] + nodes.hazard
    low, high = np.log(gammaincinv(alpha, TAIL) / rate), np.log(gammaincinv(alpha, 1 - TAIL) / rate)
    tables = []
    for place, shape in enumerate(shapes):
        own = table_of == place
        span = float(low[own].min()), float(high[own].max())
        points = max(FEWEST_LEVELS, int(np.ceil(LEVELS_PER_UNIT * (span[1] - span[0]))) + FEWEST_LEVELS // 2)
        tables.append(LifeTable(float(shape), _chebyshev(*span, points), time, oldest_years + float(time[-1])))
    return LifeTables(nodes, count, tuple(tables), np.asarray(table_of, dtype=np.int64), last)


def _chebyshev(low: float, high: float, points: int) -> checks.Floats:
    """Chebyshev points of the second kind, rising."""
    return np.asarray((low + high) / 2 - (high - low) / 2 * np.cos(np.pi * np.arange(points) / (points - 1)))


def barycentric(grid: checks.Floats, at: checks.Floats) -> checks.Floats:
    """(..., l) weights that interpolate from Chebyshev points of the second kind, `grid`, at points held inside it."""
    sign = (-1.0) ** np.arange(grid.size)
    sign[[0, -1]] /= 2
    away = np.clip(at, grid[0], grid[-1])[..., None] - grid
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
