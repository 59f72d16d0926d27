"""What accepting an alarm would change: reorder points and yearly demand, before and after, of the parts it bears on."""

from __future__ import annotations

from dataclasses import dataclass, replace

from sqlalchemy.orm import Session

from almanac.services.alarms.decide import followed_of, hypothetical
from almanac.services.alarms.decided import follow_from
from almanac.services.alarms.names import chart_named
from almanac.services.alarms.watch import ChartFollowed, read_watch
from almanac.services.errors import Fault, Refused
from almanac.services.outlook.builder import OutlookBuilder
from almanac.services.outlook.inputs import Inputs, with_fade
from almanac.services.outlook.life import read_life
from almanac.services.outlook.order_plans import Row
from almanac.store import alarms
from almanac.store.models import Verdict
from almanac.store.planning import StockPart


@dataclass(frozen=True)
class PartChange:
    """A part before and after: wanted a year, reorder point, and how many are to be ordered now; None where nothing can be said."""

    number: str
    year_before: float | None
    year_after: float | None
    order_at_before: int | None
    order_at_after: int | None
    order_now_before: int
    order_now_after: int


def would_change(session: Session, chart: str) -> list[PartChange]:
    """What accepting an open alarm would change.

    Raises
    ------
    NotFound : nothing is watched under that name · Refused : no alarm is open there
    """
    watch = read_watch(session)
    found = followed_of(watch, chart_named(watch.inputs, chart))
    if not found.is_open:
        raise Refused(Fault("chart", "no alarm is open there: nothing is to be accepted"))
    accepted = [one for one in alarms.decisions(session) if one.verdict == Verdict.ACCEPTED]
    decided = follow_from(session, [*accepted, hypothetical(found)])
    inputs = watch.inputs
    life = read_life(session, list(inputs.life), as_of=inputs.clock.today, decided=decided)
    parts = _bears_on(inputs, found)
    before = OutlookBuilder(session, inputs).rows_for(parts)
    after = OutlookBuilder(session, with_fade(session, replace(inputs, life=life))).rows_for(parts)
    return [_change(one, other) for one, other in zip(before, after, strict=True)]


def _bears_on(inputs: Inputs, found: ChartFollowed) -> list[StockPart]:
    """Stock parts whose lives are looked at in another way; of a site all of the kind."""
    of_kind = [part for part in inputs.parts if part.kind == found.kind]
    if found.key.part is None:
        return of_kind
    return [part for part in of_kind if part.id == inputs.group[found.key.part]]


def _change(before: Row, after: Row) -> PartChange:
    def at(row: Row) -> int | None:
        return None if row.plan is None else row.plan.order_at

    return PartChange(before.part.number, before.year_total, after.year_total, at(before), at(after), before.quantity, after.quantity)
