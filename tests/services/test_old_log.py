"""An old log from a spreadsheet: columns proposed, words explained, faults by row, all of it or nothing."""

from __future__ import annotations

from datetime import date

import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.core.life.outcomes import Finding
from almanac.exchange.tables import TableFault, read_xlsx, write_xlsx
from almanac.services.clock import Clock
from almanac.services.errors import Refused
from almanac.services.ledger.read import read_history
from almanac.services.oldlog.columns import day_of, finding_of, proposed
from almanac.services.oldlog.run import OldLog, OldLogRequest, read_old_log
from tests.services.helpers import Bench, bench

HEADER = "Asset tag,Date,Part,Result,Complaint,Minutes\n"


def _long(session: Session, kind: str = "ssd") -> Bench:
    """A machine whose part has been in for years and was not fitted by a recorded incident."""
    row = session.execute(
        text("""
        SELECT a.tag, t.position_id, p.number, s.code FROM tenure t
        JOIN asset a ON a.id = t.asset_id JOIN part p ON p.id = t.part_id
        JOIN asset_stay y ON y.asset_id = a.id AND y.until_on IS NULL JOIN site s ON s.id = y.site_id
        WHERE t.removed_on IS NULL AND a.retired_on IS NULL AND p.kind = :kind AND t.fitted_on < '2024-01-01' AND s.log_began_on < '2022-06-01'
          AND NOT EXISTS (SELECT 1 FROM event_line l WHERE l.fitted_tenure_id = t.id)
        ORDER BY a.id LIMIT 1"""),
        {"kind": kind},
    ).one()
    return Bench(*row)


def _read(session: Session, clock: Clock, data: str | bytes, **more: object) -> OldLog:
    raw = data.encode() if isinstance(data, str) else data
    return read_old_log(session, OldLogRequest(raw, **more), clock=clock, author_id=1)  # type: ignore[arg-type]


def _lives(session: Session, where: Bench) -> list[tuple[date, date | None]]:
    rows = session.execute(
        text("""SELECT fitted_on, removed_on FROM tenure t JOIN asset a ON a.id = t.asset_id
                WHERE a.tag = :tag AND position_id = :p ORDER BY fitted_on"""),
        {"tag": where.tag, "p": where.position_id},
    )
    return [(row.fitted_on, row.removed_on) for row in rows]


def test_columns_are_proposed_from_their_header() -> None:
    header = ["asset tag", "date", "part", "result", "complaint", "minutes", "spare number"]
    assert proposed(header) == {
        "tag": "asset tag", "occurred_on": "date", "position": "part", "finding": "result", "reason": "complaint", "minutes": "minutes",
        "part_number": "spare number",
    }  # fmt: skip


@pytest.mark.parametrize(
    ("words", "day_first", "expected"),
    [
        ("2024-03-05", True, date(2024, 3, 5)),
        ("2024-03-05 10:20:00", True, date(2024, 3, 5)),
        ("5.3.2024", True, date(2024, 3, 5)),
        ("3/5/24", False, date(2024, 3, 5)),
        ("31.2.2024", True, None),
        ("soon", True, None),
    ],
)
def test_days_are_read_as_people_write_them(words: str, day_first: bool, expected: date | None) -> None:
    assert day_of(words, day_first=day_first) == expected


def test_findings_are_explained_never_guessed() -> None:
    assert finding_of("NFF", {}) == Finding.NO_FAULT_FOUND
    assert finding_of("kaputt", {}) is None
    assert finding_of("Kaputt ", {"kaputt": "confirmed"}) == Finding.CONFIRMED
    assert finding_of("", {}) == Finding.OPEN


def test_a_preview_writes_nothing_and_a_sound_file_is_recorded_whole(session: Session, clock: Clock) -> None:
    where = _long(session)
    start = _lives(session, where)
    rows = (
        f"{where.tag},2025-02-03,drive,failed,clicks,25\n{where.tag},2025-09-30,drive,NFF,slow,10\n{where.tag},2026-01-09,ssd,worn,slow,\n"
    )
    preview = _read(session, clock, HEADER + rows)
    assert (preview.checked.faults, preview.written, len(preview.checked.incidents)) == ([], 0, 3)
    assert _lives(session, where) == start
    done = _read(session, clock, HEADER + rows, write=True)
    assert done.written == 3
    fitted = start[-1][0]
    assert _lives(session, where)[-3:] == [
        (fitted, date(2025, 2, 3)), (date(2025, 2, 3), date(2026, 1, 9)), (date(2026, 1, 9), None),
    ]  # fmt: skip
    newest = session.execute(text("SELECT max(id) FROM incident")).scalar_one()
    entry = read_history(session, newest)[0]
    assert (entry.finding, entry.lines[0].age_days) == ("confirmed", (date(2026, 1, 9) - date(2025, 2, 3)).days)


def test_a_life_that_a_recorded_incident_ended_keeps_its_incident(session: Session, clock: Clock) -> None:
    tag, position, key, fitted, removed, tenure = session.execute(
        text("""SELECT a.tag, t.position_id, o.key, t.fitted_on, t.removed_on, t.id FROM tenure t JOIN asset a ON a.id = t.asset_id
                JOIN position o ON o.id = t.position_id JOIN event_line l ON l.removed_tenure_id = t.id
                JOIN asset_stay y ON y.asset_id = a.id JOIN site s ON s.id = y.site_id
                WHERE t.fitted_on < '2023-06-01' AND t.removed_on > '2025-01-01' AND s.log_began_on < '2024-01-01'
                  AND NOT EXISTS (SELECT 1 FROM event_line x WHERE x.fitted_tenure_id = t.id) ORDER BY t.id LIMIT 1""")
    ).one()
    span = "UPDATE tenure SET age_span_days = observed_from - fitted_on WHERE id = :tenure RETURNING age_span_days"
    unknown = session.scalar(text(span), {"tenure": tenure})
    _read(session, clock, HEADER + f"{tag},2024-06-01,{key},failed,died,5\n", write=True)
    rows = session.execute(
        text("""SELECT id, age_span_days, fitted_on, removed_on FROM tenure WHERE position_id = :p AND asset_id = (SELECT id FROM asset WHERE tag = :t)
                AND fitted_on >= :f AND fitted_on < :r ORDER BY fitted_on"""),
        {"p": position, "t": tag, "f": fitted, "r": removed},
    ).all()
    assert [(row.fitted_on, row.removed_on) for row in rows] == [(fitted, date(2024, 6, 1)), (date(2024, 6, 1), removed)]
    assert rows[1].id == tenure
    assert [row.age_span_days for row in rows] == [unknown, 0], "the old log saw the second one go in"


def test_every_fault_is_named_by_row_and_nothing_is_written(session: Session, clock: Clock) -> None:
    where = _long(session)
    data = HEADER + (
        f"SK-9999,2025-02-03,drive,failed,,\n{where.tag},2031-01-01,drive,failed,,\n{where.tag},soon,drive,failed,,\n"
        f"{where.tag},2025-02-03,wing,failed,,\n{where.tag},2025-02-03,drive,kaputt,,\n{where.tag},2025-02-04,drive,failed,,many\n"
        f"{where.tag},2025-03-01,drive,failed,,\n{where.tag},2025-03-01,drive,failed,,\n{where.tag},2010-01-01,drive,failed,,\n"
    )
    found = _read(session, clock, data).checked
    assert [(fault.line, fault.field) for fault in found.faults] == [
        (2, "tag"), (3, "occurred_on"), (4, "occurred_on"), (5, "position"), (6, "finding"), (7, "minutes"), (10, "occurred_on"),
        (9, "occurred_on"),
    ]  # fmt: skip
    assert found.unexplained == {"kaputt": 1}
    before = session.scalar(text("SELECT count(*) FROM incident"))
    with pytest.raises(Refused, match="8 faults; nothing was written"):
        _read(session, clock, data, write=True)
    assert session.scalar(text("SELECT count(*) FROM incident")) == before
    explained = _read(session, clock, data, findings={"kaputt": "confirmed"}).checked
    assert not explained.unexplained


def test_an_earlier_log_than_the_site_kept_is_refused_with_its_reason(session: Session, clock: Clock) -> None:
    tag, began = session.execute(
        text("""SELECT a.tag, s.log_began_on FROM asset a JOIN asset_stay y ON y.asset_id = a.id AND y.until_on IS NULL
                JOIN site s ON s.id = y.site_id WHERE a.in_service_on < s.log_began_on - 60 AND a.retired_on IS NULL LIMIT 1""")
    ).one()
    early = date.fromordinal(began.toordinal() - 30)
    (fault,) = _read(session, clock, HEADER + f"{tag},{early},battery,failed,,\n").checked.faults
    assert "would make old parts look worse" in fault.message


def test_files_that_are_no_table_and_columns_that_are_not_there(session: Session, clock: Clock) -> None:
    for data in (b"", b"\xff\xfe\x00", b"PK\x03\x04 no workbook", HEADER.encode()):
        with pytest.raises(Refused):
            _read(session, clock, data)
    with pytest.raises(Refused, match="the file has no column ghost"):
        _read(session, clock, HEADER + "SK-0001,2025-01-01,fan,failed,,\n", columns={"tag": "ghost"})
    (first, *_) = _read(session, clock, HEADER + "SK-0001,2025-01-01,fan,failed,,\n", columns={"tag": "asset tag"}).checked.faults
    assert first.message == "no column is chosen for this: choose one"


def test_a_workbook_is_read_like_a_csv_file(session: Session, clock: Clock) -> None:
    where = bench(session, "ssd")
    book = write_xlsx("log", ["Tag", "Date", "Part", "Finding"], [[where.tag, "2026-09-01", "drive", "failed"]])
    assert read_xlsx(book)[0].cells == {"tag": where.tag, "date": "2026-09-01", "part": "drive", "finding": "failed"}
    assert _read(session, clock, book).header == ["tag", "date", "part", "finding"]
    with pytest.raises(TableFault, match="no XLSX workbook"):
        read_xlsx(b"PK\x03\x04 not one")
    formula = write_xlsx("x", ["a"], [["=1+1"]])
    assert read_xlsx(formula)[0].cells == {"a": "=1+1"}
