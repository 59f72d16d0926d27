"""Repeat offenders, no-fault shares, and the log as files."""

from __future__ import annotations

import csv
import io
import json
import math
from datetime import timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.stats import beta
from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.core.errors import ContractError
from almanac.core.life.patterns import share_of, sooner_probability
from almanac.exchange.tables import read_xlsx
from almanac.services.clock import Clock
from almanac.services.ledger.export import COLUMNS, log_csv, log_json, log_xlsx
from almanac.services.ledger.patterns import no_fault_shares, repeat_offenders
from almanac.services.ledger.record import record_incident
from almanac.store.incidents import LogFilter
from tests.services.helpers import TODAY, bench, incident


@given(st.floats(0.001, 2), st.floats(0, 3000))
def test_sooner_is_a_probability_that_grows_with_age(rate: float, age: float) -> None:
    assert 0 <= sooner_probability(rate, age) < 1
    assert sooner_probability(rate, age) <= sooner_probability(rate, age + 1)
    assert sooner_probability(rate, 365.25) == pytest.approx(1 - math.exp(-rate))


def test_a_share_has_jeffreys_limits() -> None:
    one = share_of(3, 20)
    assert [one.low, one.high] == pytest.approx(beta.ppf([0.05, 0.95], 3.5, 17.5).tolist())
    assert share_of(0, 5).low == 0
    assert share_of(5, 5).high == 1
    assert share_of(0, 0).share == 0.5
    with pytest.raises(ContractError):
        share_of(4, 3)


def test_no_fault_shares_add_up_to_the_log(session: Session) -> None:
    shares = no_fault_shares(session)
    total = session.scalar(
        text("""SELECT count(*) FROM event_line l JOIN event_revision r ON r.id = l.revision_id
                JOIN incident i ON i.id = r.incident_id AND i.latest_number = r.number
                WHERE l.removed_part_id IS NOT NULL AND l.finding NOT IN ('upgrade', 'preventive') AND (l.action <> 'kept' OR l.finding = 'no_fault_found')""")
    )
    assert sum(item.complaints for item in shares) == total
    assert all(0 <= item.no_fault.low <= item.no_fault.share <= item.no_fault.high <= 1 for item in shares)
    assert [item.no_fault.low for item in shares] == sorted((item.no_fault.low for item in shares), reverse=True)


def test_a_part_that_fails_again_at_once_is_a_repeat_offender(session: Session, clock: Clock) -> None:
    where = bench(session, "fan")
    session.execute(
        text("""INSERT INTO stock_move (shelf_id, bucket, quantity, cause, moved_on, recorded_at)
                SELECT h.id, 'on_hand', 2, 'counted', '2026-10-01', now() FROM shelf h JOIN part p ON p.id = h.part_id JOIN site s ON s.id = h.site_id
                WHERE p.number = :part AND s.code = :site"""),
        {"part": where.part, "site": where.site},
    )
    first = record_incident(session, incident(where, occurred_on=TODAY - timedelta(days=30)), clock=clock, author_id=2)
    second = record_incident(session, incident(where), clock=clock, author_id=2)
    found = [item for item in repeat_offenders(session) if item.again.tag == where.tag]
    assert [(item.again.before_id, item.again.incident_id, item.again.lasted_days) for item in found] == [(first, second, 30)]
    assert found[0].rate is not None
    assert found[0].probability == pytest.approx(1 - math.exp(-found[0].rate * 30 / 365.25))


def test_the_log_goes_out_as_csv_json_and_xlsx_alike(session: Session) -> None:
    wanted = LogFilter(kind="memory")
    table = list(csv.DictReader(io.StringIO(b"".join(log_csv(session, wanted)).decode("utf-8-sig"))))
    rows = json.loads(b"".join(log_json(session, wanted)))
    book = read_xlsx(log_xlsx(session, wanted))
    assert tuple(table[0]) == COLUMNS
    assert len(table) == len(rows) == len(book) > 50
    assert [row["incident"] for row in table] == [str(row["incident"]) for row in rows] == [row.cells["incident"] for row in book]
    assert json.loads(b"".join(log_json(session, LogFilter(words="no such words")))) == []
