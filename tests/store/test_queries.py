"""Aggregates in SQL against the same rows counted one by one; what was known on a past day; pages by key."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, date, datetime, time, timedelta

import numpy as np
import pytest
from sqlalchemy import Connection, event, text
from sqlalchemy.orm import Session

from almanac.core.answers.encode import key_of
from almanac.core.life.life_data import FINDINGS, NOT_KNOWN, LifeData, life_data
from almanac.core.life.outcomes import DEAD_ON_ARRIVAL_DAYS, Bucket, Finding
from almanac.core.life.tenures import age_counts, wear_out_window
from almanac.services.clock import Clock
from almanac.store import assets, catalog, evidence, incidents, settings, shelves
from almanac.store.incidents import LogFilter, PageKey
from almanac.store.life_data import read_lives

AS_OF = date(2026, 11, 1)


@contextmanager
def statements(connection: Connection) -> Iterator[list[str]]:
    """The statements a block sends."""
    seen: list[str] = []

    def note(_c: object, _cursor: object, statement: str, *_: object) -> None:
        if not statement.startswith(("SAVEPOINT", "RELEASE", "ROLLBACK")):
            seen.append(statement)

    event.listen(connection, "before_cursor_execute", note)
    yield seen
    event.remove(connection, "before_cursor_execute", note)


def test_exposure_and_failures_are_those_of_the_core(session: Session) -> None:
    """The aggregate by pool in SQL and the core's count by whole day of age agree on every part."""
    rows = session.execute(
        text("""
        SELECT t.part_id, t.age_at_fitting_days + (t.observed_from - t.fitted_on) AS entry,
               t.age_at_fitting_days + (COALESCE(t.removed_on, :as_of) - t.fitted_on) AS exit,
               COALESCE((SELECT l.finding FROM event_line l JOIN event_revision r ON r.id = l.revision_id
                         JOIN incident i ON i.id = r.incident_id AND i.latest_number = r.number
                         WHERE l.removed_tenure_id = t.id AND l.action <> 'kept'), '') AS finding
        FROM tenure t
        """),
        {"as_of": AS_OF},
    ).all()
    by_part = defaultdict(list)
    for row in rows:
        by_part[row.part_id].append(row)
    found = summed_up(session)
    assert set(found) == set(by_part)
    for part, tenures in by_part.items():
        entry, stop = wear_out_window([t.entry for t in tenures], [t.exit for t in tenures], DEAD_ON_ARRIVAL_DAYS)
        ages = age_counts(entry, stop, [t.finding == "confirmed" for t in tenures])
        own = found[part].outcomes
        confirmed = (own.finding == FINDINGS.index(Finding.CONFIRMED)) & (own.exposed == 1)
        assert own.exposure_days.sum() == ages.exposure
        assert own.tenures[confirmed].sum() == ages.failures
        assert own.tenures[own.exposed == 0].sum() == ages.dropped
        assert own.tenures.sum() == len(tenures)
        at_risk = found[part].at_risk
        assert (at_risk.entered.sum(), at_risk.gone.sum()) == (ages.entered.sum(), ages.left.sum())
        assert ((at_risk.gone - at_risk.entered) * at_risk.day).sum() == ages.exposure


def summed_up(session: Session, *, as_of: date = AS_OF, known_at: datetime | None = None) -> dict[int, LifeData]:
    """Life data of every part."""
    lives = read_lives(session, set(session.scalars(text("SELECT DISTINCT part_id FROM tenure"))), as_of=as_of, known_at=known_at)
    return {int(part): life_data(lives.of(int(part))) for part in np.unique(lives.part)}


def test_a_past_day_knows_only_what_was_recorded_by_then(session: Session, clock: Clock) -> None:
    then = datetime.combine(date(2025, 1, 1), time(12), UTC)
    past, now = summed_up(session, as_of=then.date(), known_at=then), summed_up(session)
    assert key_of(summed_up(session, known_at=clock.now)) == key_of(now)

    def findings(found: dict[int, LifeData], finding: Finding) -> int:
        own = (data.outcomes for data in found.values())
        return int(sum(rows.tenures[rows.finding == FINDINGS.index(finding)].sum() for rows in own))

    assert 0 < findings(past, Finding.CONFIRMED) < findings(now, Finding.CONFIRMED)
    settled_later = session.scalar(
        text("""SELECT count(*) FROM event_revision a JOIN event_revision b ON b.incident_id = a.incident_id AND b.number = 2
                JOIN event_line l ON l.revision_id = a.id
                WHERE a.number = 1 AND a.recorded_at <= :then AND b.recorded_at > :then AND l.action = 'replaced'"""),
        {"then": then},
    )
    assert findings(past, Finding.OPEN) == settled_later > 0


def test_units_in_service_are_the_open_tenures(session: Session) -> None:
    serving = [data.serving for data in summed_up(session).values()]
    open_tenures = session.scalar(text("SELECT count(*) FROM tenure WHERE removed_on IS NULL"))
    assert sum(rows.units.sum() for rows in serving) == open_tenures
    assert all(((rows.retire_day == NOT_KNOWN) | (rows.retire_day > 0)).all() for rows in serving)
    machines = evidence.assets_in_service(session, range(1, 30), as_of=AS_OF)
    assert sum(machines.values()) == session.scalar(text("SELECT count(*) FROM asset WHERE retired_on IS NULL"))


def test_balances_are_sums_of_moves_and_never_negative(session: Session) -> None:
    found = shelves.balances(session)
    total = session.scalar(text("SELECT sum(quantity) FROM stock_move"))
    assert sum(sum(buckets.values()) for buckets in found.values()) == total
    assert min(min(buckets.values()) for buckets in found.values()) >= 0


def test_open_lines_are_what_is_still_to_come(session: Session) -> None:
    before = shelves.open_lines(session)
    assert before
    first = before[0]
    session.execute(
        text("INSERT INTO receipt (line_id, received_on, quantity, recorded_at) VALUES (:line, :day, 1, now())"),
        {"line": first.id, "day": AS_OF},
    )
    after = {line.id: line for line in shelves.open_lines(session)}
    assert first.id not in after if first.remaining == 1 else after[first.id].remaining == first.remaining - 1


def test_pages_of_the_log_are_whole_and_in_order(session: Session) -> None:
    wanted, after, seen = LogFilter(kind="fan"), None, []
    while True:
        page = incidents.log_page(session, wanted, after=after, limit=100)
        if not page:
            break
        seen += [(entry.finding != "open", -entry.occurred_on.toordinal(), -entry.incident_id) for entry in page]
        last = page[-1]
        after = PageKey(last.finding == "open", last.occurred_on, last.incident_id)
    assert seen == sorted(seen)
    assert len(seen) == len(set(seen)) == incidents.log_count(session, wanted) > 300


def test_a_page_takes_two_statements_however_long(session: Session, demo_connection: Connection) -> None:
    for limit in (5, 100):
        with statements(demo_connection) as sent:
            assert len(incidents.log_page(session, LogFilter(), after=None, limit=limit)) == limit
        assert len(sent) == 2


@pytest.mark.parametrize(
    ("wanted", "holds"),
    [
        (LogFilter(finding="damage"), lambda e: e.finding == "damage"),
        (LogFilter(site_code="TER"), lambda e: e.site_code == "TER"),
        (LogFilter(part_number="OF-P14"), lambda e: any("OF-P14" in (line.removed_part, line.fitted_part) for line in e.lines)),
        (LogFilter(since=date(2026, 1, 1), until=date(2026, 2, 1)), lambda e: date(2026, 1, 1) <= e.occurred_on <= date(2026, 2, 1)),
        (LogFilter(words="grinding"), lambda e: "grinding" in e.reason),
        (LogFilter(words="sk-00"), lambda e: e.tag.startswith("SK-00")),
    ],
)
def test_filters_let_through_what_they_say(session: Session, wanted: LogFilter, holds: object) -> None:
    page = incidents.log_page(session, wanted, after=None, limit=60)
    assert page
    assert all(holds(entry) for entry in page)  # type: ignore[operator]


def test_words_are_no_pattern(session: Session) -> None:
    assert incidents.log_count(session, LogFilter(words="%")) == incidents.log_count(session, LogFilter())
    assert catalog.find(session, "100%") == []


def test_find_puts_the_exact_number_first(session: Session) -> None:
    assert catalog.find(session, "ob-p14-60")[0][:2] == ("part", "OB-P14-60")
    assert catalog.find(session, "SK-0042")[0][:2] == ("asset", "SK-0042")
    assert any(kind == "model" for kind, *_ in catalog.find(session, "Halyard"))


def test_a_setting_of_the_narrowest_scope_holds_from_its_day(session: Session) -> None:
    session.execute(
        text("""INSERT INTO setting (scope, scope_key, key, number, value, from_on, recorded_at) VALUES
                ('kind', 'fan', 'target', 1, '0.9', '2026-01-01', now()), ('part', 'OF-P14', 'target', 1, '0.8', '2026-12-01', now())""")
    )
    found = settings.settings_on(session, AS_OF)
    assert found.value("target", kind="fan", part_number="OF-P14") == 0.9
    assert found.value("target", kind="ssd", part_number="LD-80512") == 0.95
    assert settings.settings_on(session, AS_OF + timedelta(days=40)).value("target", kind="fan", part_number="OF-P14") == 0.8
    assert found.value("nothing", default=7) == 7


def test_a_machine_by_its_tag_and_what_it_holds(session: Session) -> None:
    asset = assets.asset_by_tag(session, " sk-0042 ")
    assert asset is not None
    held = assets.open_tenures(session, asset.id)
    positions = {position.id for position in assets.positions_of_model(session, asset.model_id)}
    assert set(held) <= positions
    assert assets.asset_by_tag(session, "SK-9999") is None


def test_a_shelf_is_made_when_it_is_first_needed(session: Session) -> None:
    session.execute(text("DELETE FROM shelf WHERE id NOT IN (SELECT shelf_id FROM stock_move UNION SELECT shelf_id FROM backorder)"))
    part, site = session.execute(
        text(
            "SELECT p.id, s.id FROM part p CROSS JOIN site s LEFT JOIN shelf h ON h.part_id = p.id AND h.site_id = s.id WHERE h.id IS NULL LIMIT 1"
        )
    ).one()
    shelf = shelves.shelf_for_update(session, part, site)
    assert shelves.balance(session, shelf.id, Bucket.ON_HAND) == 0
    assert shelves.shelf_for_update(session, part, site).id == shelf.id
