"""Importing a company's own data: what is read, what is refused and where, and all or nothing."""

from __future__ import annotations

from collections.abc import Mapping
from types import MappingProxyType

import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.services.clock import Clock, read_clock
from almanac.services.importing.cells import CellFault, lead_time, price, whole
from almanac.services.importing.run import ImportReport, run_import
from almanac.services.importing.specs import FILES
from almanac.services.outlook.summary import read_outlook
from tests.services.looks import rows_of, working_of

COMPANY = {
    "sites.csv": "code,name,environment,log_began_on,depot,lane_days\nHQ,Headland,office,2024-01-01,yes,\nOUT,Outer Reach,salt,2025-01-01,no,5\n",
    "parts.csv": "number,name,kind,supplier,lead_time,price,pack\nB-1,Pack one,battery,Maker,10:0.5;20:0.5,50.00,2\nM-1,Module,memory,Maker,10:0.5;20:0.5,20,\n",
    "models.csv": "maker,model,form,position,kind,fits\nAcorn,Nut 1,notebook,battery,battery,B-1\nAcorn,Nut 1,notebook,slot,memory,M-1\n",
    "assets.csv": "tag,maker,model,site,duty,in_service_on,retire_planned_on\nA-1,Acorn,Nut 1,HQ,office_hours,2022-02-01,2029-01-31\n"
    "A-2,Acorn,Nut 1,OUT,two shifts,2024-02-29,\n",
    "tenures.csv": "tag,position,part,fitted_on,removed_on\nA-1,battery,B-1,2022-02-01,2026-03-01\nA-1,battery,B-1,2026-03-01,\nA-1,slot,M-1,2022-02-01,\n"
    "A-2,battery,B-1,2024-02-29,\n",
    "incidents.csv": "tag,position,occurred_on,finding,reason\nA-1,battery,2026-03-01,confirmed,runs ten minutes\n",
    "stock.csv": "site,part,on_hand,made_on\nHQ,B-1,3,2026-01-01\nOUT,B-1,1,\n",
}


@pytest.fixture
def clock(empty_session: Session) -> Clock:
    empty_session.execute(
        text(
            "INSERT INTO setting (scope, scope_key, key, number, value, from_on, recorded_at) VALUES ('company', '', 'as_of_day', 1, '\"2026-06-15\"', '2020-01-01', now())"
        )
    )
    return read_clock(empty_session)


def send(
    session: Session, clock: Clock, changes: Mapping[str, str] = MappingProxyType({}), *, write: bool = True, most_rows: int | None = None
) -> ImportReport:
    files = {name: content.encode() for name, content in (COMPANY | {f"{k}.csv": v for k, v in changes.items()}).items()}
    return run_import(session, files, clock=clock, author_id=None, write=write, most_rows=most_rows)


def test_a_company_comes_in_and_has_an_outlook(empty_session: Session, clock: Clock) -> None:
    report = send(empty_session, clock)
    assert report.faults == []
    assert report.written
    assert report.rows == {"sites": 2, "parts": 2, "models": 2, "assets": 2, "tenures": 4, "incidents": 1, "stock": 2}
    line = next(line for line in rows_of(empty_session) if line.part.number == "B-1")
    assert (line.in_service, line.on_hand) == (2, 4)
    assert line.law is not None
    assert line.law.law.failures.sum() == 1
    years = line.law.law.exposure_years.sum()
    first = (2251 - 14 + 0) / 365.25  # A-1's first pack from the day the log began, its second one and A-2's from theirs
    assert 0 < years < first
    outer = next(line for line in rows_of(empty_session, "OUT") if line.part.number == "B-1")
    assert outer.policy.lead.days.tolist() == [5]
    removed = empty_session.execute(text("SELECT bucket, quantity FROM stock_move WHERE cause = 'removed'")).one()
    assert removed == ("scrapped", 1)
    action = empty_session.execute(text("SELECT action FROM event_line")).scalar_one()
    assert action == "replaced"


def test_machines_without_their_parts_are_an_outlook_that_says_so(empty_session: Session, clock: Clock) -> None:
    nothing = {"tenures": "tag,position,part,fitted_on\n", "incidents": "tag,position,occurred_on,finding,reason\n"}
    assert send(empty_session, clock, nothing).written
    assert read_outlook(empty_session).unrecorded == 2
    assert read_outlook(empty_session, site_code="OUT").unrecorded == 1
    (section,) = working_of(empty_session, "B-1")
    (row,) = section.rows
    assert (row.label, row.value) == ("Units in machines without a record", "2.0")
    assert row.note.startswith("0 to 2 by ")


def test_a_part_fitted_before_the_log_began_enters_late(empty_session: Session, clock: Clock) -> None:
    send(empty_session, clock)
    rows = empty_session.execute(text("SELECT fitted_on, observed_from FROM tenure ORDER BY id")).all()
    assert [str(row.observed_from) for row in rows] == ["2024-01-01", "2026-03-01", "2024-01-01", "2025-01-01"]


def test_the_day_a_part_was_fitted_may_be_a_span(empty_session: Session, clock: Clock) -> None:
    rows = ("A-1,battery,B-1,2022-02-01,2026-03-01,2024-09-01", "A-1,slot,M-1,2022-02-01,,2023-05-01", "A-2,battery,B-1,2024-02-29,,")
    send(empty_session, clock, {"tenures": "tag,position,part,fitted_on,removed_on,fitted_until\n" + "\n".join(rows) + "\n"})
    found = empty_session.execute(text("SELECT observed_from, age_span_days, as_delivered FROM tenure ORDER BY id")).all()
    assert [str(row.observed_from) for row in found] == ["2024-09-01", "2024-01-01", "2025-01-01"]
    assert [row.age_span_days for row in found] == [943, 454, 0]
    assert not any(row.as_delivered for row in found)


def test_a_preview_writes_nothing(empty_session: Session, clock: Clock) -> None:
    report = send(empty_session, clock, write=False)
    assert (report.faults, report.written) == ([], False)
    assert empty_session.scalar(text("SELECT count(*) FROM site")) == 0


def test_templates_are_valid_files_of_their_own(empty_session: Session, clock: Clock) -> None:
    files = {f"{name}.csv": spec.template() for name, spec in FILES.items()}
    report = run_import(empty_session, files, clock=clock, author_id=None, write=True)
    assert (report.faults, report.written) == ([], True), "who begins with the templates begins with a company that goes in"


@pytest.mark.parametrize(
    ("changes", "fault"),
    [
        ({"sites": "code,name\nHQ,Headland\n"}, ("sites.csv", 0, "missing column environment")),
        ({"sites": COMPANY["sites.csv"].replace("no,5", "yes,5")}, ("sites.csv", 3, "exactly one depot")),
        ({"sites": COMPANY["sites.csv"] + "hq,Again,office,2024-01-01,no,1\n"}, ("sites.csv", 4, "the same code as in line 2")),
        ({"parts": COMPANY["parts.csv"].replace("50.00", "fifty")}, ("parts.csv", 2, "an amount such as 61.00")),
        ({"parts": COMPANY["parts.csv"].replace("20,\n", "20,0\n")}, ("parts.csv", 3, "a whole number from 1")),
        (
            {"parts": COMPANY["parts.csv"].replace("memory,Maker,10:0.5;20:0.5", "memory,Maker,9")},
            ("parts.csv", 3, "another lead time in line 2"),
        ),
        ({"models": COMPANY["models.csv"].replace("slot,memory,M-1", "slot,memory,M-9")}, ("models.csv", 3, "no part is called M-9")),
        (
            {"models": COMPANY["models.csv"].replace("notebook,battery,battery", "notebook,battery,gearbox")},
            ("models.csv", 2, "one of memory, ssd"),
        ),
        ({"assets": COMPANY["assets.csv"].replace("Nut 1,HQ", "Nut 9,HQ")}, ("assets.csv", 2, "no model is called Acorn Nut 9")),
        ({"assets": COMPANY["assets.csv"].replace("2024-02-29", "2025-02-29")}, ("assets.csv", 3, "a date such as")),
        ({"assets": COMPANY["assets.csv"].replace("2029-01-31", "2021-01-31")}, ("assets.csv", 2, "is before it went into service")),
        ({"assets": COMPANY["assets.csv"].replace("2024-02-29", "2027-01-01")}, ("assets.csv", 3, "is in the future")),
        ({"tenures": COMPANY["tenures.csv"].replace("2026-03-01,\n", "2026-02-01,\n")}, ("tenures.csv", 3, "overlaps line 2")),
        (
            {"tenures": COMPANY["tenures.csv"].replace("2022-02-01,2026-03-01", "2022-02-01,2021-03-01")},
            ("tenures.csv", 2, "is before it was fitted"),
        ),
        (
            {"tenures": "tag,position,part,fitted_on,removed_on,fitted_until\nA-1,battery,B-1,2022-02-01,2026-03-01,2022-01-01\n"},
            ("tenures.csv", 2, "is before 2022-02-01, the first day"),
        ),
        (
            {"tenures": "tag,position,part,fitted_on,removed_on,fitted_until\nA-1,battery,B-1,2022-02-01,2026-03-01,2026-04-01\n"},
            ("tenures.csv", 2, "a day no later was wanted"),
        ),
        ({"tenures": COMPANY["tenures.csv"].replace("A-2,battery", "A-7,battery")}, ("tenures.csv", 5, "no asset has the tag A-7")),
        ({"tenures": COMPANY["tenures.csv"].replace("A-1,slot", "A-1,pocket")}, ("tenures.csv", 4, "has no position pocket")),
        ({"incidents": COMPANY["incidents.csv"].replace("2026-03-01", "2026-03-02")}, ("incidents.csv", 2, "add the tenure that ended")),
        ({"incidents": COMPANY["incidents.csv"].replace("confirmed", "broken")}, ("incidents.csv", 2, "one of confirmed")),
        ({"stock": COMPANY["stock.csv"].replace("OUT,B-1,1", "OUT,B-1,-1")}, ("stock.csv", 3, "a whole number from 0")),
        ({"stock": COMPANY["stock.csv"].replace("HQ,B-1,3,", "XX,B-1,3,")}, ("stock.csv", 2, "no site is called XX")),
        ({"wishes": "a\n1\n"}, ("wishes.csv", 0, "is not one of")),
    ],
)
def test_each_fault_is_named_by_file_and_line_and_nothing_is_written(
    empty_session: Session, clock: Clock, changes: dict[str, str], fault: tuple[str, int, str]
) -> None:
    report = send(empty_session, clock, changes)
    file, line, message = fault
    assert any(f.file == file and f.line == line and message in f.message for f in report.faults), report.faults
    assert not report.written
    assert empty_session.scalar(text("SELECT count(*) FROM part")) == 0


def test_what_is_there_is_not_overwritten(empty_session: Session, clock: Clock) -> None:
    send(empty_session, clock)
    report = send(empty_session, clock)
    messages = {fault.message for fault in report.faults}
    assert {"HQ is already there: leave the row out", "B-1 is already there: leave the row out"} <= messages


def test_a_file_too_long_for_the_browser_says_what_to_do(empty_session: Session, clock: Clock) -> None:
    rows = "".join(f"OUT,B-1,1,2020-01-{1 + i % 28:02d}\n" for i in range(200))
    report = send(empty_session, clock, {"stock": "site,part,on_hand,made_on\n" + rows}, most_rows=150)
    assert any("more than 150 rows" in fault.message for fault in report.faults)


def test_no_file_at_all(empty_session: Session, clock: Clock) -> None:
    report = run_import(empty_session, {}, clock=clock, author_id=None, write=True)
    assert "no file was given" in report.faults[0].message


@pytest.mark.parametrize("cell", ["", "5 days", "10:0.5", "10:0.5;20:0.6", "-3"])
def test_a_lead_time_that_is_none(cell: str) -> None:
    with pytest.raises(CellFault):
        lead_time(cell)


def test_cells() -> None:
    assert lead_time("21") == [{"days": 21, "weight": 1.0}]
    assert str(price("61.5")) == "61.5"
    for wrong in ("61.555", "nan", "-1", "1e99"):
        with pytest.raises(CellFault):
            price(wrong)
    with pytest.raises(CellFault):
        whole(0, 5)("6")


READINGS = (
    "tag,position,read_on,full,design\nA-1,battery,2026-04-01,49.5,50\na-1,Battery,2026-05-01,49,50\nA-2,battery,2026-06-14,44.10,50\n"
)


def test_readings_find_what_was_in_the_machine_on_their_day(empty_session: Session, clock: Clock) -> None:
    report = send(empty_session, clock, {"readings": READINGS})
    assert report.faults == []
    assert report.rows["readings"] == 3
    rows = empty_session.execute(
        text(
            "SELECT a.tag, t.fitted_on, r.full / r.design FROM reading r JOIN tenure t ON t.id = r.tenure_id JOIN asset a ON a.id = t.asset_id ORDER BY r.id"
        )
    ).all()
    assert [(tag, str(fitted), round(share, 3)) for tag, fitted, share in rows] == [
        ("A-1", "2026-03-01", 0.99),
        ("A-1", "2026-03-01", 0.98),
        ("A-2", "2024-02-29", 0.882),
    ]
    later = run_import(
        empty_session,
        {"readings.csv": b"tag,position,read_on,full,design\nA-1,battery,2026-06-01,48,50\n"},
        clock=clock,
        author_id=None,
        write=True,
    )
    assert later.faults == []
    assert empty_session.scalar(text("SELECT count(*) FROM reading")) == 4


@pytest.mark.parametrize(
    ("row", "column", "cure"),
    [
        ("A-1,battery,2027-01-01,40,50", "read_on", "today is 2026-06-15"),
        ("A-1,battery,2020-01-01,40,50", "read_on", "tenures.csv"),
        ("NO-1,battery,2026-01-01,40,50", "read_on", "NO-1"),
        ("A-1,battery,2026-04-01,140,50", "full", "twice"),
        ("A-1,battery,2026-04-01,40,0", "design", "above 0"),
    ],
)
def test_a_wrong_reading_stops_the_whole_import(empty_session: Session, clock: Clock, row: str, column: str, cure: str) -> None:
    report = send(empty_session, clock, {"readings": f"tag,position,read_on,full,design\n{row}\n"})
    (fault,) = report.faults
    assert (fault.file, fault.line, fault.column) == ("readings.csv", 2, column)
    assert cure in fault.message
    assert not report.written
    assert empty_session.scalar(text("SELECT count(*) FROM reading")) == 0


def test_a_lead_time_left_out_is_its_suppliers_or_asked_for_with_the_median_beside(empty_session: Session, clock: Clock) -> None:
    head = "number,name,kind,supplier,lead_time,price,pack\n"
    rows = "B-1,Pack one,battery,Maker,10:0.5;20:0.5,50.00,2\nM-1,Module,memory,Maker,,20,\n"
    same = send(empty_session, clock, {"parts": head + rows}, write=False)
    assert same.faults == []
    others = "F-1,Fan,fan,Other,30,20,\nF-2,Fan two,fan,Third,44,20,\nF-3,Fan three,fan,Nobody,,20,\n"
    (fault,) = send(empty_session, clock, {"parts": head + rows + others}, write=False).faults
    assert (fault.line, fault.column) == (6, "lead_time")
    assert fault.message == "without it nobody can say when to order: ask Nobody; the median of the company's suppliers is 30 days"
    alone = send(empty_session, clock, {"parts": head + "B-1,Pack one,battery,Maker,,50.00,2\n"}, write=False)
    assert any(one.message.endswith("when to order: ask Maker") for one in alone.faults)
