"""What a chart of failures is held against: the failures its units would have had by what all others say, month by month."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import Enum
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from almanac.core import checks
from almanac.core.errors import ContractError
from almanac.core.life.alarms.cusum import Chart

Ints = NDArray[np.int64]
DAYS_PER_YEAR = 365.25


@dataclass(frozen=True)
class Watched:
    """Lives alike (n,), each in a cell; days on the calendar. failed : of them on the day they left, open findings by their share"""

    cell: Ints
    born: Ints
    enter: Ints
    leave: Ints
    units: checks.Floats
    failed: checks.Floats


@dataclass(frozen=True)
class Nodes:
    """What is known of a pool's level before its own record.

    weight, shape, a, b : (k,) nodes of beta and of the gamma (a, b) of lambda, 1/years^beta
    """

    weight: checks.Floats
    shape: checks.Floats
    a: checks.Floats
    b: checks.Floats


@dataclass(frozen=True)
class Levels:
    """Nodes of each part group. group : (p,) of each pool · pace : (p,) log of how much faster it ages"""

    nodes: Sequence[Nodes]
    group: Ints
    pace: checks.Floats


@dataclass(frozen=True)
class Cells:
    """Cells (c,) by month (m,): failures, cumulative hazard H for each shape its pool may have, and the pool of each cell."""

    pool: Ints
    failed: checks.Floats
    hazard: Mapping[float, checks.Floats]

    def from_months(self, first: Ints) -> Cells:
        """The same, what came before a month (c,) of each cell left out."""
        counts = np.arange(self.failed.shape[1])[None] >= first[:, None]
        return Cells(self.pool, self.failed * counts, {shape: table * counts for shape, table in self.hazard.items()})


def cells_by_month(lives: Watched, pool: Ints, edges: Sequence[int], levels: Levels) -> Cells:
    """Failures and cumulative hazard of each cell in each month.

    Parameters
    ----------
    lives : watched · pool : (c,) of each cell · edges : (m + 1,) first days of the months and the day after the last · levels : of pools

    Returns
    -------
    Cells : a failure counts in the month of its day

    Raises
    ------
    ContractError : a cell without a pool, edges that do not rise
    """
    if lives.cell.size and int(lives.cell.max()) >= pool.size:
        raise ContractError(f"cell: one below {pool.size} was wanted")
    if any(after <= before for before, after in pairwise(edges)):
        raise ContractError("edges: rising days were wanted")
    months, count = len(edges) - 1, pool.size
    wanted = _groups_by_shape(levels)
    failed, hazard = np.zeros((count, months)), {shape: np.zeros((count, months)) for shape in wanted}
    of_group = levels.group[pool][lives.cell]
    for month, (start, end) in enumerate(pairwise(edges)):
        begin, stop = np.maximum(lives.enter, start), np.minimum(lives.leave, end)
        on = np.flatnonzero(stop > begin)
        young, old = (np.maximum(day - lives.born, 0)[on] / DAYS_PER_YEAR for day in (begin, stop))
        for shape, table in hazard.items():
            own = wanted[shape][of_group[on]]
            grown = old[own] ** shape - young[own] ** shape
            table[:, month] = np.bincount(lives.cell[on][own], lives.units[on][own] * grown, count)
        here = (lives.leave > start) & (lives.leave <= end) if month else lives.leave <= end
        failed[:, month] = np.bincount(lives.cell[here], lives.failed[here], count)
    for shape, table in hazard.items():
        hazard[shape] = table * np.exp(shape * levels.pace[pool])[:, None]
    return Cells(pool, failed, hazard)


def _groups_by_shape(levels: Levels) -> dict[float, NDArray[np.bool_]]:
    """Which part groups may have a shape, for every shape."""
    found: dict[float, NDArray[np.bool_]] = {}
    for group, nodes in enumerate(levels.nodes):
        for shape in np.unique(nodes.shape):
            found.setdefault(float(shape), np.zeros(len(levels.nodes), dtype=np.bool_))[group] = True
    return found


class Own(Enum):
    """What of a chart's own record bears on what is expected of it: nothing, what came before each month, or all of it."""

    LEFT_OUT = "left_out"
    BEFORE = "before"
    WHOLE = "whole"


def charts_of(cells: Cells, charts: Sequence[Ints], levels: Levels, own: Sequence[Own]) -> list[Chart]:
    """Charts over groups of cells, each held against what all others say and, where that is wanted, against its own past.

    The level of a pool is what its kind and its record give: lambda is Gamma(a + D, b + H) at each node, D and H of all else in the pool
    and of as much of the chart as `own` says. A lot is held against the others alone, for it may have been bad from its first day. A
    pool, a part group or a site that always ran above its kind is no news: its own record before each month counts. One that was accepted
    is held against what is then expected of it, its whole record counted. The doubt that is
    left, weighted by what was expected of each month, is the chart's cv.

    Parameters
    ----------
    cells : by month · charts : (n,) cells of each chart · levels : of pools · own : of each chart

    Returns
    -------
    list of Chart : in the order of the charts

    References
    ----------
    Steiner, Cook, Farewell & Treasure (2000), Biostatistics 1 (risk-adjusted CUSUM).
    """
    pools = levels.pace.size
    failures = np.bincount(cells.pool, cells.failed.sum(axis=1), pools).astype(np.float64)
    whole = {shape: np.bincount(cells.pool, table.sum(axis=1), pools).astype(np.float64) for shape, table in cells.hazard.items()}
    return [_chart(cells, of, levels, (failures, whole), one) for of, one in zip(charts, own, strict=True)]


def _chart(cells: Cells, of: Ints, levels: Levels, record: tuple[checks.Floats, Mapping[float, checks.Floats]], own: Own) -> Chart:
    failures, whole = record
    pools, place = np.unique(cells.pool[of], return_inverse=True)
    failed = _by_pool(cells.failed[of], place, pools.size)
    left = _counted(failures[pools], failed, own)
    group = levels.group[pools]
    mean, spread = np.zeros(failed.shape[1]), np.zeros(failed.shape[1])
    for number in np.unique(group):
        rows, nodes = group == number, levels.nodes[number]
        risk = {shape: _by_pool(cells.hazard[shape][of], place, pools.size)[rows] for shape in map(float, np.unique(nodes.shape))}
        counted = {shape: _counted(whole[shape][pools[rows]], table, own) for shape, table in risk.items()}
        of_group, square = np.zeros(failed.shape[1]), np.zeros(failed.shape[1])
        for weight, shape, a, b in zip(nodes.weight, nodes.shape, nodes.a, nodes.b, strict=True):
            shaped, rate = a + left[rows], b + counted[float(shape)]
            own_mean = (shaped / rate * risk[float(shape)]).sum(axis=0)
            of_group += weight * own_mean
            square += weight * ((shaped / rate**2 * risk[float(shape)] ** 2).sum(axis=0) + own_mean**2)
        mean += of_group
        # What part groups have in common moves them together.
        spread += np.sqrt(np.maximum(square - of_group**2, 0.0))
    total = float(mean.sum())
    return Chart(failed.sum(axis=0), mean, float(spread.sum()) / total if total > 0 else 0.0)


def _by_pool(rows: checks.Floats, place: Ints, pools: int) -> checks.Floats:
    found = np.zeros((pools, rows.shape[1]))
    np.add.at(found, place, rows)
    return found


def _counted(whole: checks.Floats, chart: checks.Floats, own: Own) -> checks.Floats:
    """(p, m) what counts of the pools' records in each month: all else, and as much of the chart as is wanted."""
    rest = np.maximum(whole - chart.sum(axis=1), 0.0)[:, None]
    if own is Own.LEFT_OUT:
        return np.broadcast_to(rest, chart.shape)
    return np.asarray(rest + (np.cumsum(chart, axis=1) - chart if own is Own.BEFORE else chart.sum(axis=1, keepdims=True)))
