"""Failures found at a check: written down, corrected, imported, and counted between two days."""

from __future__ import annotations

from datetime import date, timedelta

import numpy as np
import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.services.clock import Clock
from almanac.services.errors import Refused
from almanac.services.ledger.correct import CorrectionRequest, correct_incident
from almanac.services.ledger.read import read_history
from almanac.services.ledger.record import record_incident
from almanac.services.outlook.inputs import read_inputs
from almanac.services.outlook.life import PartLog
from almanac.services.rates.data_check import data_check
from almanac.services.rates.kind import KindRates, read_kind
from almanac.services.rates.pool import read_pool
from tests.services.helpers import PROVEN, TODAY, bench, incident, watch_days
from tests.services.looks import builder_of
from tests.services.test_importing import COMPANY, send

BEFORE = timedelta(days=240)


def failures(session: Session, kind: str, most: int = 400) -> list[tuple[int, date]]:
    """Confirmed failures of a kind, the latest first, of parts that had been in for long."""
    rows = session.execute(
        text("""SELECT DISTINCT r.incident_id, r.occurred_on FROM event_revision r JOIN incident i ON i.id = r.incident_id
                JOIN event_line l ON l.revision_id = r.id JOIN tenure t ON t.id = l.removed_tenure_id JOIN part p ON p.id = t.part_id
                WHERE i.latest_number = r.number AND l.finding = 'confirmed' AND l.action <> 'kept' AND p.kind = :kind
                AND t.fitted_on < r.occurred_on - 400 ORDER BY 2 DESC, 1 LIMIT :most"""),
        {"kind": kind, "most": most},
    )
    return [(row.incident_id, row.occurred_on) for row in rows]


def found_at_a_check(session: Session, kind: str, clock: Clock, most: int = 400) -> int:
    """Correct confirmed failures of a kind: a check found them, and they were in order 240 days before; returns how many."""
    every = failures(session, kind, most)
    for number, day in every:
        last = read_history(session, number)[-1]
        change = CorrectionRequest(last.number, day, last.reason, last.finding, last.minutes, last.note, day - BEFORE, PROVEN)
        correct_incident(session, number, change, clock=clock, author_id=2)
    session.flush()
    return len(every)


def logs(session: Session) -> dict[int, PartLog]:
    """What the log says of each part's lives."""
    return {part: life.log.content for part, life in read_inputs(session).life.items()}


def finds(session: Session) -> list[tuple[int, int, int, int, int]]:
    """Part, last age seen in order, age found at, confirmed and open of every find."""
    return [
        (part, *row)
        for part, log in logs(session).items()
        for row in zip(*(getattr(log.found, name).tolist() for name in ("seen_good", "day", "confirmed", "open")), strict=True)
    ]


def exposure(rates: KindRates) -> float:
    return sum(pool.exposure_years for pool in rates.pools)


def test_a_find_is_recorded_and_counted_between_two_days(session: Session, clock: Clock) -> None:
    watch_days(session, 0)
    where, before, none = bench(session), logs(session), finds(session)
    keys = {part: life.log.key for part, life in read_inputs(session).life.items()}
    number = record_incident(
        session, incident(where, finding="confirmed", last_good_on=TODAY - timedelta(days=200)), clock=clock, author_id=2
    )
    assert read_history(session, number)[-1].last_good_on == TODAY - timedelta(days=200)
    ((part, seen_good, day, confirmed, still_open),) = finds(session)
    assert (day - seen_good, confirmed, still_open) == (200, 1, 0)
    assert sum(log.at_risk.confirmed.sum() for log in logs(session).values()) == sum(log.at_risk.confirmed.sum() for log in before.values())
    assert {other for other, life in read_inputs(session).life.items() if life.log.key != keys[other]} == {part}
    assert none == []


def test_a_day_that_is_not_before_the_find_is_refused(session: Session, clock: Clock) -> None:
    with pytest.raises(Refused, match="name an earlier day"):
        record_incident(session, incident(bench(session), last_good_on=TODAY), clock=clock, author_id=2)


def test_a_correction_takes_it_back(session: Session, clock: Clock) -> None:
    (number, day), *_ = failures(session, "battery", 1)
    last = read_history(session, number)[-1]
    for step, good in enumerate((day - BEFORE, None)):
        change = CorrectionRequest(last.number + step, day, last.reason, last.finding, last.minutes, last.note, good, PROVEN)
        correct_incident(session, number, change, clock=clock, author_id=2)
        assert len(finds(session)) == (good is not None)
    assert [entry.last_good_on for entry in read_history(session, number)][-2:] == [day - BEFORE, None]


def test_what_was_seen_before_the_log_began_counts_from_there(session: Session, clock: Clock) -> None:
    (number, day), *_ = failures(session, "battery", 1)
    last = read_history(session, number)[-1]
    change = CorrectionRequest(last.number, day, last.reason, last.finding, last.minutes, last.note, date(2010, 1, 1), PROVEN)
    correct_incident(session, number, change, clock=clock, author_id=2)
    ((_, seen_good, day_found, _, _),) = finds(session)
    assert 14 <= seen_good < day_found


def test_the_rates_of_a_kind_know_its_finds(session: Session, clock: Clock) -> None:
    plain = read_kind(session, "battery")
    count = found_at_a_check(session, "battery", clock)
    rates = read_kind(session, "battery")
    assert plain.found == 0
    assert rates.found == count > 50
    assert rates.failures == pytest.approx(plain.failures)
    assert rates.open_findings == plain.open_findings
    # Each find leaves in the middle of its stretch, 120 days before the day it was found.
    assert exposure(plain) - exposure(rates) == pytest.approx(count * 120 / 365.25, rel=0.02)
    # They failed earlier than they were found, so parts last less long than the days of the checks would say.
    assert np.interp(3.0, rates.curve_age, rates.curve) < np.interp(3.0, plain.curve_age, plain.curve)
    survival = [step.survival for step in rates.steps]
    assert survival == sorted(survival, reverse=True)
    middle = next(step for step in rates.steps if step.survival < 0.6)
    assert np.interp(middle.age, rates.curve_age, rates.curve) == pytest.approx(middle.survival, abs=0.1)


def test_a_constant_rate_counts_half_the_stretch(session: Session, clock: Clock) -> None:
    def years() -> float:
        return float(builder_of(session).book("memory").evidence.record.exposure_years)

    plain = years()
    count = found_at_a_check(session, "memory", clock)
    assert count > 5
    assert plain - years() == pytest.approx(count * 120 / 365.25, rel=0.05)


def test_the_lives_of_a_pool_show_the_stretch(session: Session, clock: Clock) -> None:
    found_at_a_check(session, "battery", clock)
    pool = max(read_kind(session, "battery").pools, key=lambda pool: pool.failures)
    lives = read_pool(session, pool.name)
    finds = [row for row in lives.rows if row.seen_good is not None]
    assert finds
    assert all(row.from_age <= (row.seen_good or 0) < row.exit_age for row in finds)
    assert lives.exposure_years == pytest.approx(pool.exposure_years, rel=1e-6)


def test_the_data_check_lists_them(session: Session, clock: Clock) -> None:
    count = found_at_a_check(session, "fan", clock, 7)
    (found,) = [found for found in data_check(session) if found.check.key == "found"]
    assert found.count == count == 7
    assert not found.check.left_out


def test_an_import_names_the_day_and_refuses_a_wrong_one(empty_session: Session, clock: Clock) -> None:
    header, row = COMPANY["incidents.csv"].strip().split("\n")
    files = {"incidents": f"{header},last_good_on\n{row},2026-03-01\n"}
    wrong = send(empty_session, clock, files)
    assert [(fault.file, fault.line, fault.column) for fault in wrong.faults] == [("incidents.csv", 2, "last_good_on")]
    assert not wrong.written
    files = {"incidents": f"{header},last_good_on\n{row},2026-01-15\n"}
    assert send(empty_session, clock, files).written
    ((_, seen_good, day, _, _),) = finds(empty_session)
    assert day - seen_good == 45
