"""Charts of a kind: each pool, part group, site and lot, its failures month by month beside what its units were expected to have."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import ClassVar, NamedTuple

import numpy as np

from almanac.core import checks
from almanac.core.answers.question import Named, Question
from almanac.core.life.accepted import NO_LOT
from almanac.core.life.alarms.expected import Levels, Nodes, Own, Watched, cells_by_month, charts_of
from almanac.core.life.alarms.history import History
from almanac.core.life.life_data import DUTIES, NOT_KNOWN, Ints
from almanac.core.life.nodes import KindNodes
from almanac.services.alarms.decided import day_number
from almanac.services.outlook.fitted import FittedKind, WearFit, school_of
from almanac.services.outlook.pools import Pool
from almanac.store.life_data import EPOCH
from almanac.store.models import ChartScope

MOST_YEARS = 10
FEWEST_OF_A_LOT = 2
"""A lot of one unit tells nothing of the lot."""


class ChartKey(NamedTuple):
    """What a chart watches. part : a lot's part number, else the first of a part group; made : day number of a lot"""

    scope: str
    part: int | None = None
    model: int | None = None
    duty: str | None = None
    air: str | None = None
    site: int | None = None
    made: int | None = None


class Since(NamedTuple):
    """A pool, part group or site whose alarm was accepted, and the day from which its evidence counts."""

    chart: ChartKey
    day: int


@dataclass(frozen=True)
class ExpectedChart:
    """A chart's failures and what was expected, by month; units : ever under watch · cv : how well the expectation is known"""

    key: ChartKey
    failures: checks.Floats
    expected: checks.Floats
    cv: float
    units: int


@dataclass(frozen=True)
class ChartsOfKind:
    """Charts of a kind over the same months.

    months : first days of them, and the day after the last · lots_of_one : lots of a single unit, which tell nothing
    no_lot : units of which nobody knows the lot
    """

    months: tuple[date, ...]
    charts: tuple[ExpectedChart, ...]
    lots_of_one: int
    no_lot: int


@dataclass(frozen=True)
class ExpectedOfKind(Question[ChartsOfKind | None]):
    """A kind's FittedKind and History of each part number. None : nothing of it ever failed, so no level is known to hold anything against.

    group : part number to the first of its equivalents · air : class of the air at each site · school : as the company set it
    accepted : pools, parts and sites whose alarm was accepted; an accepted lot is a pool that ages faster
    """

    NAME: ClassVar[str] = "failures against what was expected"
    VERSION: ClassVar[int] = 2
    kind: str
    today: date
    group: Mapping[int, int]
    air: Mapping[int, str]
    school: str
    fitted: Named
    histories: Named
    accepted: tuple[Since, ...]

    def compute(self) -> ChartsOfKind | None:
        fitted: FittedKind = self.fitted.content
        levels = _levels(fitted, self.school)
        rows = _Rows.of(self.histories.content, self.group, self.air)
        if levels is None or rows.units.size == 0:
            return None
        edges = month_edges(int(rows.enter.min()), self.today)
        place: dict[Pool, int] = {}
        pool_of = [place.setdefault(pool, len(place)) for pool in rows.pools]
        known = levels(list(place))
        share = fitted.record.share.share
        watched = Watched(rows.cell, rows.born, rows.enter, rows.leave, rows.units, rows.confirmed + share * rows.open)
        cells = cells_by_month(watched, np.array(pool_of, dtype=np.int64), edges, known)
        every = rows.charts(self.group)
        cells = cells.from_months(_first_months(every, self.accepted, edges, len(rows.pools)))
        wanted = _told_apart(every)
        own = [_own(key, rows.pools[of[0]]) for key, of in wanted]
        found = charts_of(cells, [of for _, of in wanted], known, own)
        units = np.bincount(rows.cell, rows.units, len(rows.pools))
        charts = [
            ExpectedChart(key, np.asarray(chart.failures, dtype=np.float64), chart.expected, chart.cv, round(float(units[of].sum())))
            for (key, of), chart in zip(wanted, found, strict=True)
        ]
        return ChartsOfKind(
            tuple(EPOCH + timedelta(days=day) for day in edges),
            tuple(charts),
            sum(chart.key.scope == ChartScope.LOT and chart.units < FEWEST_OF_A_LOT for chart in charts),
            round(float(rows.units[rows.made[rows.cell] == NOT_KNOWN].sum())),
        )


def month_edges(first: int, today: date) -> list[int]:
    """First days of the calendar months from that of a day on, at most ten years back, and the day after the last."""
    start = max(EPOCH + timedelta(days=first), today - timedelta(days=round(MOST_YEARS * 365.25))).replace(day=1)
    edges = []
    while start <= today:
        edges.append(day_number(start))
        start = (start + timedelta(days=32)).replace(day=1)
    return [*edges, day_number(today) + 1]


def _own(key: ChartKey, pool: Pool) -> Own:
    if key.scope != ChartScope.LOT:
        return Own.BEFORE
    return Own.LEFT_OUT if pool.lot == NO_LOT else Own.WHOLE


def _first_months(charts: Sequence[tuple[ChartKey, Ints]], accepted: Sequence[Since], edges: Sequence[int], cells: int) -> Ints:
    """(c,) the first month that counts of each cell: of an accepted alarm, that of its day."""
    begins = {one.chart: int(np.searchsorted(edges, one.day)) for one in accepted}
    found = np.zeros(cells, dtype=np.int64)
    for key, of in charts:
        if key in begins:
            found[of] = np.maximum(found[of], begins[key])
    return found


def _told_apart(charts: Sequence[tuple[ChartKey, Ints]]) -> list[tuple[ChartKey, Ints]]:
    """Of charts that watch the same cells the first alone; a lot has its own way of being watched, and stays."""
    seen: set[tuple[int, ...]] = set()
    found = []
    for key, of in charts:
        cells = tuple(of.tolist())
        if key.scope == ChartScope.LOT or cells not in seen:
            found.append((key, of))
        seen.add(cells)
    return found


def _levels(fitted: FittedKind, wanted: str) -> Callable[[list[Pool]], Levels] | None:
    """Levels of any pools in the schools the kind takes; None where nothing of it ever failed."""
    fit, level = fitted.wear, fitted.nodes
    if fit is None or fit.groups is None or level is None:
        return None
    share = school_of(fit, wanted).wear_out
    # One constant rate knows no ages, so none that run faster, save those of a lot that fails so many times as often.
    by_age = dict(zip(fit.pools, fit.acceleration.log_pace.tolist(), strict=True))
    paces = by_age if share > 0 else {pool: float(np.log(ratio)) for pool, ratio in fitted.lots.items()}

    def of(pools: list[Pool]) -> Levels:
        parts = sorted({pool.part_id for pool in pools})
        nodes = [_nodes_of(fit, level, part, share) for part in parts]
        group = np.searchsorted(parts, [pool.part_id for pool in pools]).astype(np.int64)
        return Levels(nodes, group, np.array([paces.get(pool, 0.0) for pool in pools]))

    return of


def _nodes_of(fit: WearFit, level: KindNodes, part: int, share: float) -> Nodes:
    own = fit.group_of(part)
    if share == 0 or own is None:
        return Nodes(level.weight, np.ones(level.weight.size), level.shape, level.rate)
    both = fit.nodes_with(own, share)
    return Nodes(both.weight, both.shape, both.a, both.b)


@dataclass(frozen=True)
class _Rows:
    """Lives alike of a kind, each in a cell: a pool at a site, of a part number's lot.

    cell, born, enter, leave, units, confirmed, open : (n,) · pools, parts, sites, made : of each cell
    """

    cell: Ints
    born: Ints
    enter: Ints
    leave: Ints
    units: checks.Floats
    confirmed: checks.Floats
    open: checks.Floats
    pools: list[Pool]
    parts: Ints
    sites: Ints
    made: Ints

    @staticmethod
    def of(histories: Mapping[int, History], group: Mapping[int, int], air: Mapping[int, str]) -> _Rows:
        """Put the parts of a kind together."""
        names = ("model", "duty", "site", "lot", "made", "born", "enter", "leave", "units", "confirmed", "open")
        blocks = [(part, [getattr(own, name) for name in names]) for part, own in histories.items() if own.units.size]
        if not blocks:
            none, nothing = np.zeros(0, dtype=np.int64), np.zeros(0)
            return _Rows(none, none, none, none, nothing, nothing, nothing, [], none, none, none)
        part = np.concatenate([np.full(columns[0].size, number, dtype=np.int64) for number, columns in blocks])
        columns = [np.concatenate(column) for column in zip(*(own for _, own in blocks), strict=True)]
        keys = np.column_stack((part, *columns[:5]))
        cells, cell = np.unique(keys, axis=0, return_inverse=True)
        pools = [Pool(group[of], model, DUTIES[duty], air[site], lot) for of, model, duty, site, lot, _ in cells.tolist()]
        born, enter, leave, *amounts = columns[5:]
        units, confirmed, still_open = (column.astype(np.float64) for column in amounts)
        return _Rows(cell.ravel(), born, enter, leave, units, confirmed, still_open, pools, cells[:, 0], cells[:, 3], cells[:, 5])

    def charts(self, group: Mapping[int, int]) -> list[tuple[ChartKey, Ints]]:
        """Charts and their cells, pools before parts before sites before lots."""
        of: dict[ChartKey, list[int]] = defaultdict(list)
        for cell, (pool, part, site, made) in enumerate(
            zip(self.pools, self.parts.tolist(), self.sites.tolist(), self.made.tolist(), strict=True)
        ):
            if pool.lot == NO_LOT:
                of[ChartKey(ChartScope.POOL.value, pool.part_id, pool.model_id, pool.duty, pool.environment)].append(cell)
            of[ChartKey(ChartScope.PART.value, group[part])].append(cell)
            of[ChartKey(ChartScope.SITE.value, site=site)].append(cell)
            if made != NOT_KNOWN:
                of[ChartKey(ChartScope.LOT.value, part, made=made)].append(cell)
        order = list(ChartScope)
        inside = sorted(of, key=lambda key: (order.index(ChartScope(key.scope)), str(key)))
        return [(key, np.array(of[key], dtype=np.int64)) for key in inside]
