"""The steps from nothing to the first order: told by what is on record, never by silence."""

from __future__ import annotations

import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.services.clock import Clock, read_clock
from almanac.services.first_day import Stand, first_day


def test_an_empty_company_has_told_nothing(empty_session: Session) -> None:
    steps = first_day(empty_session, read_clock(empty_session))
    assert [step.name for step in steps] == ["machines", "parts", "holds", "log", "sites", "rules", "order"]
    assert {step.said for step in steps if step.name != "rules"} == {"nothing yet"}
    assert {step.stand for step in steps if step.name != "rules"} == {Stand.OPEN}
    assert all(not step.lacks for step in steps if step.name != "rules")


def step_of(session: Session, clock: Clock, name: str) -> tuple[Stand, str]:
    step = next(step for step in first_day(session, clock) if step.name == name)
    return step.stand, step.lacks


@pytest.mark.parametrize(
    ("name", "statement", "lacks"),
    [
        ("machines", "DELETE FROM position WHERE false", ""),
        ("holds", "UPDATE tenure SET removed_on = '2026-10-31', removal_recorded_at = now() WHERE removed_on IS NULL AND asset_id = (SELECT min(asset_id) FROM tenure t WHERE t.removed_on IS NULL)", "nothing is known to be in"),
        ("parts", "DELETE FROM fits WHERE part_id = (SELECT min(id) FROM part WHERE kind = 'fan')", "of 1 part nobody said which models they fit"),
        ("log", "UPDATE site SET log_began_on = '2026-10-01' WHERE code = 'GUL'", "at 1 site the log began within a year"),
        ("sites", "DELETE FROM lane WHERE to_site_id = (SELECT id FROM site WHERE code = 'GUL')", "1 site without a lane from the depot"),
    ],
)  # fmt: skip
def test_what_a_step_lacks_is_told(session: Session, clock: Clock, name: str, statement: str, lacks: str) -> None:
    before = step_of(session, clock, name)
    session.execute(text(statement))
    stand, now = step_of(session, clock, name)
    assert lacks in now
    assert stand is (Stand.PARTLY if now else Stand.DONE)
    if lacks:
        assert now != before[1]
