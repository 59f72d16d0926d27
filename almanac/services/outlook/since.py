"""What changed in a part's demand since an earlier day, and why: ageing, then fleet, then log, then settings; the parts add up."""

from __future__ import annotations

from calendar import monthrange
from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import date, timedelta
from typing import ClassVar

from sqlalchemy.orm import Session

from almanac.core.answers.encode import key_of
from almanac.core.answers.question import Named, Question
from almanac.services.answers.ask import answer_of, ask
from almanac.services.outlook.builder import OutlookBuilder
from almanac.services.outlook.demand_laws import LawBook
from almanac.services.outlook.inputs import UNFADED, DemandInputs
from almanac.services.outlook.life import PartFleet
from almanac.services.outlook.past import inputs_at
from almanac.services.outlook.projection import YEAR_DAYS
from almanac.store.settings import settings_on


@dataclass(frozen=True)
class Change:
    """Expected parts of a year ahead: as said then, what moved it, and as said now. before + the four = now."""

    part_id: int
    before: float
    ageing: float
    fleet: float
    log: float
    settings: float
    now: float


@dataclass(frozen=True)
class Then:
    """Of a part: demand as said on the day, the same as it stands now, today's fleet under the log of then, and under the settings of then.

    said, aged, fleet, under : None where nothing could be said · same : the settings that bear on demand are the same
    """

    said: float | None
    aged: float | None
    fleet: float | None
    under: float | None
    same: bool


@dataclass(frozen=True)
class SinceOfKind(Question[dict[int, Then]]):
    """A kind as it was some days ago, DemandInputs; today's fleet under its log; and today's log under its settings where they differ."""

    NAME: ClassVar[str] = "what changed since"
    VERSION: ClassVar[int] = 2
    days: int
    before: Named
    fleet: Named
    fitted_then: Named
    under: Named | None
    fitted_now: Named

    def compute(self) -> dict[int, Then]:
        before, fleet = (LawBook(one.content, self.fitted_then.content) for one in (self.before, self.fleet))
        under = None if self.under is None else LawBook(self.under.content, self.fitted_now.content)
        found = {}
        for part in fleet.inputs.parts:
            aged = _year(before, part, self.days)
            settled = None if under is None else _year(under, part)
            found[part] = Then(_year(before, part), aged, _year(fleet, part), settled, same=under is None)
        return found


def _year(book: LawBook, part: int, from_day: int = 0) -> float | None:
    law = book.part_law(part)
    return law.law.means(from_day, from_day + YEAR_DAYS).total if law else None


def month_before(day: date) -> date:
    """The same day of the month before, or its last day."""
    last = day.replace(day=1) - timedelta(days=1)
    return last.replace(day=min(day.day, monthrange(last.year, last.month)[1]))


def changes_of(session: Session, builder: OutlookBuilder, kind: str, since: date | None = None) -> tuple[date, list[Change]]:
    """Every part of a kind of which something could be said then and now, and the day it is compared with, by default a month ago.

    Ageing: the fleet of then and its plans as they stand now, under the log of then. Fleet: today's units, ages and plans, under the
    log of then. Log: today's log. Settings: today's school.
    """
    day = since or month_before(builder.inputs.clock.today)
    then = ask(session, _question(session, builder, kind, day))
    rows = {row.part.id: row for row in builder.rows() if row.part.kind == kind}
    return day, [change for part, found in then.items() if (change := _change(part, found, rows[part].year_total)) is not None]


def _question(session: Session, builder: OutlookBuilder, kind: str, since: date) -> SinceOfKind:
    inputs = builder.inputs
    days = (inputs.clock.today - since).days
    past = inputs_at(session, inputs, since, settings=settings_on(session, since))
    before, now = past.of_kind(kind, reach=YEAR_DAYS + days), inputs.of_kind(kind, reach=YEAR_DAYS)
    settings: Mapping[str, object] = {"school": before.school, "worn": before.worn}
    fleet = replace(now, fleet=_unread(now), school=before.school, worn=before.worn)
    same = all(getattr(now, name) == value for name, value in settings.items())
    under = None if same else Named.of(replace(now, school=before.school, worn=before.worn, faded=_faded(session, builder, kind, before)))
    fits = [answer_of(session, one.fit_of(kind)) for one in (past, inputs)]
    return SinceOfKind(days, Named.of(before), Named.of(fleet), fits[0], under, fits[1])


def _faded(session: Session, builder: OutlookBuilder, kind: str, before: DemandInputs) -> Named:
    """Today's readings against the shares at which parts were worn then."""
    question = builder.inputs.fade_of(session, kind, before.worn)
    return UNFADED if question is None else answer_of(session, question)


def _unread(now: DemandInputs) -> Named:
    """Today's units by their ages alone: their readings belong to the log."""

    def content() -> dict[int, PartFleet]:
        return {part: replace(fleet, followed=()) for part, fleet in now.fleets.items()}

    return Named(key_of(("by ages alone", now.fleet.key)), fetch=content)


def _change(part: int, then: Then, now: float | None) -> Change | None:
    under = now if then.same else then.under
    if then.said is None or then.aged is None or then.fleet is None or under is None or now is None:
        return None
    return Change(part, then.said, then.aged - then.said, then.fleet - then.aged, under - then.fleet, now - under, now)
