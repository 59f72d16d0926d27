"""What the outlook would have said at past quarters, from what was recorded by then, against what was then drawn."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta
from typing import ClassVar

from sqlalchemy.orm import Session

from almanac.core.answers.question import Named, Question
from almanac.core.calibration.scores import Scored, score
from almanac.core.checks import Floats
from almanac.services.answers.ask import answer_of, ask_all
from almanac.services.answers.progress import tell
from almanac.services.outlook.demand_laws import LawBook
from almanac.services.outlook.inputs import Inputs, read_inputs
from almanac.services.outlook.past import inputs_at
from almanac.store import past_demand

LEAST_LOG_DAYS = 365
"""A forecast is tried once the log is a year old."""
MOST_QUARTERS = 12
YEAR_DAYS = 365


@dataclass(frozen=True)
class Forecast:
    """What was said of a part on a past day: its law over the quarter, and its units in service."""

    pmf: Floats
    units: float


@dataclass(frozen=True)
class ForecastOfKind(Question[dict[int, Forecast]]):
    """What would have been said of a kind's parts over so many days. inputs : DemandInputs as of then · fitted : FittedKind of then"""

    NAME: ClassVar[str] = "forecast of a past quarter"
    VERSION: ClassVar[int] = 1
    inputs: Named
    fitted: Named
    days: int

    def compute(self) -> dict[int, Forecast]:
        book = LawBook(self.inputs.content, self.fitted.content)
        laws = {part: law for part in book.inputs.parts if (law := book.part_law(part)) is not None and law.units.sum() > 0}
        return {part: Forecast(law.law.pmf([0], [self.days])[0], float(law.units.sum())) for part, law in laws.items()}


@dataclass(frozen=True)
class Held:
    """One forecast held against what was drawn, with its rivals: last year's count and the fixed share of the fleet."""

    part_id: int
    origin: date
    days: int
    scored: Scored
    last_year: float
    fixed_share: float


@dataclass(frozen=True)
class Backtest:
    """All forecasts held, over so many quarters."""

    inputs: Inputs
    held: list[Held]
    quarters: int


def quarters(first: date, today: date, most: int = MOST_QUARTERS) -> list[tuple[date, date]]:
    """Past quarters that ended by today and began when the log was at least a year old, the latest of them."""
    starts = [date(year, month, 1) for year in range(first.year, today.year + 1) for month in (1, 4, 7, 10)]
    whole = [(start, end) for start, end in zip(starts, [*starts[1:], date(today.year + 1, 1, 1)], strict=True) if end <= today]
    return [(start, end) for start, end in whole if start >= first + timedelta(days=LEAST_LOG_DAYS)][-most:]


def backtest(session: Session, *, most: int = MOST_QUARTERS) -> Backtest:
    """The backtest, the latest quarter first; quarters that were worked out before are answers that are known."""
    inputs = read_inputs(session)
    first = past_demand.first_entry(session)
    asked = quarters(first, inputs.clock.today, most) if first else []
    rows = _by_leader(inputs, past_demand.past_demand(session))
    held: list[Held] = []
    for done, (start, end) in enumerate(reversed(asked)):
        tell("quarters worked out", done, len(asked))
        said = forecast_at(session, inputs, start, (end - start).days)
        held += [_held(inputs, rows, part.id, start, end, said[part.id]) for part in inputs.parts if part.id in said]
    return Backtest(inputs, held, len(asked))


def questions_at(session: Session, inputs: Inputs, origin: date, days: int) -> list[ForecastOfKind]:
    """What is asked of a past day, kind by kind."""
    # What machines bought meanwhile drew is not held against a forecast, so those planned are left out of it too.
    then = inputs_at(session, inputs, origin, settings=inputs.settings, purchases=False)
    kinds = {kind: then.of_kind(kind, reach=days) for kind in then.kinds()}
    return [ForecastOfKind(Named.of(own), answer_of(session, then.fit_of(kind)), days) for kind, own in kinds.items()]


def forecast_at(session: Session, inputs: Inputs, origin: date, days: int) -> dict[int, Forecast]:
    """What the outlook would have said on a past day of every part in service then, over so many days."""
    return {part: said for one in ask_all(session, questions_at(session, inputs, origin, days)) for part, said in one.items()}


def _by_leader(inputs: Inputs, rows: list[past_demand.DrawnRow]) -> dict[int, list[past_demand.DrawnRow]]:
    found: dict[int, list[past_demand.DrawnRow]] = {}
    for row in rows:
        if row.part_id in inputs.group:
            found.setdefault(inputs.group[row.part_id], []).append(row)
    return found


def _held(inputs: Inputs, rows: dict[int, list[past_demand.DrawnRow]], part: int, start: date, end: date, said: Forecast) -> Held:
    """What machines bought during the quarter drew is not held against it: many a purchase is in no plan on record."""
    days = (end - start).days
    own = rows.get(part, [])
    seen = sum(row.parts for row in own if start <= row.drawn_on < end and row.machine_since < start)
    before = sum(row.parts for row in own if start - timedelta(days=YEAR_DAYS) <= row.drawn_on < start)
    kind, number = next((entry.kind, entry.number) for entry in inputs.parts if entry.id == part)
    share = float(inputs.settings.value("fixed_share", kind=kind, part_number=number, default=0.02))
    year = days / YEAR_DAYS
    return Held(part, start, days, score(said.pmf, seen), before * year, share * said.units * year)
