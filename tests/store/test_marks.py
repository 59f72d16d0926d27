"""Marks move with every write that bears on what is read, with nothing else, and back with what is rolled back."""

from __future__ import annotations

import pytest
from sqlalchemy import Engine, text
from sqlalchemy.orm import Session

from almanac.store.marks import gather_marks, life_marks, table_marks, wrote
from almanac.store.models import Base
from almanac.store.observed import tables_in, tables_read

NOT_DATA = {
    "access_token", "answer", "audit_entry", "list_work", "password_link", "provider_attempt", "reply", "request_key", "sign_in_attempt", "user_site", "web_session",
    "work_progress", "written",
}  # fmt: skip
"""Tables that no answer is read from."""
WRITES = {
    "asset": "UPDATE asset SET retire_planned_on = '2027-05-01' WHERE id = {asset}",
    "asset_stay": "UPDATE asset_stay SET from_on = from_on WHERE asset_id = {asset}",
    "tenure": "UPDATE tenure SET age_at_fitting_days = 3 WHERE id = {tenure}",
    "unit": "UPDATE unit SET made_on = COALESCE(made_on, '2020-01-01') + 1 WHERE id = (SELECT unit_id FROM tenure WHERE id = {tenure})",
    "incident": "UPDATE incident SET latest_number = latest_number WHERE id = {incident}",
    "reading": "INSERT INTO reading (tenure_id, read_on, \"full\", design, recorded_at) VALUES ({tenure}, '2026-10-01', 40, 60, now())",
}
OTHERS = [
    "UPDATE part SET price = price + 1",
    "UPDATE setting SET from_on = from_on WHERE false",
    "INSERT INTO stock_move (shelf_id, bucket, quantity, cause, moved_on, recorded_at) SELECT min(id), 'on_hand', 1, 'counted', '2026-10-31', now() FROM shelf",
    "UPDATE fleet_plan SET quantity = quantity + 1",
    "UPDATE unit SET serial = 'X' || id WHERE serial IS NULL",
]


def places(session: Session) -> dict[str, int]:
    """A tenure that an incident ended, its part, its machine and the incident."""
    row = session.execute(
        text("""SELECT t.id AS tenure, t.part_id AS part, t.asset_id AS asset, r.incident_id AS incident FROM tenure t
                JOIN event_line l ON l.removed_tenure_id = t.id JOIN event_revision r ON r.id = l.revision_id ORDER BY t.id DESC LIMIT 1""")
    ).one()
    return dict(row._mapping)


def every_part(session: Session) -> list[int]:
    return list(session.scalars(text("SELECT id FROM part ORDER BY id")))


def test_every_table_that_is_data_has_a_mark(session: Session) -> None:
    marked = set(session.scalars(text("SELECT tgrelid::regclass::text FROM pg_trigger WHERE tgname = 'marks_written'")))
    assert {name.strip('"') for name in marked} == set(Base.metadata.tables) - NOT_DATA


@pytest.mark.parametrize("table", sorted(set(Base.metadata.tables) - NOT_DATA))
def test_a_write_moves_the_mark_of_its_table_alone(session: Session, table: str) -> None:
    before = table_marks(session).of_table
    column = session.scalar(
        text("SELECT column_name FROM information_schema.columns WHERE table_name = :t ORDER BY ordinal_position LIMIT 1"), {"t": table}
    )
    session.execute(text(f'UPDATE "{table}" SET {column} = {column} WHERE false'))
    after = table_marks(session).of_table
    assert {name for name in after if after[name] != before.get(name)} == {table}


@pytest.mark.parametrize("table", WRITES)
def test_what_bears_on_a_life_moves_the_mark_of_its_part(session: Session, table: str) -> None:
    here, parts = places(session), every_part(session)
    of_machine = set(session.scalars(text("SELECT part_id FROM tenure WHERE asset_id = :a"), {"a": here["asset"]}))
    before = life_marks(session, parts)
    session.execute(text(WRITES[table].format(**here)))
    once = life_marks(session, parts)
    moved = {part for part in parts if once[part] != before[part]}
    assert here["part"] in moved
    assert moved <= of_machine
    session.execute(text(WRITES[table].format(**here).replace("2026-10-01", "2026-10-02")))
    assert life_marks(session, parts)[here["part"]] != once[here["part"]]  # the second write of one transaction too


@pytest.mark.parametrize("statement", OTHERS)
def test_what_has_no_bearing_on_lives_leaves_them(session: Session, statement: str) -> None:
    before = life_marks(session, every_part(session))
    session.execute(text(statement))
    assert life_marks(session, every_part(session)) == before


def test_what_is_rolled_back_moves_it_back_and_no_place_comes_twice(session: Session) -> None:
    before, here, seen = table_marks(session).of_table, places(session), []
    for _ in range(3):
        with session.begin_nested() as inner:
            session.execute(text(WRITES["tenure"].format(**here)))
            seen.append(table_marks(session).of_table["tenure"])
            inner.rollback()
        assert table_marks(session).of_table == before
    assert len({before["tenure"], *seen}) == 4


def test_others_see_it_move_when_the_writing_is_done(demo_engine: Engine) -> None:
    with Session(demo_engine) as writer, Session(demo_engine) as reader:
        before = table_marks(reader).of_table
        assert not wrote(writer)
        writer.execute(text(WRITES["asset_stay"].format(**places(writer))))
        assert wrote(writer)
        assert table_marks(writer).of_table != before
        assert table_marks(reader).of_table == before
        writer.rollback()
        assert table_marks(reader).of_table == before


def test_putting_rows_together_moves_no_mark(session: Session) -> None:
    session.execute(text("INSERT INTO written (topic, writer, writers, at) SELECT 'part', n, 1, n FROM generate_series(1, 40) n"))
    tables, lives = table_marks(session), life_marks(session, every_part(session))
    assert gather_marks(session, many=20) > 20
    assert (table_marks(session), life_marks(session, every_part(session))) == (tables, lives)
    assert session.scalar(text("SELECT count(*) FROM written WHERE writer <> 0")) == 0
    session.execute(text(OTHERS[0]))
    assert table_marks(session).of_table["part"] != tables.of_table["part"]


def test_databases_of_one_process_are_told_apart(session: Session, empty_session: Session) -> None:
    assert table_marks(session).database != table_marks(empty_session).database


def test_the_tables_of_a_statement_are_those_it_names(session: Session) -> None:
    assert tables_in('SELECT name FROM "user" u JOIN part p ON p.id = 1') == {"user", "part"}
    with tables_read() as outer:
        session.execute(text("SELECT count(*) FROM shelf"))
        with tables_read() as inner:
            session.execute(text("SELECT count(*) FROM lane"))
        session.execute(text("SELECT 1"))
    assert (inner, outer) == ({"lane"}, {"shelf", "lane"})
