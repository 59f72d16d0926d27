"""Machines that report by themselves: again, late, out of order, from where they are not, and about parts nobody recorded."""

from __future__ import annotations

import json
from datetime import UTC, datetime, timedelta
from itertools import pairwise
from typing import Any

import pytest
from sqlalchemy import select, text
from sqlalchemy.orm import Session

from almanac.services.clock import Clock
from almanac.services.errors import NotFound, Refused
from almanac.services.fleet.edit import By as Editor
from almanac.services.fleet.edit import retire, send_machine
from almanac.services.fleet.reports import READ_EVERY, By, Sender, Taken, settle, take_machine_report
from almanac.store import machines, reports
from almanac.store.models import Asset, MachineReport, Reading, ReportQuestion, Tenure, Unit
from tests.services.jobs import machine

NIGHT = timedelta(days=1)


def by(clock: Clock) -> By:
    return By(clock, clock.now, 1)


def sent(session: Session, clock: Clock, tag: str, at: datetime | None = None, serial: str = "", **parts: Any) -> Taken:
    words = json.dumps({"machine_report": 1, **parts})
    return take_machine_report(session, Sender(tag, serial, at), words, by(clock))


def pack_of(session: Session, tag: str, position: str) -> tuple[Tenure, Unit]:
    asset = machines.by_tag(session, tag)
    assert asset is not None
    rows = reports.held_on(session, asset.id, datetime.now(UTC).date())
    return next((tenure, unit) for tenure, place, _, unit in rows if place.key == position)


def readings(session: Session, tenure: Tenure) -> list[Reading]:
    return list(session.scalars(select(Reading).where(Reading.tenure_id == tenure.id).order_by(Reading.read_on)))


def open_words(session: Session) -> list[str]:
    return [row.question.words for row in reports.open_questions(session, most=100)[1]]


@pytest.fixture
def where(session: Session) -> tuple[str, str]:
    found, key = machine(session, "battery")
    _, unit = pack_of(session, found.tag, key)
    unit.serial = None
    session.flush()
    return found.tag, key


def test_a_report_leaves_a_serial_and_a_reading_once(session: Session, clock: Clock, where: tuple[str, str]) -> None:
    tag, key = where
    tenure, unit = pack_of(session, tag, key)
    before = len(readings(session, tenure))
    pack = {"design_wh": 60, "full_wh": 51, "cycles": 212, "serial": "NIGHT-1"}
    taken = sent(session, clock, tag, clock.now, pack=pack)
    assert (taken.tag, taken.again, taken.asked) == (tag, False, [])
    assert unit.serial == "NIGHT-1"
    found = readings(session, tenure)
    assert len(found) == before + 1
    assert (found[-1].full, found[-1].design, found[-1].cycles, found[-1].read_on) == (51, 60, 212, clock.today)
    again = sent(session, clock, tag, clock.now, pack=pack)
    assert again.again
    assert len(readings(session, tenure)) == before + 1


def test_a_part_is_read_once_a_week_however_often_it_reports(session: Session, clock: Clock, where: tuple[str, str]) -> None:
    tag, key = where
    tenure, _ = pack_of(session, tag, key)
    tenure.fitted_on = min(tenure.fitted_on, clock.today - timedelta(days=200))
    tenure.observed_from = max(tenure.observed_from, tenure.fitted_on)
    session.execute(text("ALTER TABLE reading DISABLE TRIGGER append_only"))
    session.execute(text("DELETE FROM reading WHERE tenure_id = :t"), {"t": tenure.id})
    for night in range(30):
        sent(session, clock, tag, clock.now - NIGHT * (30 - night), pack={"design_wh": 60, "full_wh": 55 - night / 10})
    days = [row.read_on for row in readings(session, tenure)]
    assert len(days) == 5
    assert all(later - earlier >= READ_EVERY for earlier, later in pairwise(days))


def test_a_late_report_adds_what_it_read_and_leaves_the_last_one(session: Session, clock: Clock, where: tuple[str, str]) -> None:
    tag, key = where
    tenure, unit = pack_of(session, tag, key)
    tenure.fitted_on = min(tenure.fitted_on, clock.today - timedelta(days=200))
    tenure.observed_from = max(tenure.observed_from, tenure.fitted_on)
    unit.serial = "MINE"
    sent(session, clock, tag, clock.now, pack={"design_wh": 60, "full_wh": 40, "serial": "MINE"})
    late = clock.now - timedelta(days=60)
    taken = sent(session, clock, tag, late, pack={"design_wh": 60, "full_wh": 50, "serial": "ANOTHER"})
    assert taken.asked == []
    asset = machines.by_tag(session, tag)
    assert asset is not None
    kept = reports.report_of(session, asset.id, None)
    assert kept is not None
    assert kept.reported_at == clock.now
    assert kept.said["packs"][0]["full_wh"] == 40
    assert late.date() not in [row.read_on for row in readings(session, tenure)]
    sent(session, clock, tag, late, pack={"design_wh": 60, "full_wh": 50, "serial": "MINE"})
    assert late.date() in [row.read_on for row in readings(session, tenure)]


def test_another_serial_is_asked_until_the_record_or_the_machine_says_otherwise(
    session: Session, clock: Clock, where: tuple[str, str]
) -> None:
    tag, key = where
    _, unit = pack_of(session, tag, key)
    unit.serial = "ON-RECORD"
    pack = {"design_wh": 60, "full_wh": 51, "serial": "SWAPPED"}
    for night in range(3):
        taken = sent(session, clock, tag, clock.now - NIGHT * (3 - night), pack=pack)
    assert len(taken.asked) == 1
    assert "says serial SWAPPED, on record is ON-RECORD" in taken.asked[0]
    assert open_words(session) == taken.asked
    unit.serial = "SWAPPED"
    assert sent(session, clock, tag, clock.now, pack=pack).asked == []
    row = session.scalars(select(ReportQuestion)).one()
    assert (row.answer, row.raised_on, row.said_last_on) == ("recorded", clock.today, clock.today)
    unit.serial = "ON-RECORD"
    sent(session, clock, tag, clock.now + timedelta(minutes=1), pack=pack)
    sent(session, clock, tag, clock.now + timedelta(minutes=2), pack={**pack, "serial": "ON-RECORD"})
    assert [row.answer for row in session.scalars(select(ReportQuestion).order_by(ReportQuestion.id))] == ["recorded", "no_longer"]


def test_what_a_person_settled_is_not_asked_again(session: Session, clock: Clock, where: tuple[str, str]) -> None:
    tag, key = where
    _, unit = pack_of(session, tag, key)
    unit.serial = "ON-RECORD"
    sent(session, clock, tag, clock.now - NIGHT, pack={"design_wh": 60, "serial": "0000"})
    number = reports.open_questions(session, most=1)[1][0].question.id
    with pytest.raises(Refused, match="why it is as on record"):
        settle(session, number, "  ", by(clock))
    settle(session, number, "its gauge makes serials up", by(clock))
    assert sent(session, clock, tag, clock.now, pack={"design_wh": 60, "serial": "0000"}).asked == []
    with pytest.raises(NotFound):
        settle(session, number, "once more", by(clock))


def test_a_machine_that_moved_between_two_reports_keeps_its_readings(session: Session, clock: Clock, where: tuple[str, str]) -> None:
    tag, key = where
    tenure, _ = pack_of(session, tag, key)
    sent(session, clock, tag, clock.now - timedelta(days=20), pack={"design_wh": 60, "full_wh": 52})
    asset = machines.by_tag(session, tag)
    assert asset is not None
    here = machines.stands_at(session, asset.id)
    other = next(code for code in ("GUL", "BRA") if code != here)
    changes = session.scalar(text("SELECT count(*) FROM catalog_change WHERE subject = :s"), {"s": f"machine {tag}"}) or 0
    send_machine(session, tag, other, clock.today - timedelta(days=5), Editor(clock, 1, changes))
    assert sent(session, clock, tag, clock.now, pack={"design_wh": 60, "full_wh": 51}).asked == []
    assert readings(session, tenure)[-1].full == 51


def test_a_retired_machine_that_reports_is_asked_about_and_nothing_is_written(
    session: Session, clock: Clock, where: tuple[str, str]
) -> None:
    tag, key = where
    tenure, _ = pack_of(session, tag, key)
    changes = session.scalar(text("SELECT count(*) FROM catalog_change WHERE subject = :s"), {"s": f"machine {tag}"}) or 0
    retire(session, tag, clock.today, Editor(clock, 1, changes))
    before = len(readings(session, tenure))
    taken = sent(session, clock, tag, clock.now, pack={"design_wh": 60, "full_wh": 52, "serial": "X"})
    assert taken.written == []
    assert "was retired on" in taken.asked[0]
    assert len(readings(session, tenure)) == before


def test_a_part_of_which_nothing_was_on_record_is_met(session: Session, clock: Clock, where: tuple[str, str]) -> None:
    tag, key = where
    tenure, _ = pack_of(session, tag, key)
    part_id, position = tenure.part_id, tenure.position_id
    size = session.scalar(text("SELECT facts->'energy_wh' FROM part WHERE id = :p"), {"p": part_id})
    wh = float(size[0]["value"] if isinstance(size, list) else size["value"] if isinstance(size, dict) else size)
    fitting = session.scalars(text("SELECT part_id FROM fits WHERE position_id = :p AND verdict = 'yes'"), {"p": position}).all()
    asset = session.get_one(Asset, tenure.asset_id)
    for table in ("reading", "event_line"):
        session.execute(text(f"ALTER TABLE {table} DISABLE TRIGGER ALL"))
    session.execute(
        text("DELETE FROM reading WHERE tenure_id IN (SELECT id FROM tenure WHERE asset_id = :a AND position_id = :p)"),
        {"a": asset.id, "p": position},
    )
    session.execute(
        text(
            "UPDATE event_line SET removed_tenure_id = NULL WHERE removed_tenure_id IN (SELECT id FROM tenure WHERE asset_id = :a AND position_id = :p)"
        ),
        {"a": asset.id, "p": position},
    )
    session.execute(text("DELETE FROM tenure WHERE asset_id = :a AND position_id = :p"), {"a": asset.id, "p": position})
    session.expire_all()
    taken = sent(session, clock, tag, clock.now, pack={"design_wh": wh, "full_wh": wh * 0.9, "serial": "FOUND-1"})
    if len(fitting) != 1:
        pytest.skip("several packs of this size fit here")
    assert "of which nothing was on record" in taken.written[0]
    found, own = pack_of(session, tag, key)
    assert (found.part_id, own.serial, found.as_delivered, found.fitted_on) == (part_id, "FOUND-1", True, asset.in_service_on)
    assert found.age_span_days == (found.observed_from - found.fitted_on).days
    assert readings(session, found)[-1].full == wh * 0.9


def test_a_machine_that_is_not_on_record_is_remembered_by_what_it_calls_itself(session: Session, clock: Clock) -> None:
    assert sent(session, clock, "", serial="NOBODYS-1", pack={"design_wh": 60, "full_wh": 52}).tag is None
    assert (
        sent(session, clock, "", serial="NOBODYS-1", at=clock.now + timedelta(hours=1), pack={"design_wh": 60, "full_wh": 51}).tag is None
    )
    assert [row.calls_itself for row in reports.strangers(session, most=5)] == ["NOBODYS-1"]


def test_a_machine_whose_clock_stood_still_is_told_so(session: Session, clock: Clock, where: tuple[str, str]) -> None:
    """A clock that lost its cell says 1970: nothing was on record then, and nothing of that is a contradiction."""
    with pytest.raises(Refused, match="set the machine's clock"):
        sent(session, clock, where[0], datetime(1970, 1, 1, tzinfo=UTC), pack={"design_wh": 60, "full_wh": 50, "serial": "X"})
    assert open_words(session) == []


def test_a_machine_is_known_by_its_serial_and_never_by_two_machines(session: Session, clock: Clock) -> None:
    rows = session.scalars(select(Asset).where(Asset.serial.is_not(None), Asset.retired_on.is_(None)).order_by(Asset.id).limit(2)).all()
    assert sent(session, clock, "", serial=str(rows[0].serial).lower(), pack=None).tag == rows[0].tag
    with pytest.raises(Refused, match="its serial is on record of"):
        sent(session, clock, rows[0].tag, serial=str(rows[1].serial), pack=None)


@pytest.mark.parametrize(
    ("sender", "words", "told"),
    [
        (Sender("", "", None), "{}", "tag or its serial"),
        (Sender("x" * 61, "", None), '{"machine_report": 1}', "up to 60 letters"),
        (Sender("SK-0001", "", None), "  ", "the report is empty"),
        (Sender("SK-0001", "", None), "nothing a tool prints", "nothing was understood"),
        (Sender("SK-0001", "", datetime(2026, 10, 1)), '{"machine_report": 1}', "with its time zone"),  # noqa: DTZ001 -- the fault itself
        (Sender("SK-0001", "", datetime(2039, 10, 1, tzinfo=UTC)), '{"machine_report": 1}', "set the machine's clock"),
    ],
)
def test_what_cannot_be_taken_says_why(session: Session, clock: Clock, sender: Sender, words: str, told: str) -> None:
    text_ = words if words != "{}" else '{"machine_report": 1}'
    with pytest.raises(Refused, match=told):
        take_machine_report(session, sender, text_, by(clock))
    assert session.scalars(select(MachineReport)).all() == []


def test_memory_on_the_board_that_is_on_no_record_is_no_contradiction(session: Session, clock: Clock) -> None:
    tag = session.scalar(
        text("""SELECT a.tag FROM asset a JOIN position p ON p.model_id = a.model_id AND p.kind = 'memory' AND p.serviceability = 'soldered'
                WHERE a.retired_on IS NULL AND NOT EXISTS (SELECT 1 FROM tenure t WHERE t.asset_id = a.id AND t.position_id = p.id)
                AND EXISTS (SELECT 1 FROM tenure t JOIN part q ON q.id = t.part_id WHERE t.asset_id = a.id AND q.kind = 'memory'
                AND t.removed_on IS NULL) ORDER BY a.id LIMIT 1""")
    )
    assert tag is not None
    assert sent(session, clock, tag, memory={"installed_gb": 96}).asked == []
