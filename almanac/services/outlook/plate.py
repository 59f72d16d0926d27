"""The plate of one stock part: its year as played, demand by month, streams, contributions, pools and working."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from almanac.core.answers.question import Question
from almanac.core.demand import counts
from almanac.core.demand.failure_rate import AnnualisedRate, rates_by_pool
from almanac.core.demand.law import DemandLaw
from almanac.core.demand.months import MonthStep
from almanac.core.demand.unrecorded import Spread
from almanac.core.life.rate import RateEstimate, constant_rate
from almanac.core.life.record import PoolRecord
from almanac.services.outlook.builder import OutlookBuilder
from almanac.services.outlook.decide import Decisions, decisions_of
from almanac.services.outlook.demand import with_time_line
from almanac.services.outlook.demand_laws import LawBook, PartLaw
from almanac.services.outlook.order_plans import OutlookOfPart, PartOutlook, Row
from almanac.services.outlook.played import YearPlayed, year_played
from almanac.services.outlook.pools import Pool
from almanac.services.outlook.projection import BAND, YEAR_DAYS
from almanac.services.outlook.working import FixedShare, SchoolYear, Worked, WorkingSection, working_of
from almanac.store.planning import StockPart
from almanac.store.shelves import OpenLine


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
class PlateOfPart:
    """What is computed of a plate; all of it is empty where nothing can be said of the part."""

    months: list[MonthDemand]
    by_model: list[tuple[int, float]]
    played: YearPlayed | None
    pools: list[PoolLine]
    schools: list[SchoolYear]
    school_reason: str
    working: list[WorkingSection]
    decisions: Decisions


@dataclass(frozen=True)
class PlateQuestion(Question[PlateOfPart]):
    """A part as its row is asked for and answered, with what only the plate shows.

    fixed_share : of the fleet, the rule of thumb beside the level · unrecorded : units that machines without a record may hold
    lead_from : where the lead time is known from, in words · last_buy_chance : that a last buy suffices
    """

    NAME: ClassVar[str] = "plate"
    VERSION: ClassVar[int] = 4
    row: OutlookOfPart
    answer: PartOutlook
    part: StockPart
    fixed_share: float
    currency: str
    unrecorded: Spread
    lead_from: str
    last_buy_chance: float

    def compute(self) -> PlateOfPart:
        book = LawBook(self.row.inputs.content, self.row.fitted.content)
        row = Row(self.part, self.row.shelf, self.row.policy, self.answer.projection, self.answer.plan)
        with_time_line(book, self.part.id, self.row.demand.content)
        law, steps = book.part_law(self.part.id), list(self.row.steps)
        worked = Worked(book, law, row, book.inputs.today, self.currency, self.unrecorded, self.lead_from)
        if law is None:
            return PlateOfPart([], [], None, [], [], book.evidence.school.reason, working_of(worked), Decisions([], None, None))
        schools = _schools(book, self.part.id)
        return PlateOfPart(
            months=_months(law.law, steps),
            by_model=_by_model(book, law, self.part.id),
            played=year_played(law.law, row, steps),
            pools=_pools(law),
            schools=schools,
            school_reason=book.evidence.school.reason,
            working=working_of(worked, _fixed_share(law.law, row, self.fixed_share), schools),
            decisions=decisions_of(book, law, row, self.last_buy_chance),
        )


@dataclass(frozen=True)
class Plate:
    """Everything shown of one stock part."""

    row: Row
    open_lines: list[OpenLine]
    unrecorded: Spread
    made: PlateOfPart


def plate_question(builder: OutlookBuilder, part: StockPart, row: Row, *, unrecorded: Spread) -> PlateQuestion:
    """What is asked of a part whose row was answered."""
    settings = builder.inputs.settings
    return PlateQuestion(
        builder.question(part),
        PartOutlook(row.projection, row.plan),
        part,
        builder.fixed_share(part),
        str(settings.value("currency", default="EUR")),
        unrecorded,
        builder.lead_from(part),
        builder.last_buy_chance(part),
    )


def open_lines_of(builder: OutlookBuilder, part: StockPart) -> list[OpenLine]:
    """Orders of a part still to come, at the chosen sites."""
    members, inputs = builder.inputs.members(part.id), builder.inputs
    return [entry for entry in inputs.open_lines if entry.part_id in members and entry.site_id in inputs.site_ids]


def _months(law: DemandLaw, steps: list[MonthStep]) -> list[MonthDemand]:
    pmf = law.pmf([step.from_day for step in steps], [step.to_day for step in steps])
    mean, _ = counts.mean_and_variance(pmf)
    low, median, high = (counts.quantile(pmf, level) for level in BAND)
    return [MonthDemand(step, float(mean[i]), int(low[i]), int(median[i]), int(high[i])) for i, step in enumerate(steps)]


def _by_model(book: LawBook, law: PartLaw, part_id: int) -> list[tuple[int, float]]:
    """Expected parts of the coming year by model, largest first; they add up to the part's expected demand."""
    window = np.array([0]), np.array([YEAR_DAYS])
    exposure, failing = law.law.window_exposure(*window)[0], law.law.wear_means(*window)[0]
    side = sum((rates for _, rates in book.side_by_pool(law.pools).values()), np.zeros(len(law.pools)))
    drawn: dict[int, float] = defaultdict(float)
    for pool, years, failures, beside in zip(law.pools, exposure, failing, side, strict=True):
        drawn[pool.model_id] += float(failures + beside * years)
    again = law.law.dead_on_arrival / (1.0 - law.law.dead_on_arrival)
    total = {model: parts * (1.0 + again) for model, parts in drawn.items()}
    for planned, each in ((book.changes.swaps, 1.0 + again), (book.changes.fittings, again)):
        for parts in planned:
            if parts.part_id == part_id and parts.site_id in book.inputs.chosen and parts.day <= YEAR_DAYS:
                total[parts.model_id] = total.get(parts.model_id, 0.0) + parts.quantity * each
    return sorted(((model, parts) for model, parts in total.items() if parts > 0), key=lambda pair: -pair[1])


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


def _fixed_share(law: DemandLaw, row: Row, share: float) -> FixedShare | None:
    """What the fixed percentage would keep for the same protection interval, and the chance that it suffices."""
    if row.projection.in_service == 0:
        return None
    level = int(np.ceil(share * row.projection.in_service))
    ends = row.policy.lead.days + row.policy.review_days
    head = law.head(np.zeros(ends.size), ends, level)
    return FixedShare(share, level, float(row.policy.lead.weight @ head.sum(axis=1)))


AVERAGED = "averaged"
"""Both schools, each with its weight."""


def _schools(book: LawBook, part_id: int) -> list[SchoolYear]:
    """Both schools beside each other; a kind without any failure knows one only."""
    school = book.evidence.school
    taken = AVERAGED if school.averaged else school.name
    laws: dict[str, DemandLaw | None] = {"constant": book.constant_law(part_id), "wear-out": book.aged_law(part_id)}
    if (laws.get(taken) is not None or school.averaged) and (whole := book.part_law(part_id)) is not None:
        laws[taken] = whole.law  # the same law, whose time line is known
    found = []
    for name, law in laws.items():
        if law is None:
            continue
        pmf = law.pmf([0], [YEAR_DAYS])
        low, median, high = (int(counts.quantile(pmf, level)[0]) for level in BAND)
        found.append(SchoolYear(name, name == taken, float(law.mean_parts([YEAR_DAYS])[0]), low, median, high))
    return found
