"""Charts of failures against what was expected, their alarms, and what is decided about them."""

from __future__ import annotations

from datetime import date, datetime

from pydantic import Field

from almanac.store.models import ChartScope, LotKnownBy, Verdict
from almanac.web.schemas.base import Schema, Words


class AlarmView(Schema):
    """When a chart spoke, since when it had run ahead, with what was seen and expected from then on."""

    spoke_in: date
    since: date
    observed: float
    expected: float


class DecisionTaken(Schema):
    """What was decided about an alarm."""

    id: int
    verdict: Verdict
    reason: str
    by: str | None
    on: datetime
    since: date
    observed: float
    expected: float


class ChartLine(Schema):
    """A chart in a list. units : ever under watch · failed, expected : of all months"""

    chart: str
    kind: str
    scope: ChartScope
    title: str
    part: str | None
    units: int
    failed: float
    expected: float
    alarm: AlarmView | None
    decision: DecisionTaken | None


class LotLine(Schema):
    """A lot with its record. chance : of so many failures or more by what the other lots did · stands_out : over all lots at once"""

    chart: str
    kind: str
    title: str
    part: str
    made_on: date
    units: int
    failed: float
    expected: float
    chance: float
    stands_out: bool


class KindWatched(Schema):
    """How much of a kind is watched: units of which nobody knows the lot, and lots of one unit, which tell nothing."""

    kind: str
    charts: int
    no_lot: int
    lots_of_one: int


class AlarmsView(Schema):
    """Alarms to decide about, those decided, those of the past that nobody had to, and lots with their record.

    silent : kinds of which nothing ever failed: nothing can be held against anything · lots_in_all : those not shown are as expected
    """

    open: list[ChartLine]
    decided: list[ChartLine]
    past: list[ChartLine]
    lots: list[LotLine]
    lots_in_all: int
    kinds: list[KindWatched]
    silent: list[str]
    charts: int
    false_a_year: float


class ChartMonth(Schema):
    """A month of a chart: failures, what was expected, and the chart's height after it."""

    starts_on: date
    failed: float
    expected: float
    height: float


class UnitOfLot(Schema):
    """A unit of a lot: where it is, or how it ended."""

    tag: str
    site: str | None
    position: str
    serial: str | None
    lot_known_by: LotKnownBy | None
    fitted_on: date
    removed_on: date | None
    finding: str | None
    incident_id: int | None


class CameWith(Schema):
    """An order with which parts of a lot came."""

    order_number: str
    lot: str | None
    received_on: date


class ChartPlate(Schema):
    """One chart: month by month, all it ever said, and the units of a lot."""

    line: ChartLine
    limit: float
    ratio: float
    doubt: float
    months: list[ChartMonth]
    alarms: list[AlarmView]
    units: list[UnitOfLot]
    units_in_all: int
    came_with: list[CameWith]


class ChartQuery(Schema):
    """Which chart."""

    chart: str = Field(max_length=300)


class WouldChange(Schema):
    """A part before an alarm is accepted and after."""

    number: str
    year_before: float | None
    year_after: float | None
    order_at_before: int | None
    order_at_after: int | None
    order_now_before: int
    order_now_after: int


class WouldChangeView(Schema):
    """What accepting an alarm would change."""

    parts: list[WouldChange]


class DecideIn(Schema):
    """What is decided about an alarm; failed : as it stood on the page."""

    chart: str = Field(max_length=300)
    verdict: Verdict
    reason: Words
    failed: float


class DecidedOut(Schema):
    """The number of a decision."""

    id: int
