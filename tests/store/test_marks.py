"""The mark of lives moves with every write that bears on them, with nothing else, and back with what is rolled back."""

from __future__ import annotations

import pytest
from sqlalchemy import Engine, text
from sqlalchemy.orm import Session

from almanac.services.outlook.inputs import read_inputs
from almanac.store.marks import lives_mark

WRITES = {
    "site": "UPDATE site SET environment = 'office' WHERE code = 'TER'",
    "asset": "UPDATE asset SET retire_planned_on = '2027-05-01' WHERE id = (SELECT min(id) FROM asset WHERE retired_on IS NULL)",
    "asset_stay": "UPDATE asset_stay SET from_on = from_on WHERE id = (SELECT min(id) FROM asset_stay)",
    "tenure": "UPDATE tenure SET age_at_fitting_days = 3 WHERE id = (SELECT max(id) FROM tenure)",
    "incident": "UPDATE incident SET latest_number = latest_number WHERE id = (SELECT min(id) FROM incident)",
    "event_line": "INSERT INTO event_line SELECT * FROM event_line WHERE false",
    "event_revision": "INSERT INTO event_revision SELECT * FROM event_revision WHERE false",
    "reading": "INSERT INTO reading (tenure_id, read_on, \"full\", design, recorded_at) SELECT max(id), '2026-10-01', 40, 60, now() FROM tenure",
}
OTHERS = [
    "UPDATE part SET price = price + 1",
    "UPDATE setting SET from_on = from_on WHERE false",
    "INSERT INTO stock_move (shelf_id, bucket, quantity, cause, moved_on, recorded_at) SELECT min(id), 'on_hand', 1, 'counted', '2026-10-31', now() FROM shelf",
    "UPDATE fleet_plan SET quantity = quantity + 1",
]


@pytest.mark.parametrize("table", WRITES)
def test_every_table_that_lives_are_read_from_moves_it(session: Session, table: str) -> None:
    before = lives_mark(session)
    session.execute(text(WRITES[table]))
    once = lives_mark(session)
    assert once > before
    session.execute(text(WRITES[table].replace("'office'", "'salt'").replace("2026-10-01", "2026-10-02")))
    assert lives_mark(session) > once  # the second write of one transaction too


@pytest.mark.parametrize("statement", OTHERS)
def test_what_has_no_bearing_on_lives_leaves_it(session: Session, statement: str) -> None:
    before = lives_mark(session)
    session.execute(text(statement))
    assert lives_mark(session) == before


def test_what_is_rolled_back_moves_it_back_and_no_place_comes_twice(session: Session) -> None:
    before = lives_mark(session)
    seen = []
    for _ in range(3):
        with session.begin_nested() as inner:
            session.execute(text(WRITES["tenure"]))
            seen.append(lives_mark(session))
            inner.rollback()
        assert lives_mark(session) == before
    assert len({before, *seen}) == 4


def test_others_see_it_move_when_the_writing_is_done(demo_engine: Engine) -> None:
    with Session(demo_engine) as writer, Session(demo_engine) as reader:
        before = lives_mark(reader)
        writer.execute(text(WRITES["asset_stay"]))
        assert lives_mark(writer) != before
        assert lives_mark(reader) == before
        writer.rollback()
        assert lives_mark(reader) == before


def test_databases_of_one_process_are_told_apart(session: Session, empty_session: Session) -> None:
    assert lives_mark(session)[0] != lives_mark(empty_session)[0]


def test_lives_are_read_again_only_after_it_moved(session: Session) -> None:
    first = read_inputs(session)
    session.execute(text(OTHERS[0]))
    assert read_inputs(session).lived is first.lived
    session.execute(text(WRITES["tenure"]))
    again = read_inputs(session).lived
    assert again is not first.lived
    assert again.service == first.lived.service
    assert read_inputs(session, site_code="TER").lived is again


def test_the_class_of_a_site_is_read_again(session: Session) -> None:
    before = {(row.site_id, row.environment) for row in read_inputs(session).service}
    session.execute(text("UPDATE site SET environment = 'salt' WHERE code = 'TER'"))
    after = {(row.site_id, row.environment) for row in read_inputs(session).service}
    (moved,) = after - before
    assert moved[1] == "salt"
    assert len(after) == len(before)
