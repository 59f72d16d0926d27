"""What changed since a month ago: the parts of the difference add up, and each moves for its own reason."""

from __future__ import annotations

from datetime import date

import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.services.outlook.since import Change, changes_of, month_before
from tests.services.looks import builder_of


def looked_at(session: Session, kind: str, site: str | None = None) -> dict[str, Change]:
    builder = builder_of(session, site)
    since, found = changes_of(session, builder, kind)
    assert since == date(2026, 10, 1)
    number = {part.id: part.number for part in builder.inputs.parts}
    return {number[change.part_id]: change for change in found}


def test_the_day_a_month_ago() -> None:
    assert month_before(date(2026, 11, 1)) == date(2026, 10, 1)
    assert month_before(date(2026, 3, 31)) == date(2026, 2, 28)
    assert month_before(date(2027, 1, 15)) == date(2026, 12, 15)


@pytest.mark.parametrize("site", [None, "TER"])
def test_the_parts_of_the_difference_add_up(session: Session, site: str | None) -> None:
    for change in looked_at(session, "battery", site).values():
        assert change.before + change.ageing + change.fleet + change.log + change.settings == pytest.approx(change.now, rel=1e-9, abs=1e-12)
        assert change.settings == 0.0


def test_at_one_rate_time_alone_changes_next_to_nothing(session: Session) -> None:
    young = looked_at(session, "battery")["OB-P14-60"]
    assert young.ageing > 1.0
    session.execute(
        text("""INSERT INTO setting (scope, scope_key, key, number, value, from_on, recorded_at)
                VALUES ('kind', 'battery', 'school', 1, '"constant"', '2026-01-01', now())""")
    )
    level = looked_at(session, "battery")["OB-P14-60"]
    assert abs(level.ageing) < abs(young.ageing) / 3
    assert level.settings == 0.0


def test_a_school_set_since_is_the_settings_share(session: Session) -> None:
    before = looked_at(session, "battery")["OB-P14-60"]
    session.execute(
        text("""INSERT INTO setting (scope, scope_key, key, number, value, from_on, recorded_at)
                VALUES ('kind', 'battery', 'school', 1, '"constant"', '2026-10-20', now())""")
    )
    after = looked_at(session, "battery")["OB-P14-60"]
    assert (after.before, after.ageing, after.fleet) == pytest.approx((before.before, before.ageing, before.fleet))
    assert after.now < before.now - 20
    assert after.settings == pytest.approx(after.now - before.now, abs=0.1)


def test_a_failure_recorded_since_is_the_logs_share(session: Session) -> None:
    before = looked_at(session, "fan")["QF-BL-R"]
    assert abs(before.log) < 2.0
    assert before.before > 0
