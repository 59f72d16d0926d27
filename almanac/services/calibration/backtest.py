"""What the outlook would have said at past quarters, from what was recorded by then, against what was then drawn."""

from __future__ import annotations

import time
from dataclasses import dataclass
from datetime import date, timedelta
from functools import partial

from sqlalchemy.orm import Session

from almanac.core.calibration.scores import Scored, score
from almanac.core.checks import Floats
from almanac.services.outlook.content import OF_LAWS
from almanac.services.outlook.inputs import Inputs, read_inputs
from almanac.services.outlook.laws import LawBook
from almanac.services.outlook.then import inputs_at, start_of
from almanac.services.remembered import Remembered, digest
from almanac.store import catalog
from almanac.store import drawn as drawn_store

LEAST_LOG_DAYS = 365
"""A forecast is tried once the log is a year old."""
MOST_QUARTERS = 12
YEAR_DAYS = 365
AT_ONCE_SECONDS = 0.8
"""A request works on missing quarters for so long, and then answers with what there is."""
REMEMBERED: Remembered[dict[int, Forecast]] = Remembered(64)


@dataclass(frozen=True)
class Forecast:
    """What was said of a part on a past day: its law over the quarter, and its units in service."""

    pmf: Floats
    units: float


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
    """All forecasts held so far; `done` quarters of `of`."""

    inputs: Inputs
    held: list[Held]
    done: int
    of: int


def quarters(first: date, today: date, most: int = MOST_QUARTERS) -> list[tuple[date, date]]:
    """Past quarters that ended by today and began when the log was at least a year old, the latest of them."""
    starts = [date(year, month, 1) for year in range(first.year, today.year + 1) for month in (1, 4, 7, 10)]
    whole = [(start, end) for start, end in zip(starts, [*starts[1:], date(today.year + 1, 1, 1)], strict=True) if end <= today]
    return [(start, end) for start, end in whole if start >= first + timedelta(days=LEAST_LOG_DAYS)][-most:]


def backtest(session: Session, *, seconds: float = AT_ONCE_SECONDS, most: int = MOST_QUARTERS) -> Backtest:
    """The backtest as far as it has been worked out; quarters that are missing are worked on for some seconds, the latest first."""
    inputs = read_inputs(session)
    first = drawn_store.first_entry(session)
    asked = quarters(first, inputs.clock.today, most) if first else []
    rows = _by_leader(inputs, drawn_store.drawn(session))
    until = time.monotonic() + seconds
    held: list[Held] = []
    done = 0
    for start, end in reversed(asked):
        key = _content(session, inputs, start, (end - start).days)
        known = REMEMBERED.peek(key)
        if known is None and time.monotonic() >= until:
            continue
        if known is None:
            known = REMEMBERED.get(key, partial(forecast_at, session, inputs, start, (end - start).days))
        done += 1
        held += [_held(inputs, rows, part, start, end, said) for part, said in known.items()]
    return Backtest(inputs, held, done, len(asked))


def forecast_at(session: Session, inputs: Inputs, origin: date, days: int) -> dict[int, Forecast]:
    """What the outlook would have said on a past day of every part in service then, over so many days."""
    # What machines bought meanwhile drew is not held against a forecast, so those planned are left out of it too.
    then = inputs_at(session, inputs, origin, settings=inputs.settings, purchases=False)
    book = LawBook(then, reach=days)
    found = {}
    for part in then.parts:
        law = book.part_law(part.id)
        if law is None or law.units.sum() <= 0:
            continue
        found[part.id] = Forecast(law.law.pmf([0], [days])[0], float(law.units.sum()))
    return found


def _content(session: Session, inputs: Inputs, origin: date, days: int) -> bytes:
    """What a forecast of then rests on: what was recorded by then, and how the company reads it now."""
    settings = sorted((key, repr(value)) for key, value in inputs.settings.entries.items() if key[2] in OF_LAWS)
    plans = [(p.id, p.planned_on, p.quantity) for p in catalog.fleet_plans(session, after=origin, known_at=start_of(origin))]
    content = (origin, days, drawn_store.known_by(session, start_of(origin)), plans, settings, sorted(inputs.group.items()))
    return digest(content)


def _by_leader(inputs: Inputs, rows: list[drawn_store.DrawnRow]) -> dict[int, list[drawn_store.DrawnRow]]:
    found: dict[int, list[drawn_store.DrawnRow]] = {}
    for row in rows:
        if row.part_id in inputs.group:
            found.setdefault(inputs.group[row.part_id], []).append(row)
    return found


def _held(inputs: Inputs, rows: dict[int, list[drawn_store.DrawnRow]], part: int, start: date, end: date, said: Forecast) -> Held:
    """What machines bought during the quarter drew is not held against it: many a purchase is in no plan on record."""
    days = (end - start).days
    own = rows.get(part, [])
    seen = sum(row.parts for row in own if start <= row.drawn_on < end and row.machine_since < start)
    before = sum(row.parts for row in own if start - timedelta(days=YEAR_DAYS) <= row.drawn_on < start)
    kind, number = next((entry.kind, entry.number) for entry in inputs.parts if entry.id == part)
    share = float(inputs.settings.value("fixed_share", kind=kind, part_number=number, default=0.02))
    year = days / YEAR_DAYS
    return Held(part, start, days, score(said.pmf, seen), before * year, share * said.units * year)
