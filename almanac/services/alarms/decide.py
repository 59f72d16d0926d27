"""Deciding about alarms: accepted, with what follows for the rates, or put aside with a reason; either can be taken back."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from sqlalchemy.orm import Session

from almanac.services.alarms.names import NamedChart, chart_named, title_of
from almanac.services.alarms.watch import ChartFollowed, CompanyWatch, key_of_decision, made_on, read_watch
from almanac.services.clock import Clock
from almanac.services.errors import Fault, NotFound, Refused, Stale
from almanac.services.outlook.inputs import Inputs
from almanac.services.outlook.past import start_of
from almanac.services.words import day
from almanac.store import alarms
from almanac.store.models import AlarmDecision, ChartScope, Verdict

LEAST_WORDS = 5


@dataclass(frozen=True)
class DecisionRequest:
    """What somebody decides about an alarm. failed : as it stood on the page they read"""

    chart: str
    verdict: str
    reason: str
    failed: float


def decide(session: Session, request: DecisionRequest, *, clock: Clock, author_id: int) -> int:
    """Decide about an open alarm; returns the number of the decision.

    Raises
    ------
    NotFound : nothing is watched under that name · Refused : no reason, or no alarm is open there
    Stale : more has failed than on the page that was read
    """
    watch = read_watch(session)
    named = chart_named(watch.inputs, request.chart)
    found = followed_of(watch, named)
    if len(request.reason.strip()) < LEAST_WORDS:
        raise Refused(Fault("reason", "say in a few words why: whoever reads this alarm next will ask"))
    if found.alarm is None or not found.is_open:
        raise Refused(Fault("chart", f"no alarm is open for {title_of(watch.inputs, named.kind, named.key)}"))
    if abs(found.alarm.observed - request.failed) > 1e-6:
        raise Stale("more is on record of it by now: read it again, then decide")
    row = hypothetical(found)
    row.verdict, row.reason = Verdict(request.verdict).value, request.reason.strip()
    row.decided_at, row.author_id = clock.now, author_id
    session.add(row)
    session.flush()
    return row.id


def hypothetical(found: ChartFollowed) -> AlarmDecision:
    """The decision as it would be written were the alarm accepted, not yet on record."""
    assert found.alarm is not None
    key = found.key
    return AlarmDecision(
        kind=found.kind,
        scope=key.scope,
        part_id=key.part,
        model_id=key.model,
        duty=key.duty,
        environment=key.air,
        site_id=key.site,
        made_on=made_on(key) if key.scope == ChartScope.LOT else None,
        since=found.months[found.alarm.since],
        spoke_on=found.months[found.alarm.period],
        observed=found.alarm.observed,
        expected=found.alarm.expected,
        verdict=Verdict.ACCEPTED.value,
    )


def followed_of(watch: CompanyWatch, named: NamedChart) -> ChartFollowed:
    """A chart of the company's.

    Raises
    ------
    NotFound : nothing is watched under that name
    """
    for one in watch.charts:
        if (one.kind, one.key) == (named.kind, named.key):
            return one
    raise NotFound(f"nothing is watched under the name {named.name}")


def accepted_since(session: Session, inputs: Inputs, kind: str, since: date) -> list[str]:
    """Alarms of a kind accepted since a day that still hold, in words."""
    moment = start_of(since)
    return [
        f"{title_of(inputs, kind, key_of_decision(one))}: accepted on {day(one.decided_at.date())}"
        for one in alarms.decisions(session)
        if one.kind == kind and one.verdict == Verdict.ACCEPTED and one.decided_at > moment
    ]


def withdraw(session: Session, decision_id: int, *, clock: Clock, author_id: int) -> None:
    """Take a decision back: from now on it does not hold, and its alarm is open again if it still speaks.

    Raises
    ------
    NotFound : no decision with that number holds
    """
    row = session.get(AlarmDecision, decision_id, with_for_update=True)
    if row is None or row.withdrawn_at is not None:
        raise NotFound(f"no decision with the number {decision_id} holds")
    row.withdrawn_at, row.withdrawn_by_id = clock.now, author_id
    session.flush()
