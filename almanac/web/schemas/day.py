"""The bench's day, as the API has it."""

from __future__ import annotations

from datetime import date

from almanac.web.schemas.base import Schema
from almanac.web.schemas.jobs import JobLineView


class WayView(Schema):
    """How far a job is. turn : share of the way at which it turns back · at : share that is done"""

    done: int
    steps: int
    turn: float
    at: float


class DayJobView(Schema):
    """A job in hand. tone : ready, goes, waits or stopped · way : null while nobody knows its steps"""

    line: JobLineView
    targets: list[str]
    stands: str
    note: str
    tone: str
    way: WayView | None


class DaySwapView(Schema):
    planned_on: date
    quantity: int
    model: str
    site: str
    site_code: str
    part_number: str
    part_name: str
    note: str
    kept: int


class WornUnitView(Schema):
    """A part read as worn, or nearly. share : of what it was made for · limit : the share it is swapped at"""

    tag: str
    model: str
    site: str
    site_code: str
    part_number: str
    part_name: str
    kind: str
    read_on: date
    share: float
    limit: float


class DayView(Schema):
    """worn : the first of `worn_count` · open_findings : incidents whose finding nobody settled"""

    jobs: list[DayJobView]
    swaps: list[DaySwapView]
    worn: list[WornUnitView]
    worn_count: int
    open_findings: int
