"""Odd rows of the record are found, counted and explained."""

from __future__ import annotations

from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.services.rates.data_check import CHECKS, Found, data_check
from almanac.services.rates.kind import read_kind


def found(session: Session) -> dict[str, Found]:
    return {one.check.key: one for one in data_check(session)}


def one_tenure(session: Session) -> int:
    return (
        session.scalar(
            text("""SELECT t.id FROM tenure t JOIN part p ON p.id = t.part_id JOIN asset a ON a.id = t.asset_id
                    WHERE p.kind = 'fan' AND t.removed_on IS NULL AND a.retired_on IS NULL AND t.fitted_on = t.observed_from
                    AND t.fitted_on < '2025-01-01' ORDER BY t.id LIMIT 1""")
        )
        or 0
    )


def test_the_demo_has_open_findings_and_lives_without_exposure(session: Session) -> None:
    all_of_them = found(session)
    assert list(all_of_them) == [check.key for check in CHECKS]
    assert all_of_them["future"].count == all_of_them["nowhere"].count == all_of_them["before_log"].count == 0
    assert all_of_them["no_exposure"].count > 0
    assert len(all_of_them["no_exposure"].rows) <= 50
    late = session.scalar(
        text("""SELECT count(*) FROM event_line l JOIN event_revision r ON r.id = l.revision_id
                JOIN incident i ON i.id = r.incident_id AND i.latest_number = r.number
                JOIN tenure t ON t.id = l.removed_tenure_id JOIN part p ON p.id = t.part_id
                WHERE l.finding = 'open' AND l.action <> 'kept' AND r.occurred_on < date '2026-11-01' - 180
                AND p.kind IN ('memory', 'ssd', 'battery', 'fan')""")
    )
    assert all_of_them["still_open"].count == late


def test_a_life_that_begins_tomorrow_is_named_and_not_counted(session: Session) -> None:
    tenure, before = one_tenure(session), read_kind(session, "fan")
    session.execute(text("UPDATE tenure SET fitted_on = '2027-01-01', observed_from = '2027-01-01' WHERE id = :t"), {"t": tenure})
    after = found(session)["future"]
    assert after.count == 1
    assert after.rows[0].incident_id is None
    assert read_kind(session, "fan").exposure_years < before.exposure_years


def test_a_part_left_in_a_retired_machine_is_named(session: Session) -> None:
    tenure, before = one_tenure(session), found(session)["gone_machine"].count
    session.execute(
        text("UPDATE asset SET retired_on = '2026-06-01' WHERE id = (SELECT asset_id FROM tenure WHERE id = :t)"), {"t": tenure}
    )
    assert found(session)["gone_machine"].count > before


def test_a_part_that_came_out_unexplained_is_named(session: Session) -> None:
    tenure, before = one_tenure(session), found(session)["unexplained"].count
    session.execute(text("UPDATE tenure SET removed_on = '2026-06-01', removal_recorded_at = now() WHERE id = :t"), {"t": tenure})
    now = found(session)["unexplained"]
    assert now.count == before + 1


def test_an_entry_before_the_log_began_is_named(session: Session) -> None:
    session.execute(text("UPDATE site SET log_began_on = '2024-01-01'"))
    now = found(session)["before_log"]
    assert now.count > 10
    assert all(row.day.year < 2024 and row.incident_id for row in now.rows)


def test_a_machine_that_stood_nowhere_is_named(session: Session) -> None:
    tenure = one_tenure(session)
    session.execute(text("DELETE FROM asset_stay WHERE asset_id = (SELECT asset_id FROM tenure WHERE id = :t)"), {"t": tenure})
    assert found(session)["nowhere"].count >= 1
