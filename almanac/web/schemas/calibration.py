"""How well the forecasts have done."""

from __future__ import annotations

from datetime import date

from almanac.web.schemas.base import Schema


class PlainCoverage(Schema):
    forecasts: int
    inside: float


class MarksView(Schema):
    """Some forecasts against what was drawn; shares are of 1, scores in parts."""

    name: str
    forecasts: int
    covered_half: float
    covered_most: float
    expected: float
    seen: int
    crps: float
    last_year: float
    fixed_share: float
    plain: PlainCoverage | None
    histogram: list[float]


class QuarterView(Schema):
    kind: str
    start: date
    days: int
    forecasts: int
    expected: float
    seen: int
    within: int


class HeldView(Schema):
    """One forecast: what was expected, its 5 to 95% place, and what was drawn."""

    part: str
    name: str
    kind: str
    start: date
    expected: float
    seen: int
    place: float
    last_year: float
    fixed_share: float


class CalibrationView(Schema):
    """The backtest, over so many past quarters."""

    quarters_tried: int
    first: date | None
    marks: list[MarksView]
    quarters: list[QuarterView]
    worst: list[HeldView]


class CalibrationTold(Schema):
    """The backtest, None while it is not known."""

    found: CalibrationView | None
