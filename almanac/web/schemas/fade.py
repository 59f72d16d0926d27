"""How packs and drives fade, as they are read."""

from __future__ import annotations

from datetime import date

from almanac.web.schemas.base import Schema
from almanac.web.schemas.outlook import ReadingPoint


class FadesView(Schema):
    """The day a unit crosses: 5, 50 and 95%."""

    low: date | None
    middle: date | None
    high: date | None


class WearUnitView(Schema):
    """A unit's readings, and the day it reaches the threshold.

    fades : by the curves of its group, null where too little is read and its age speaks; a day too far off to name is null
    crosses_on : of the straight line through its readings alone, with Fieller's limits of 95%; where there is none `reason` says why
    due : its last readings lie below the threshold · age_days : today; nobody knows it by `age_span` days
    """

    tag: str
    model: str
    readings: list[ReadingPoint]
    age_days: int
    age_span: int
    fades: FadesView | None
    due: bool
    crosses_on: date | None
    low: date | None
    high: date | None
    reason: str


class BandPoint(Schema):
    """Shares of new units at an age in years: 5, 50 and 95% of units."""

    years: float
    low: float
    middle: float
    high: float


class FadeCurves(Schema):
    """How units of a part group fade. Curves : straight, at a level of charge, after a time of each unit's own; how much each carries.

    knee : years after which units fade faster, 5, 50 and 95% of units, and how many times; null where they hardly do
    together : its readings are too few by themselves, and taken with those of other parts of the kind
    """

    straight: float
    level: float
    knee: float
    bends_after: list[float] | None
    steeper: float | None
    band: list[BandPoint]
    together: bool


class WearView(Schema):
    """Units followed by readings, soonest to cross first; expected first failures in 365 days of those that readings speak for, either way.

    curves : null where too little is read
    """

    curves: FadeCurves | None
    as_of: date
    threshold: float
    usable: int
    by_readings: float | None
    by_age: float | None
    beside: bool
    units: list[WearUnitView]


class FadeLine(Schema):
    """A stock part with followed units. usable : that readings speak for · expected : to be worn within 365 days

    due : whose last readings lie below the threshold · straight : how much the straight curve carries
    """

    number: str
    name: str
    kind: str
    units: int
    usable: int
    due: int
    expected: float | None
    straight: float | None


class FadeView(Schema):
    """Stock parts whose wear is read."""

    as_of: date
    parts: list[FadeLine]
