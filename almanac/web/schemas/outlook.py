"""The outlook and the plate of a part."""

from __future__ import annotations

from datetime import date

from pydantic import Field

from almanac.core.stock.shelf import Risk, ToDo
from almanac.web.schemas.base import Schema
from almanac.web.schemas.part_decisions import KeptLaterView, LastBuyView, PartSettingView, StockingView


class SiteQuery(Schema):
    site: str | None = Field(default=None, max_length=20)


class Rate(Schema):
    """Failures per unit and year, with the 90% credible interval."""

    rate: float
    low: float
    high: float


class Point(Schema):
    """Projected stock at the end of a day: 5, 50 and 95%."""

    day: int
    low: int
    median: int
    high: int


class ArrivalDue(Schema):
    day: int
    quantity: int


class SiteLevel(Schema):
    """A site that the depot feeds: its level, what is there and coming, what to load, what is risked, and its share of all requests."""

    code: str
    name: str
    level: int
    free: int
    coming: int
    load: int
    fill: float
    chance: float
    risk: Risk
    stocked: bool = True
    share: float = 0.0


class LikelyOrder(Schema):
    """Days of the likely next order, 5, 50 and 95%; null where it is not within a year."""

    early: date | None
    likely: date | None
    late: date | None


class PartLine(Schema):
    number: str
    name: str
    kind: str
    equivalents: list[str]
    supplier: str
    price: float
    rate: Rate | None
    failures: float
    in_service: float
    on_hand: int
    expired: int
    promised: int
    on_order: int
    overdue: int
    floor: int
    todo: ToDo | None
    risk: Risk | None
    position: int | None
    order_at: int | None
    lot: int | None
    most: int | None
    fill: float | None
    fill_less: float | None
    fill_more: float | None
    next_order: LikelyOrder
    next_days: list[int | None]
    waiting: int
    help_on: date | None
    chance_of_waiting: float | None
    chance_in_time: float | None
    quantity: int
    drafted: int = 0
    cost: float
    sites: list[SiteLevel]
    a_month: float | None
    arrivals: list[ArrivalDue]
    path: list[Point]
    scrap_expected: int
    end_of_supply_on: date | None
    due_after_supply: date | None
    stocked: bool = True


class MonthStart(Schema):
    first_on: date
    last_on: date
    from_day: int
    to_day: int


class SettingInForce(Schema):
    value: float
    number: int


class KindSchool(Schema):
    """How a kind's parts are taken to fail, why, and what the company set; `number` is that of the setting's entry.

    wear_out : how much the wear-out school carries, 0 to 1
    """

    kind: str
    school: str
    wear_out: float
    early_life: bool
    reason: str
    wanted: str
    number: int


class UnsaidView(Schema):
    """What cannot be said of how many stock parts, why, and what it would take."""

    parts: int
    what: str
    why: str
    cure: str


class OtherOrder(Schema):
    """A part of another kind that is to be ordered today."""

    number: str
    name: str
    kind: str
    supplier: str
    quantity: int
    drafted: int
    cost: float


class OutlookView(Schema):
    """`failing_soon` is null where nothing can be said; `boats` counts sites something is to be loaded for, `waiting` machines; `leaves` is
    the next departure for a site.
    """

    as_of: date
    site: str | None
    failing_soon: float | None
    soon_until: date
    to_order: int
    to_load: int
    boats: int
    waiting: int
    thin: int
    unsaid: list[UnsaidView]
    stated: list[str]
    next_order_on: date | None
    unrecorded: int
    target: SettingInForce
    measure: str
    review_days: SettingInForce
    schools: list[KindSchool]
    months: list[MonthStart]
    lines: list[PartLine]
    other_orders: list[OtherOrder]
    leaves: dict[str, date]


class MonthDemandView(Schema):
    first_on: date
    last_on: date
    expected: float
    low: int
    median: int
    high: int


class StreamsView(Schema):
    wear_out: float
    dead_on_arrival: float
    damage: float
    no_fault_draw: float
    planned: float


class ModelShare(Schema):
    model_id: int
    model: str
    expected: float


class EstimateView(Schema):
    """A figure with its Monte Carlo error."""

    value: float
    error: float


class SpreadView(Schema):
    """5, 50 and 95% over the years played."""

    low: float
    median: float
    high: float


class YearPlayedView(Schema):
    """The coming year of a part as its policy would make it, played many times."""

    path: list[Point]
    fill: EstimateView | None
    orders: EstimateView
    parts: SpreadView
    spent: SpreadView
    waiting: EstimateView
    runs: int


class PoolView(Schema):
    model_id: int
    model: str
    duty: str
    environment: str
    units: float
    tenures: int
    unit_years: float
    failures: float
    own_rate: float | None
    own_low: float
    own_high: float | None
    used: Rate | None


class OpenLineView(Schema):
    id: int
    order_number: str
    part_number: str
    placed_on: date
    expected_on: date
    quantity: int
    remaining: int
    version: int
    overdue: bool


class WorkingRowView(Schema):
    label: str
    value: str
    note: str
    entries: str | None
    total: bool


class WorkingSectionView(Schema):
    title: str
    formula: str
    rows: list[WorkingRowView]


class SchoolDemand(Schema):
    """Demand of the coming 365 days under one school: mean and 5, 50, 95%."""

    school: str
    taken: bool
    expected: float
    low: int
    median: int
    high: int


class PlateView(Schema):
    as_of: date
    site: str | None
    line: PartLine
    supplier: str
    lead_days: int
    pack: int
    minimum_order: int
    expires: bool
    models: int
    steps: list[MonthStart]
    months: list[MonthDemandView]
    streams: StreamsView | None
    by_model: list[ModelShare]
    played: YearPlayedView | None
    pools: list[PoolView]
    open_lines: list[OpenLineView]
    schools: list[SchoolDemand]
    school_reason: str
    working: list[WorkingSectionView]
    later: list[KeptLaterView]
    stocking: StockingView | None
    last_buy: LastBuyView | None
    target: PartSettingView
    when_needed: PartSettingView


class ChangesQuery(SiteQuery):
    kind: str = Field(max_length=20)


class ChangeView(Schema):
    """Expected parts of a year ahead: as said a month ago, what moved it in this order, and as said now."""

    part: str
    name: str
    before: float
    ageing: float
    fleet: float
    log: float
    settings: float
    now: float


class ChangesView(Schema):
    """unsaid : stock parts of which nothing could be said then or now · accepted : alarms accepted since, which count as the log's"""

    since: date
    kind: str
    unsaid: int
    accepted: list[str]
    parts: list[ChangeView]


class ReadingPoint(Schema):
    day: date
    share: float


class ReadingIn(Schema):
    """What a part in service could still give on a day: full and design capacity, in one unit."""

    tag: str = Field(max_length=60)
    position: str = Field(max_length=60)
    read_on: date
    full: float
    design: float


class ReadingKept(Schema):
    id: int
