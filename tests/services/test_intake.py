"""A company's own machine list: understood as it stands, held against the record, applied as one and undone as one."""

from __future__ import annotations

from dataclasses import replace
from datetime import date, timedelta

import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.services.clock import Clock
from almanac.services.errors import NotFound, Refused, Stale
from almanac.services.intake.apply import ListRequest, Looked, apply_list, look_at, undo_list
from almanac.services.intake.changes import Gone, Group
from almanac.services.intake.settled import NOT_FOR_US, Settled
from almanac.services.outlook.inputs import read_inputs
from tests.services.ugly import HEADER, LIST_ON, as_csv, as_xlsx, german, machines, rows_of, slashed

NAME = "Asset register"


def request(content: bytes, *, name: str = "Geräte.csv", on: date = LIST_ON, **settled: object) -> ListRequest:
    return ListRequest(NAME, name, content, on, Settled(**settled))  # type: ignore[arg-type]


def look(session: Session, clock: Clock, content: bytes, **more: object) -> Looked:
    return look_at(session, request(content, **more), clock=clock)  # type: ignore[arg-type]


def apply(session: Session, clock: Clock, asked: ListRequest) -> int:
    return apply_list(session, asked, look_at(session, asked, clock=clock).digest, clock=clock, author_id=1)


def record(session: Session) -> list[object]:
    """All that a list can change."""
    found: list[object] = []
    for table in ("asset", "asset_stay", "tenure"):
        found.extend(session.execute(text(f"SELECT row_to_json(x)::text FROM {table} x ORDER BY id")).scalars())
    return found


def test_the_record_s_own_list_says_nothing_new(session: Session, clock: Clock) -> None:
    rows = rows_of(session)
    found = look(session, clock, as_csv(rows), gone="on")
    understood = found.understood
    assert (understood.table.header_line, understood.table.sheet) == (4, "")
    assert "semicolons" in understood.table.how
    assert set(understood.columns) == {"tag", "maker", "model", "site", "in_service_on", "serial", "status"}
    assert understood.questions == []
    assert understood.taken == []
    assert not understood.table.asks_order
    counts = found.difference.counts()
    assert counts == {**dict.fromkeys(Group, 0), Group.UNCHANGED: len(rows)}
    with pytest.raises(Stale):
        apply_list(session, request(as_csv(rows), gone="on"), "other", clock=clock, author_id=1)


@pytest.mark.parametrize(("encoding", "delimiter"), [("utf-8", ","), ("utf-8-sig", "\t"), ("utf-16", ";"), ("cp1252", "|")])
def test_any_encoding_and_delimiter_says_the_same(session: Session, clock: Clock, encoding: str, delimiter: str) -> None:
    content = as_csv(rows_of(session), encoding=encoding, delimiter=delimiter)
    found = look(session, clock, content, gone="leave")
    assert found.difference.counts()[Group.UNCHANGED] == len(found.understood.rows) > 1000


def test_a_workbook_with_real_days_below_a_title_is_read(session: Session, clock: Clock) -> None:
    own = machines(session)
    rows = [[m.tag, m.maker, m.model, m.site, m.in_service_on, m.serial or "", "in use"] for m in own]
    header = ["Asset tag", "Manufacturer", "Model", "Location", "Purchase date", "Serial number", "Status"]
    found = look(session, clock, as_xlsx(rows, header), name="devices.xlsx", gone="on")
    assert (found.understood.table.sheet, found.understood.table.header_line) == ("Devices", 3)
    assert found.difference.counts()[Group.UNCHANGED] == len(own)


class TestDays:
    def test_a_list_that_proves_its_order_asks_nothing(self, session: Session, clock: Clock) -> None:
        found = look(session, clock, as_csv(rows_of(session, day=slashed)), gone="leave")
        assert not found.understood.table.day_first
        assert not found.understood.table.asks_order
        assert found.understood.table.order.month_first
        assert found.difference.counts()[Group.UNCHANGED] > 1000

    def test_one_that_could_be_either_is_asked_for(self, session: Session, clock: Clock) -> None:
        rows = [["SK-9001", "Ostrel", "Packet 14", "Gullskerry", "3/5/22", "", ""]]
        found = look(session, clock, as_csv(rows), gone="leave")
        assert found.understood.table.asks_order
        assert found.understood.table.order.open == ((6, "3/5/22"),) or found.understood.table.order.open[0][1] == "3/5/22"
        with pytest.raises(Refused, match="answer every question"):
            apply(session, clock, request(as_csv(rows), gone="leave"))
        for day_first, expected in ((True, date(2022, 5, 3)), (False, date(2022, 3, 5))):
            said = look(session, clock, as_csv(rows), gone="leave", day_first=day_first)
            assert said.understood.rows[0].in_service_on == expected

    def test_a_day_no_record_can_mean_is_said_at_its_row(self, session: Session, clock: Clock) -> None:
        rows = [["SK-9001", "Ostrel", "Packet 14", "Gullskerry", "03.05.1926", "", ""]]
        (change,) = [one for one in look(session, clock, as_csv(rows), gone="leave").difference.changes if one.group is Group.UNUSABLE]
        assert "03.05.1926 is no day" in change.words

    @pytest.mark.parametrize("cell", ["3. Mai 2022", "3 May 2022", "3 mai 2022", "2022-05-03 08:15", "03.05.22", "44684"])
    def test_days_in_words_serials_and_times(self, session: Session, clock: Clock, cell: str) -> None:
        rows = [["SK-9001", "Ostrel", "Packet 14", "Gullskerry", cell, "", ""]]
        if cell == "44684":
            content, name = as_xlsx([["SK-9001", "Ostrel", "Packet 14", "Gullskerry", 44684, "", ""]]), "a.xlsx"
        else:
            content, name = as_csv(rows, encoding="utf-8"), "a.csv"
        assert look(session, clock, content, name=name, gone="leave").understood.rows[0].in_service_on == date(2022, 5, 3)


def open_job(session: Session, tag: str) -> None:
    """A job on a machine, as one that is open on another, or ended there, was written."""
    session.execute(
        text("""INSERT INTO job (asset_id, model_id, site_id, page_revision_id, purpose, state, symptom, events, plan, planned_minutes,
                                 opened_on, opened_at)
                SELECT a.id, a.model_id, y.site_id, r.id, 'repair', 'parked', 'dark', '[]', '{}', 10, '2026-10-20', '2026-10-20T08:00Z'
                FROM asset a JOIN asset_stay y ON y.asset_id = a.id AND y.until_on IS NULL
                JOIN model_revision r ON r.model_id = a.model_id WHERE a.tag = :tag ORDER BY r.number DESC LIMIT 1"""),
        {"tag": tag},
    )


class TestNames:
    def test_a_typo_is_taken_and_told_and_another_model_is_asked_for(self, session: Session, clock: Clock) -> None:
        rows = rows_of(session)[:30]
        own = rows[0][:]
        rows[0] = [own[0], own[1], own[2], own[3].replace("r", "rr", 1), *own[4:]]
        rows.append(["PR-1", "Laserwerk", "Printer 900", "Gullskerry", "03.05.2022", "", ""])
        found = look(session, clock, as_csv(rows), gone="leave")
        assert [(one[0], one[1]) for one in found.understood.taken] == [("site", rows[0][3])]
        (question,) = found.understood.questions
        assert (question.field, question.text, question.rows) == ("model", "Laserwerk Printer 900", 1)
        waits = [one for one in found.difference.changes if one.group is Group.WAITS]
        assert [one.subject for one in waits] == ["PR-1"]

    def test_a_number_less_is_no_typo(self, session: Session, clock: Clock) -> None:
        rows = [["SK-9001", "Ostrel", "Packet 14b", "Gullskerry", "03.05.2022", "", ""]]
        found = look(session, clock, as_csv(rows), gone="leave").understood
        assert (found.taken, [one.text for one in found.questions]) == ([], ["Ostrel Packet 14b"])
        assert found.questions[0].proposal is not None

    def test_what_is_none_of_ours_is_set_aside_and_remembered(self, session: Session, clock: Clock) -> None:
        rows = [*rows_of(session), ["PR-1", "Laserwerk", "Printer 900", "Gullskerry", "03.05.2022", "", ""]]
        rows[0][5] = "NEW-SERIAL-1"
        asked = request(as_csv(rows), gone="leave", names={"model": {"laserwerk printer 900": NOT_FOR_US}})
        assert look_at(session, asked, clock=clock).understood.not_ours == 1
        apply(session, clock, asked)
        again = look(session, clock, as_csv([*rows, ["PR-2", "Laserwerk", "Printer 900", "Gullskerry", "04.05.2022", "", ""]]))
        assert again.understood.questions == []
        assert again.understood.not_ours == 2
        assert again.settled.gone == "leave"

    def test_columns_can_be_said(self, session: Session, clock: Clock) -> None:
        header = ["Nummer", "X", "Y", "Z", "wann", "Anlage", "Zustand"]
        content = as_csv(rows_of(session), header)
        said = {"tag": "Nummer", "maker": "X", "model": "Y", "site": "Z", "in_service_on": "wann", "serial": "Anlage"}
        found = look(session, clock, content, gone="leave", columns=said)
        assert found.difference.counts()[Group.UNCHANGED] > 1000


class TestDifference:
    @pytest.fixture
    def rows(self, session: Session) -> list[list[str]]:
        return rows_of(session)

    def test_moved_changed_new_twice_scrapped_and_missing(self, session: Session, clock: Clock, rows: list[list[str]]) -> None:
        before = record(session)
        sites = {row[3] for row in rows}
        moved, changed, scrapped, missing = rows[0], rows[1], rows[2], rows[3]
        to = next(site for site in sorted(sites) if site != moved[3])
        moved[3], changed[5], scrapped[6] = to, "S-77", "verschrottet"
        del rows[3]
        rows.append(["SK-9100", "Ostrel", "Packet 14", to, german(LIST_ON - timedelta(days=20)), "S-78", ""])
        rows.append(rows[0][:])
        rows.append(["", "Ostrel", "Packet 14", to, "01.02.2024", "", ""])
        rows.append(["SK-9101", "Ostrel", "Packet 14", to, "", "", ""])
        asked = request(as_csv(rows), gone="on")
        counts = look_at(session, asked, clock=clock).difference.counts()
        named = {name: counts[name] for name in (Group.MOVED, Group.CHANGED, Group.NEW, Group.TWICE, Group.UNUSABLE, Group.GONE)}
        assert named == {Group.MOVED: 1, Group.CHANGED: 1, Group.NEW: 1, Group.TWICE: 1, Group.UNUSABLE: 2, Group.GONE: 2}
        number = apply(session, clock, asked)
        state = {m.tag: m for m in machines(session)}
        assert state[moved[0]].site == to
        assert state[changed[0]].serial == "S-77"
        assert state["SK-9100"].in_service_on == LIST_ON - timedelta(days=20)
        assert {scrapped[0], missing[0]}.isdisjoint(state)
        held = session.scalar(
            text("SELECT count(*) FROM tenure t JOIN asset a ON a.id = t.asset_id WHERE a.tag = :tag AND t.removed_on IS NULL"),
            {"tag": scrapped[0]},
        )
        assert held == 0
        assert look_at(session, request(as_csv(rows), on=LIST_ON), clock=clock).difference.done == []
        assert undo_list(session, number, clock=clock, author_id=1) == (5, [])
        session.expire_all()
        assert record(session) == before
        with pytest.raises(Refused, match="undone already"):
            undo_list(session, number, clock=clock, author_id=1)

    def test_nobody_knows_what_became_of_the_missing_until_somebody_says(
        self, session: Session, clock: Clock, rows: list[list[str]]
    ) -> None:
        del rows[:3]
        found = look(session, clock, as_csv(rows))
        assert found.difference.open_gone == 3
        assert found.difference.counts()[Group.WAITS] == 3
        with pytest.raises(Refused, match="answer every question"):
            apply(session, clock, request(as_csv(rows)))
        assert look(session, clock, as_csv(rows), gone="leave").difference.done == []
        assert {one.on for one in look(session, clock, as_csv(rows), gone="on").difference.done} == {LIST_ON}

    def test_between_two_lists_they_are_spread(self, session: Session, clock: Clock, rows: list[list[str]]) -> None:
        first = request(as_csv([[*row[:5], f"S{place}", row[6]] for place, row in enumerate(rows)]), on=date(2026, 9, 30), gone="spread")
        apply(session, clock, first)
        found = look(session, clock, as_csv(rows[3:]), gone="spread")
        days = sorted(one.on for one in found.difference.done if one.group is Group.GONE and one.on)
        assert found.before == date(2026, 9, 30)
        assert days == [date(2026, 10, 5), date(2026, 10, 15), date(2026, 10, 25)]

    def test_a_list_of_one_harbour_says_nothing_of_the_others(self, session: Session, clock: Clock, rows: list[list[str]]) -> None:
        here = [row for row in rows if row[3] == "Gullskerry"]
        assert look(session, clock, as_csv(here), gone="on").difference.done == []

    def test_new_machines_hold_what_they_were_delivered_with_where_that_is_beyond_doubt(
        self, session: Session, clock: Clock, rows: list[list[str]]
    ) -> None:
        before = record(session)
        rows.append(["SK-9100", "Ostrel", "Packet 14", "Gullskerry", german(date(2026, 9, 1)), "", ""])
        rows.append(["SK-9101", "Ostrel", "Packet 14", "Gullskerry", german(date(2019, 9, 1)), "", ""])
        bare = look(session, clock, as_csv(rows), gone="leave")
        assert [one.holds for one in bare.difference.done] == [(), ()]
        asked = request(as_csv(rows), gone="leave", delivered=True)
        found = look_at(session, asked, clock=clock)
        young, old = found.difference.done
        assert "how it is used is not said, taken for office hours" in young.words
        assert "as delivered" in young.words
        assert old.words.endswith("in it, fitted between 1 Sep 2019 and 1 Nov 2021: nobody knows when")
        assert found.digest != bare.digest
        number = apply(session, clock, asked)
        held = session.execute(
            text("""SELECT q.kind, t.fitted_on, t.observed_from, t.age_at_fitting_days, t.age_span_days, t.as_delivered FROM tenure t
                    JOIN asset a ON a.id = t.asset_id JOIN part q ON q.id = t.part_id WHERE a.tag = 'SK-9100'""")
        ).all()
        assert {row.kind for row in held} >= {"battery", "fan"}
        assert {row[1:] for row in held} == {(date(2026, 9, 1), date(2026, 9, 1), 0, 0, True)}
        older = session.execute(
            text("""SELECT t.fitted_on, t.observed_from, t.age_at_fitting_days, t.age_span_days FROM tenure t
                    JOIN asset a ON a.id = t.asset_id WHERE a.tag = 'SK-9101'""")
        ).all()
        assert set(older) == {(date(2019, 9, 1), date(2021, 11, 1), 0, (date(2021, 11, 1) - date(2019, 9, 1)).days)}
        undo_list(session, number, clock=clock, author_id=1)
        session.expire_all()
        assert record(session) == before

    def test_a_position_that_somebody_saw_empty_is_not_taken_for_filled(
        self, session: Session, clock: Clock, rows: list[list[str]]
    ) -> None:
        rows.append(["SK-9100", "Ostrel", "Packet 14", "Gullskerry", german(date(2026, 9, 1)), "", ""])
        asked = request(as_csv(rows), gone="leave", delivered=True)
        whole = {position for position, _ in look_at(session, asked, clock=clock).difference.done[0].holds}
        empty = min(whole)
        session.execute(
            text("""UPDATE tenure SET removed_on = '2026-10-01', removal_recorded_at = now() WHERE id =
                    (SELECT min(id) FROM tenure WHERE position_id = :p AND removed_on IS NULL)"""),
            {"p": empty},
        )
        assert {position for position, _ in look_at(session, asked, clock=clock).difference.done[0].holds} == whole - {empty}

    def test_contradictions_are_named_and_nothing_is_done_about_them(self, session: Session, clock: Clock, rows: list[list[str]]) -> None:
        retired = session.execute(text("SELECT tag FROM asset WHERE retired_on IS NOT NULL ORDER BY tag LIMIT 1")).scalar_one()
        busy = session.execute(
            text("SELECT a.tag FROM asset a JOIN job j ON j.asset_id = a.id AND j.ended_at IS NULL ORDER BY a.tag LIMIT 1")
        ).scalar_one_or_none()
        other = next(row for row in rows if row[2] != rows[0][2])
        rows[0][1:3] = other[1:3]
        rows.append([retired, "Ostrel", "Packet 14", "Gullskerry", "01.02.2021", "", ""])
        rows = [row for row in rows if row[0] != busy]
        found = look(session, clock, as_csv(rows), gone="on")
        words = {one.subject: one.words for one in found.difference.changes if one.group is Group.UNUSABLE}
        assert "another model" in words[rows[0][0]]
        assert "but retired on" in words[retired]
        if busy:
            assert "a job is open on it" in words[busy]
        assert all(one.subject not in words for one in found.difference.done)

    def test_a_machine_on_the_bench_is_not_retired(self, session: Session, clock: Clock, rows: list[list[str]]) -> None:
        row = next(row for row in rows if row[3] == "Eldermouth")
        open_job(session, row[0])
        rows.remove(row)
        found = look(session, clock, as_csv(rows), gone="on").difference
        (change,) = [one for one in found.changes if one.subject == row[0]]
        assert (change.group, change.words) == (Group.UNUSABLE, "not on the list any more, but a job is open on it: close that first")

    def test_a_list_older_than_the_record_moves_and_retires_nothing(self, session: Session, clock: Clock, rows: list[list[str]]) -> None:
        tag, since = session.execute(
            text("""SELECT a.tag, y.from_on FROM asset a JOIN asset_stay y ON y.asset_id = a.id AND y.until_on IS NULL
                    WHERE a.retired_on IS NULL ORDER BY y.from_on DESC LIMIT 1""")
        ).one()
        row = next(row for row in rows if row[0] == tag)
        row[3] = "Gullskerry" if row[3] != "Gullskerry" else "Ternhaven"
        found = look(session, clock, as_csv(rows), gone="leave", on=since).difference
        words = {one.subject: one.words for one in found.changes if one.group is Group.UNUSABLE}
        assert "which is not before the list's day" in words[tag]
        row[6] = "verschrottet"
        gone = {one.subject: one.words for one in look(session, clock, as_csv(rows), gone="leave", on=since).difference.changes}
        assert "the list's day is wrong" in gone[tag]

    def test_what_a_list_leaves_out_stays(self, session: Session, clock: Clock, rows: list[list[str]]) -> None:
        for row in rows:
            row[5] = ""
        assert look(session, clock, as_csv(rows), gone="leave").difference.done == []

    def test_a_serial_that_two_have_names_neither(self, session: Session, clock: Clock, rows: list[list[str]]) -> None:
        session.execute(text("UPDATE asset SET serial = 'SAME' WHERE tag IN (:a, :b)"), {"a": rows[0][0], "b": rows[1][0]})
        rows[0][5] = rows[1][5] = "SAME"
        rows[0][0] = "SK-7777"
        found = look(session, clock, as_csv(rows), gone="leave").difference
        assert [(one.subject, one.group) for one in found.done] == [("SK-7777", Group.NEW)]

    def test_a_part_fitted_after_the_list_s_day_stays_on_record(self, session: Session, clock: Clock, rows: list[list[str]]) -> None:
        later = session.execute(
            text("""SELECT a.tag, t.id FROM tenure t JOIN asset a ON a.id = t.asset_id
                    WHERE t.removed_on IS NULL AND a.retired_on IS NULL AND NOT EXISTS
                          (SELECT 1 FROM job j WHERE j.asset_id = a.id AND j.ended_at IS NULL) ORDER BY t.id LIMIT 1""")
        ).one()
        session.execute(text("UPDATE tenure SET fitted_on = '2026-10-31', observed_from = '2026-10-31' WHERE id = :id"), {"id": later.id})
        next(row for row in rows if row[0] == later.tag)[6] = "verschrottet"
        apply(session, clock, request(as_csv(rows), gone="leave"))
        assert session.scalar(text("SELECT removed_on FROM tenure WHERE id = :id"), {"id": later.id}) is None

    def test_another_tag_with_the_serial_of_one_machine_is_that_machine(
        self, session: Session, clock: Clock, rows: list[list[str]]
    ) -> None:
        rows[0][5] = "ONLY-ONE"
        apply(session, clock, request(as_csv(rows), gone="leave"))
        old = rows[0][0]
        rows[0][0] = "SK-7777"
        found = look(session, clock, as_csv(rows), gone="on")
        (change,) = found.difference.done
        assert (change.group, change.words) == (Group.CHANGED, f"tag SK-7777, was {old}")

    def test_what_was_used_since_is_not_undone(self, session: Session, clock: Clock, rows: list[list[str]]) -> None:
        rows[0][5] = "S-1"
        number = apply(session, clock, request(as_csv(rows), gone="leave"))
        session.execute(
            text(
                "UPDATE tenure SET recorded_at = :later WHERE id = (SELECT min(t.id) FROM tenure t JOIN asset a ON a.id = t.asset_id WHERE a.tag = :tag)"
            ),
            {"later": clock.now + timedelta(hours=1), "tag": rows[0][0]},
        )
        with pytest.raises(Refused, match=f"of {rows[0][0]} something was recorded since"):
            undo_list(session, number, clock=clock, author_id=1)
        with pytest.raises(NotFound):
            undo_list(session, 10**6, clock=clock, author_id=1)

    def test_a_later_list_is_undone_first(self, session: Session, clock: Clock, rows: list[list[str]]) -> None:
        rows[0][5] = "S-1"
        first = apply(session, clock, request(as_csv(rows), on=date(2026, 9, 30), gone="leave"))
        rows[0][5] = "S-2"
        second = apply(session, clock, request(as_csv(rows), gone="leave"))
        with pytest.raises(Refused, match="a later list"):
            undo_list(session, first, clock=clock, author_id=1)
        undo_list(session, second, clock=clock, author_id=1)
        undo_list(session, first, clock=clock, author_id=1)


def test_the_outlook_follows_a_list(session: Session, clock: Clock) -> None:
    before = sum(read_inputs(session).life[part].fleet.content.serving.units.sum() for part in read_inputs(session).life)
    rows = rows_of(session)[100:]
    apply(session, clock, request(as_csv(rows), gone="on"))
    session.expire_all()
    after = sum(read_inputs(session).life[part].fleet.content.serving.units.sum() for part in read_inputs(session).life)
    assert after < before


@pytest.mark.parametrize(
    ("content", "name", "message"),
    [
        (b"", "a.csv", "is empty"),
        (b"a;b\r\n1;2\r\n", "a.csv", "no row of a.csv names columns"),
        (b"PK\x03\x04 broken", "a.xlsx", "no workbook that can be read"),
        (b"\x00\x01\x02" * 50, "a.csv", "is no text and no workbook"),
        (b"Inventar-Nr.;Standort\r\nSK-1;Gullskerry\r\n", "a.csv", "no column was found for model"),
    ],
)
def test_what_is_no_list_is_said(session: Session, clock: Clock, content: bytes, name: str, message: str) -> None:
    with pytest.raises(Refused, match=message):
        look(session, clock, content, name=name)


def test_too_long_a_list_is_said(session: Session, clock: Clock) -> None:
    content = b"Asset tag;Model\r\n" + b"X;Y\r\n" * 200_001
    with pytest.raises(Refused, match="split it by site or model"):
        look(session, clock, content, name="long.csv")


def test_days_of_lists_are_checked(session: Session, clock: Clock) -> None:
    asked = request(as_csv(rows_of(session)))
    with pytest.raises(Refused, match="of the future"):
        look_at(session, replace(asked, list_on=clock.today + timedelta(days=1)), clock=clock)
    with pytest.raises(Refused, match="a name of up to 80 letters"):
        look_at(session, replace(asked, source="x" * 81), clock=clock)
    with pytest.raises(Refused, match="one of machines, parts"):
        look_at(session, replace(asked, kind="printers"), clock=clock)
    assert look_at(session, replace(asked, source="  "), clock=clock).source == "Asset register"
    with pytest.raises(Refused, match="one of leave, on, spread"):
        look(session, clock, as_csv(rows_of(session)), gone="sold")
    assert [one.value for one in Gone] == ["leave", "on", "spread"]
    assert HEADER[0] == "Inventar-Nr."


def test_a_list_of_another_company_is_asked_for_before_it_retires_all(session: Session, clock: Clock) -> None:
    rows = [[f"ZZ-{n:03d}", "Ostrel", "Packet 14", "Gullskerry", "03.05.2022", "", ""] for n in range(25)]
    looked = look(session, clock, as_csv(rows), gone="on")
    (question,) = looked.understood.questions
    assert question.field == "strangers"
    assert looked.open == 1
    assert look(session, clock, as_csv(rows), gone="on", names={"strangers": {"": "+"}}).open == 0
    assert look(session, clock, as_csv(rows[:19]), gone="leave").open == 0
    own = rows_of(session)[:1]
    assert look(session, clock, as_csv([*rows, *own]), gone="leave").open == 0


def test_a_header_said_again_is_no_machine(session: Session, clock: Clock) -> None:
    own = rows_of(session)[:6]
    english = ["Asset tag", "Manufacturer", "Model", "Location", "Purchase date", "Serial number", "Status"]
    looked = look(session, clock, as_csv([english, *own[:3], HEADER, *own[3:]]), gone="leave")
    assert len(looked.understood.rows) == 6
    assert looked.difference.counts()[Group.UNCHANGED] == 6
