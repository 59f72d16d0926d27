"""The plate of one stock part: its plan with orders, demand by month, streams, contributions, pools and working."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass, field

import numpy as np

from almanac.core.demand import counts
from almanac.core.demand.failure_rate import AnnualisedRate, rates_by_pool
from almanac.core.demand.law import DemandLaw
from almanac.core.demand.months import MonthStep
from almanac.core.demand.unrecorded import Spread
from almanac.core.life.rate import RateEstimate, constant_rate
from almanac.core.life.record import PoolRecord, Stream
from almanac.core.stock.order_plan import PlannedOrder, plan_year
from almanac.core.stock.path import Arrival, Holding, path_quantiles
from almanac.services.errors import NotFound
from almanac.services.outlook.fleet_change import Pool
from almanac.services.outlook.laws import KindEvidence, PartLaw
from almanac.services.outlook.lines import Line, OutlookBuilder
from almanac.services.outlook.standing import BAND, PathPoint
from almanac.store.shelves import OpenLine

YEAR_DAYS = 365


@dataclass(frozen=True)
class MonthDemand:
    """Parts wanted in one calendar month: mean and 5, 50, 95%."""

    step: MonthStep
    expected: float
    low: int
    median: int
    high: int


@dataclass(frozen=True)
class PoolLine:
    """One pool of the part: its record, its own rate with exact limits, and the rate the forecast uses."""

    pool: Pool
    record: PoolRecord
    units: float
    failures: float
    own: RateEstimate
    used: AnnualisedRate | None


@dataclass(frozen=True)
class FixedShare:
    """The rule of thumb beside the computed level: a fixed share of the fleet, and the service it really gives."""

    share: float
    level: int
    cycle_service: float


@dataclass(frozen=True)
class SchoolYear:
    """Demand of the coming 365 days under one school: mean and 5, 50, 95%; `taken` where the part's plan rests on it."""

    school: str
    taken: bool
    expected: float
    low: int
    median: int
    high: int


@dataclass(frozen=True)
class Plate:
    """Everything shown of one stock part; `unrecorded` : units that machines without a record may hold."""

    line: Line
    evidence: KindEvidence
    months: list[MonthDemand]
    by_model: list[tuple[int, float]]
    orders: list[PlannedOrder]
    planned_path: list[PathPoint]
    pools: list[PoolLine]
    open_lines: list[OpenLine]
    fixed_share: FixedShare | None
    schools: list[SchoolYear]
    unrecorded: Spread = field(default_factory=Spread)


def build_plate(builder: OutlookBuilder, part_number: str) -> Plate:
    """The plate of a part by its number.

    Raises
    ------
    NotFound : no stock part has that number
    """
    part = next((part for part in builder.inputs.parts if part.number == part_number), None)
    if part is None:
        raise NotFound(f"no stock part has the number {part_number}")
    line = builder.line(part)
    evidence = builder.book.kinds[part.kind]
    members = builder.inputs.members(part.id)
    lines = [entry for entry in builder.inputs.open_lines if entry.part_id in members and entry.site_id in builder.inputs.site_ids]
    if line.law is None:
        return Plate(line, evidence, [], [], [], [], [], lines, None, [])
    orders = plan_year(line.law.law, line.holding, line.policy, horizon_days=YEAR_DAYS) if line.plan else []
    return Plate(
        line=line,
        evidence=evidence,
        months=_months(line.law.law, builder.steps),
        by_model=_by_model(builder, line.law, part.id),
        orders=orders,
        planned_path=_planned_path(line, orders, builder.steps),
        pools=_pools(line.law),
        open_lines=lines,
        fixed_share=_fixed_share(builder, line),
        schools=_schools(builder, line),
    )


def _months(law: DemandLaw, steps: list[MonthStep]) -> list[MonthDemand]:
    pmf = law.pmf([step.from_day for step in steps], [step.to_day for step in steps])
    mean, _ = counts.mean_and_variance(pmf)
    low, median, high = (counts.quantile(pmf, level) for level in BAND)
    return [MonthDemand(step, float(mean[i]), int(low[i]), int(median[i]), int(high[i])) for i, step in enumerate(steps)]


def _by_model(builder: OutlookBuilder, law: PartLaw, part_id: int) -> list[tuple[int, float]]:
    """Expected parts of the coming year by model, largest first; they add up to the part's expected demand."""
    window = np.array([0]), np.array([YEAR_DAYS])
    exposure, failing = law.law.window_exposure(*window)[0], law.law.wear_means(*window)[0]
    side = sum(stream.batch * stream.shape / stream.rate for stream in law.law.side)
    drawn: dict[int, float] = defaultdict(float)
    for pool, years, failures in zip(law.pools, exposure, failing, strict=True):
        drawn[pool.model_id] += float(failures + side * years)
    again = law.law.dead_on_arrival / (1.0 - law.law.dead_on_arrival)
    total = {model: parts * (1.0 + again) for model, parts in drawn.items()}
    for planned, each in ((builder.book.changes.swaps, 1.0 + again), (builder.book.changes.fittings, again)):
        for parts in planned:
            if parts.part_id == part_id and parts.site_id in builder.inputs.site_ids and parts.day <= YEAR_DAYS:
                total[parts.model_id] = total.get(parts.model_id, 0.0) + parts.quantity * each
    return sorted(((model, parts) for model, parts in total.items() if parts > 0), key=lambda pair: -pair[1])


def _planned_path(line: Line, orders: list[PlannedOrder], steps: list[MonthStep]) -> list[PathPoint]:
    """Stock with the plan's orders: on month ends, and before and after each arrival so that it shows as a step."""
    assert line.law is not None
    arrivals = sorted([*line.holding.arrivals, *(Arrival(order.arrives_day, order.quantity) for order in orders)], key=lambda a: a.day)
    holding = Holding(line.holding.available, tuple(arrivals), line.holding.floor)
    last = steps[-1].to_day
    days = sorted({0, *(step.to_day for step in steps), *(day for a in arrivals for day in (a.day - 1, a.day) if 0 <= day <= last)})
    pmf = line.law.law.reaching(np.zeros(len(days)), days, BAND[-1])
    high, median, low = (path_quantiles(counts.quantile(pmf, level), holding, days) for level in BAND)
    return [PathPoint(day, int(low[i]), int(median[i]), int(high[i])) for i, day in enumerate(days)]


def _pools(law: PartLaw) -> list[PoolLine]:
    """Pools by units in service; a pool that no unit is in uses no rate."""
    found = [
        PoolLine(
            pool,
            law.records[i],
            float(law.units[i]),
            float(law.law.failures[i]),
            constant_rate(float(law.law.failures[i]), law.records[i].exposure_years),
            used,
        )
        for i, (pool, used) in enumerate(zip(law.pools, rates_by_pool(law.law), strict=True))
    ]
    return sorted(found, key=lambda line: -line.units)


def _fixed_share(builder: OutlookBuilder, line: Line) -> FixedShare | None:
    """What the fixed percentage would keep for the same protection interval, and the chance that it suffices."""
    if line.law is None or line.in_service == 0:
        return None
    share = float(builder.inputs.settings.value("fixed_share", kind=line.part.kind, part_number=line.part.number, default=0.02))
    level = int(np.ceil(share * line.in_service))
    ends = line.policy.lead.days + line.policy.review_days
    head = line.law.law.head(np.zeros(ends.size), ends, level)
    return FixedShare(share, level, float(line.policy.lead.weight @ head.sum(axis=1)))


def _schools(builder: OutlookBuilder, line: Line) -> list[SchoolYear]:
    """Both schools beside each other; a kind without any failure knows one only."""
    book, taken = builder.book, builder.book.kinds[line.part.kind].school.name
    laws = {"constant": book.constant_law(line.part.id), "wear-out": book.aged_law(line.part.id)}
    found = []
    for name, law in laws.items():
        if law is None:
            continue
        pmf = law.pmf([0], [YEAR_DAYS])
        low, median, high = (int(counts.quantile(pmf, level)[0]) for level in BAND)
        found.append(SchoolYear(name, name == taken, float(law.mean_parts([YEAR_DAYS])[0]), low, median, high))
    return found


def open_range(evidence: KindEvidence, records: list[PoolRecord]) -> tuple[float, float, float]:
    """Wear-out failures of the pools if no open finding, the settled share of them, or all of them are confirmed."""
    confirmed = sum(record.count(Stream.CONFIRMED) for record in records)
    still_open = sum(record.count(Stream.OPEN) for record in records)
    return float(confirmed), confirmed + evidence.record.share.share * still_open, float(confirmed + still_open)
