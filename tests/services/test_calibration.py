"""The backtest over the demo's own log: what was recorded by then, and what was drawn after."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, date, datetime

import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.services.answers.cache import FRONT
from almanac.services.calibration.backtest import Backtest, backtest, forecast_at, quarters
from almanac.services.calibration.summary import marks_of, quarters_of
from almanac.services.clock import Clock
from almanac.services.company_settings import SettingRequest, change_setting
from almanac.services.outlook.inputs import read_inputs
from almanac.services.outlook.past import inputs_at

ORIGIN = date(2025, 7, 1)


def test_quarters_need_a_year_of_log_and_an_end() -> None:
    found = quarters(date(2022, 8, 15), date(2026, 11, 1))
    assert len(found) == 12
    assert found[-1] == (date(2026, 7, 1), date(2026, 10, 1))
    assert quarters(date(2025, 8, 15), date(2026, 11, 1)) == []
    assert quarters(date(2025, 6, 30), date(2026, 10, 1)) == [(date(2026, 7, 1), date(2026, 10, 1))]


def test_the_past_is_seen_as_it_was_recorded(session: Session) -> None:
    inputs = read_inputs(session)
    then = inputs_at(session, inputs, ORIGIN, settings=inputs.settings, purchases=False)
    moment = datetime(2025, 7, 1, tzinfo=UTC)
    units = session.scalar(
        text("""SELECT count(*) FROM tenure t JOIN part p ON p.id = t.part_id JOIN asset a ON a.id = t.asset_id
                WHERE p.kind = 'battery' AND t.recorded_at <= :m AND t.observed_from <= :d AND a.in_service_on <= :d
                AND (a.retired_on IS NULL OR a.retired_on > :d)
                AND (t.removed_on IS NULL OR t.removed_on > :d OR t.removal_recorded_at > :m)"""),
        {"m": moment, "d": ORIGIN},
    )
    kinds = {part.id: part.kind for part in then.parts}
    packs = [life.fleet.content for part, life in then.life.items() if kinds.get(then.group[part]) == "battery"]
    assert sum(own.serving.units.sum() for own in packs) == units
    assert sum(own.served.units.sum() for own in packs) == units
    assert max(life.oldest_days for life in then.life.values()) < max(life.oldest_days for life in inputs.life.values())


def revise(session: Session, incident: int) -> None:
    """A correction of today: it was damage after all."""
    revision = session.scalar(
        text("""INSERT INTO event_revision (incident_id, number, occurred_on, recorded_at, author_id, reason, finding, minutes, note)
                SELECT incident_id, number + 1, occurred_on, now(), author_id, 'looked at again', 'damage', minutes, note
                FROM event_revision WHERE incident_id = :i ORDER BY number DESC LIMIT 1 RETURNING id"""),
        {"i": incident},
    )
    session.execute(
        text("""INSERT INTO event_line (revision_id, number, position_id, action, finding, removed_tenure_id, fitted_part_id)
                SELECT :r, l.number, l.position_id, l.action, 'damage', l.removed_tenure_id, l.fitted_part_id
                FROM event_line l JOIN event_revision v ON v.id = l.revision_id JOIN incident i ON i.id = v.incident_id
                WHERE v.incident_id = :i AND v.number = i.latest_number"""),
        {"i": incident, "r": revision},
    )
    session.execute(text("UPDATE incident SET latest_number = latest_number + 1 WHERE id = :i"), {"i": incident})


def test_a_finding_settled_later_does_not_change_what_was_said(session: Session) -> None:
    inputs = read_inputs(session)
    before = forecast_at(session, inputs, ORIGIN, 92)
    settled = session.scalars(
        text("""SELECT i.id FROM incident i JOIN event_revision r ON r.incident_id = i.id AND r.number = i.latest_number
                JOIN event_line l ON l.revision_id = r.id JOIN tenure t ON t.id = l.removed_tenure_id JOIN part p ON p.id = t.part_id
                WHERE p.kind = 'battery' AND l.finding = 'confirmed' AND r.occurred_on BETWEEN '2025-01-01' AND '2025-06-01' LIMIT 20""")
    ).all()
    for incident in settled:
        revise(session, incident)
    after = forecast_at(session, inputs, ORIGIN, 92)
    assert {part: said.pmf.tolist() for part, said in before.items()} == {part: said.pmf.tolist() for part, said in after.items()}


def some(session: Session) -> Backtest:
    """The latest quarters; what has been worked out is kept for the tests that follow."""
    return backtest(session, most=2)


def test_every_forecast_is_held_against_its_quarter(session: Session) -> None:
    found = some(session)
    assert found.quarters == 2
    number = {part.id: part.number for part in found.inputs.parts}
    held = next(one for one in found.held if number[one.part_id] == "OB-P14-60" and one.origin == date(2026, 7, 1))
    seen = session.scalar(
        text("""SELECT count(*) FROM event_line l JOIN incident i ON true JOIN event_revision r
                ON r.id = l.revision_id AND r.incident_id = i.id AND r.number = i.latest_number
                JOIN tenure t ON t.id = l.removed_tenure_id JOIN part p ON p.id = t.part_id JOIN asset a ON a.id = t.asset_id
                WHERE p.number = 'OB-P14-60' AND l.action <> 'kept' AND l.finding NOT IN ('upgrade', 'preventive')
                AND r.occurred_on >= '2026-07-01' AND r.occurred_on < '2026-10-01' AND a.in_service_on < '2026-07-01'""")
    )
    assert held.scored.seen == seen
    assert 0.3 * held.scored.mean < seen < 3 * held.scored.mean
    marks = {marks.name: marks for marks in marks_of(found)}
    assert marks["all"].forecasts == sum(marks[kind].forecasts for kind in ("memory", "ssd", "battery", "fan"))
    assert marks["all"].seen == sum(quarter.seen for quarter in quarters_of(found))
    assert sum(marks["all"].histogram) == pytest.approx(1.0)


def test_the_forecasts_beat_the_simple_rivals(session: Session) -> None:
    all_kinds = marks_of(some(session))[0]
    assert all_kinds.crps < min(all_kinds.last_year, all_kinds.fixed_share)
    assert 0.75 <= all_kinds.covered_most <= 1.0


def test_a_threshold_that_is_set_is_answered_with_at_once(session: Session, clock: Clock) -> None:
    def expected() -> float:
        found = backtest(session, most=2)
        return next(marks.expected for marks in marks_of(found) if marks.name == "battery")

    before = expected()
    change = SettingRequest("company", "", "worn_share", 0.9, 0)
    change_setting(session, change, clock=replace(clock, today=date(2026, 11, 1)), author_id=1)
    after = expected()
    FRONT.clear()
    assert after == expected()
    assert after > before + 1
