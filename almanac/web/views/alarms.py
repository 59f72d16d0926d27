"""Failures that run ahead of what was expected."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date

from flask import Blueprint

from almanac.core.life.alarms.cusum import Alarm
from almanac.services.alarms import decide as service
from almanac.services.alarms.company import alarm_settings
from almanac.services.alarms.names import chart_named, name_of, title_of
from almanac.services.alarms.watch import RATIO, ChartFollowed, CompanyWatch, made_on, read_watch
from almanac.services.alarms.would import would_change
from almanac.services.clock import read_clock
from almanac.store.lots import receipts_of_lot, units_of_lot
from almanac.store.models import AlarmDecision, ChartScope, Role, Verdict
from almanac.store.orders import names
from almanac.web.access import author_id
from almanac.web.api import endpoint
from almanac.web.database import session
from almanac.web.schemas import alarms as schemas
from almanac.web.schemas.base import Done
from almanac.web.schemas.decisions import Decisions, DecisionView

blueprint = Blueprint("alarms", __name__, url_prefix="/api/v1")
MOST_LOTS = 60
MOST_UNITS = 200


@endpoint(blueprint, "/alarms", access=Role.READER, replies=schemas.AlarmsView, kept="dear")
def alarms() -> schemas.AlarmsView:
    """Alarms to decide about, those of before, and lots with their record."""
    watch = read_watch(session())
    by = _deciders(watch.charts)
    decided = [one for one in watch.charts if one.decision is not None]
    past = [one for one in watch.charts if one.alarm is None and one.decision is None and one.watched.alarms]
    lots = [one for one in watch.charts if one.tail is not None]
    shown = sorted(lots, key=lambda one: (one.tail or 0.0, -one.failed))[:MOST_LOTS]
    return schemas.AlarmsView(
        open=[_line(watch, one, by) for one in watch.open],
        decided=[_line(watch, one, by) for one in sorted(decided, key=_decided_at, reverse=True)],
        past=[_line(watch, one, by) for one in past],
        lots=[_lot(watch, one) for one in shown],
        lots_in_all=len(lots),
        kinds=[
            schemas.KindWatched(
                kind=kind,
                charts=sum(one.kind == kind for one in watch.charts),
                no_lot=watch.no_lot[kind],
                lots_of_one=watch.lots_of_one[kind],
            )
            for kind in watch.no_lot
        ],
        silent=list(watch.silent),
        charts=len(watch.charts),
        false_a_year=watch.false_a_year,
    )


@endpoint(blueprint, "/alarms/settings", access=Role.READER, replies=Decisions)
def read_alarm_settings() -> Decisions:
    """What the company decided about alarms."""
    return Decisions(settings=[DecisionView.model_validate(item) for item in alarm_settings(session(), read_clock(session()))])


@endpoint(blueprint, "/alarms/chart", access=Role.READER, replies=schemas.ChartPlate, kept="dear")
def alarm_chart(query: schemas.ChartQuery) -> schemas.ChartPlate:
    """One chart."""
    watch = read_watch(session())
    one = service.followed_of(watch, chart_named(watch.inputs, query.chart))
    made = made_on(one.key)
    lot = one.key.scope == ChartScope.LOT and one.key.part is not None and made is not None
    units = units_of_lot(session(), one.key.part or 0, made, most=MOST_UNITS) if lot and made else []
    came = receipts_of_lot(session(), one.key.part or 0, made) if lot and made else []
    by = _deciders([one])
    return schemas.ChartPlate(
        line=_line(watch, one, by),
        limit=one.watched.limit,
        ratio=RATIO,
        doubt=one.chart.cv,
        months=[
            schemas.ChartMonth(starts_on=start, failed=float(failed), expected=float(expected), height=height)
            for start, failed, expected, height in zip(
                one.months[:-1], one.chart.failures, one.chart.expected, one.watched.heights, strict=True
            )
        ],
        alarms=[_alarm(one.months, alarm) for alarm in one.watched.alarms],
        units=[
            schemas.UnitOfLot(
                tag=unit.tag,
                site=unit.site_name,
                position=unit.position,
                serial=unit.serial,
                lot_known_by=unit.lot_known_by,
                fitted_on=unit.fitted_on,
                removed_on=unit.removed_on,
                finding=unit.finding,
                incident_id=unit.incident_id,
            )
            for unit in units
        ],
        units_in_all=one.chart.units,
        came_with=[schemas.CameWith.model_validate(row) for row in came],
    )


@endpoint(blueprint, "/alarms/would", access=Role.READER, replies=schemas.WouldChangeView, kept="dear")
def alarm_would(query: schemas.ChartQuery) -> schemas.WouldChangeView:
    """What accepting an alarm would change in orders."""
    found = would_change(session(), query.chart)
    return schemas.WouldChangeView(parts=[schemas.WouldChange.model_validate(one) for one in found])


@endpoint(blueprint, "/alarms/decisions", method="POST", access=Role.LEAD, replies=schemas.DecidedOut, status=201)
def decide_about_alarm(json: schemas.DecideIn) -> schemas.DecidedOut:
    """Accept an alarm, or put it aside with a reason."""
    request = service.DecisionRequest(json.chart, json.verdict, json.reason, json.failed)
    return schemas.DecidedOut(id=service.decide(session(), request, clock=read_clock(session()), author_id=author_id()))


@endpoint(blueprint, "/alarms/decisions/<int:decision_id>/withdraw", method="POST", access=Role.LEAD, replies=Done)
def withdraw_decision(decision_id: int) -> Done:
    """Take a decision about an alarm back."""
    service.withdraw(session(), decision_id, clock=read_clock(session()), author_id=author_id())
    return Done()


def _deciders(charts: Sequence[ChartFollowed]) -> dict[int, str]:
    """Who decided about charts, by number."""
    return names(session(), [one.decision.author_id for one in charts if one.decision is not None])


def _line(watch: CompanyWatch, one: ChartFollowed, by: dict[int, str]) -> schemas.ChartLine:
    last = one.alarm or (one.watched.alarms[-1] if one.watched.alarms else None)
    return schemas.ChartLine(
        chart=name_of(watch.inputs, one.kind, one.key),
        kind=one.kind,
        scope=ChartScope(one.key.scope),
        title=title_of(watch.inputs, one.kind, one.key),
        part=watch.inputs.numbers.get(one.key.part or 0),
        units=one.chart.units,
        failed=one.failed,
        expected=one.expected,
        alarm=_alarm(one.months, last) if last else None,
        decision=_decision(one.decision, by) if one.decision else None,
    )


def _decided_at(one: ChartFollowed) -> str:
    return one.decision.decided_at.isoformat() if one.decision else ""


def _alarm(months: tuple[date, ...], alarm: Alarm) -> schemas.AlarmView:
    return schemas.AlarmView(spoke_in=months[alarm.period], since=months[alarm.since], observed=alarm.observed, expected=alarm.expected)


def _decision(row: AlarmDecision, by: dict[int, str]) -> schemas.DecisionTaken:
    return schemas.DecisionTaken(
        id=row.id,
        verdict=Verdict(row.verdict),
        reason=row.reason,
        by=by.get(row.author_id or 0),
        on=row.decided_at,
        since=row.since,
        observed=row.observed,
        expected=row.expected,
    )


def _lot(watch: CompanyWatch, one: ChartFollowed) -> schemas.LotLine:
    made = made_on(one.key)
    assert made is not None
    assert one.tail is not None
    return schemas.LotLine(
        chart=name_of(watch.inputs, one.kind, one.key),
        kind=one.kind,
        title=title_of(watch.inputs, one.kind, one.key),
        part=watch.inputs.numbers[one.key.part or 0],
        made_on=made,
        units=one.chart.units,
        failed=one.failed,
        expected=one.expected,
        chance=one.tail,
        stands_out=one.stands_out,
    )
