"""What changed in a part's demand since a month ago, and why: ageing, then fleet, then log, then settings; the parts add up."""

from __future__ import annotations

from calendar import monthrange
from dataclasses import dataclass, replace
from datetime import date, timedelta
from functools import partial

from sqlalchemy.orm import Session

from almanac.services.outlook.inputs import Inputs
from almanac.services.outlook.laws import LawBook
from almanac.services.outlook.lines import OutlookBuilder
from almanac.services.outlook.lived import Lived
from almanac.services.outlook.then import inputs_at, start_of
from almanac.services.remembered import Remembered, digest
from almanac.store import drawn
from almanac.store.ages import Ages
from almanac.store.settings import Settings, settings_on

YEAR_DAYS = 365
REMEMBERED: Remembered[dict[int, tuple[float, float, float]]] = Remembered(32)


@dataclass(frozen=True)
class Change:
    """Expected parts of a year ahead: as said a month ago, what moved it, and as said now. before + the four = now."""

    part_id: int
    before: float
    ageing: float
    fleet: float
    log: float
    settings: float
    now: float


def month_before(day: date) -> date:
    """The same day of the month before, or its last day."""
    last = day.replace(day=1) - timedelta(days=1)
    return last.replace(day=min(day.day, monthrange(last.year, last.month)[1]))


def changes_of(session: Session, builder: OutlookBuilder, kind: str) -> tuple[date, list[Change]]:
    """Every part of a kind, and the day a month ago.

    Ageing: the fleet of then and its plans a month on, under the log of then. Fleet: today's units, ages and plans, under the log of
    then. Log: today's log. Settings: today's school.
    """
    inputs = builder.inputs
    since = month_before(inputs.clock.today)
    settings = settings_on(session, since)
    key = _content(session, builder, kind, since, str(settings.value("school", kind=kind, default="auto")))
    found = REMEMBERED.get(key, partial(_as_of_then, session, inputs, kind, since, settings))
    return since, [_change(builder, settings, part_id, *values) for part_id, values in found.items()]


def _change(builder: OutlookBuilder, settings: Settings, part_id: int, before: float, aged: float, fleet: float) -> Change:
    part = next(part for part in builder.inputs.parts if part.id == part_id)
    line = builder.line(part)
    now = line.year.total if line.year else 0.0
    under_then = _under(settings, builder, part_id, now)
    return Change(part_id, before, aged - before, fleet - aged, under_then - fleet, now - under_then, now)


def _under(settings: Settings, builder: OutlookBuilder, part_id: int, now: float) -> float:
    """Today's demand in the school that was set a month ago; only the school of a kind bears on demand."""
    inputs, kind = builder.inputs, builder.book.kind_of[part_id]
    wanted = settings.value("school", kind=kind, default="auto")
    if wanted == inputs.settings.value("school", kind=kind, default="auto"):
        return now
    law = LawBook(replace(inputs, settings=settings), reach=YEAR_DAYS).part_law(part_id)
    return law.law.means(0, YEAR_DAYS).total if law else 0.0


def _as_of_then(session: Session, inputs: Inputs, kind: str, since: date, settings: Settings) -> dict[int, tuple[float, float, float]]:
    """Of each part of a kind: demand as said then, the same a month on, and that of today's fleet under the log of then."""
    days = (inputs.clock.today - since).days
    then = inputs_at(session, inputs, since, settings=settings)
    ages = Ages(then.ages.at_risk, inputs.ages.served, finds=then.ages.finds)
    log_of_then = replace(inputs, settings=settings, lived=Lived(then.tenures, inputs.service, ages))
    before, fleet = LawBook(then, reach=YEAR_DAYS + days), LawBook(log_of_then, reach=YEAR_DAYS)
    found = {}
    for part in inputs.parts:
        if part.kind != kind:
            continue
        law, moved = before.part_law(part.id), fleet.part_law(part.id)
        said, aged = (law.law.means(0, YEAR_DAYS).total, law.law.means(days, YEAR_DAYS + days).total) if law else (0.0, 0.0)
        found[part.id] = said, aged, moved.law.means(0, YEAR_DAYS).total if moved else 0.0
    return found


def _content(session: Session, builder: OutlookBuilder, kind: str, since: date, school: str) -> bytes:
    keys = [(part.id, builder.content.besides_target(part)) for part in builder.inputs.parts if part.kind == kind]
    return digest((kind, since, school, drawn.known_by(session, start_of(since)), keys))
