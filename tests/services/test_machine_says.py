"""What machines say at the bench: accepted against what was agreed, and kept on record with the closing."""

from __future__ import annotations

import json
from dataclasses import replace
from datetime import timedelta
from typing import Any

import pytest
from sqlalchemy import select, text
from sqlalchemy.orm import Session

from almanac.core.workbench.acceptance import Comparison
from almanac.core.workbench.closing import checks_of
from almanac.services.clock import Clock
from almanac.services.errors import Refused
from almanac.services.workbench.heard import keep_reported, what_it_said
from almanac.services.workbench.report import ask_stand_in, comparisons, take_report
from almanac.store import assets
from almanac.store.models import Part, Reading, Tenure, Unit
from tests.services.jobs import Worker, machine, opened, replaced


def says(worker: Worker, **parts: Any) -> list[Comparison]:
    words = json.dumps({"machine_report": 1, **parts})
    return take_report(worker.session, worker.job_id, words, device=worker.device, clock=worker.clock)


def held(worker: Worker, position: str) -> tuple[Tenure, Unit]:
    job = worker.job.row.job
    place = next(row.id for row in assets.positions_of_model(worker.session, job.model_id) if row.key == position)
    tenure, _, unit = assets.open_tenures(worker.session, job.asset_id)[place]
    return tenure, unit


def readings(worker: Worker, tenure: Tenure) -> list[tuple[float, float]]:
    today = worker.clock.today
    rows = worker.session.scalars(select(Reading).where(Reading.tenure_id == tenure.id, Reading.read_on == today).order_by(Reading.id))
    return [(row.full, row.design) for row in rows]


def test_a_report_of_before_does_not_stand_for_one_after_the_swap(session: Session, clock: Clock) -> None:
    where, key = machine(session, "battery")
    worker = opened(session, clock, where.tag, key)
    old, unit = held(worker, key)
    unit.serial = None
    says(worker, pack={"design_wh": 60.1, "full_wh": 33, "charging": False, "serial": "OLD-1"})
    assert what_it_said(session, worker.job.row.job, worker.job.standing).before == [
        "pack made for 60.1 Wh, full at 33 Wh (55%), serial OLD-1"
    ]
    worker.finishes(where.part)
    taken = says(worker, pack={"design_wh": 60.1, "full_wh": 59.5, "charging": True, "serial": "NEW-1"})
    assert [row.answer.verdict for row in taken if row.what == "pack"] == ["yes"]
    worker.closes(replaced(key, where), accept_reason="memory is not told")
    new, fresh = held(worker, key)
    assert new.id != old.id
    assert [str(one.serial) for one in (unit, fresh)] == ["OLD-1", "NEW-1"]
    assert readings(worker, old) == [(33, 60.1)]
    assert readings(worker, new) == [(59.5, 60.1)]


def test_a_swap_without_a_report_after_it_wants_a_reason(session: Session, clock: Clock) -> None:
    where, key = machine(session, "battery")
    worker = opened(session, clock, where.tag, key)
    says(worker, pack={"design_wh": 60.1, "full_wh": 33})
    worker.until("", where.part)
    worker.says("check", **dict.fromkeys(checks_of(worker.job.plan), True))
    with pytest.raises(Refused, match="has not reported"):
        worker.closes(replaced(key, where))


def test_another_serial_than_on_record_is_asked_and_written_nowhere(session: Session, clock: Clock) -> None:
    where, key = machine(session, "battery")
    worker = opened(session, clock, where.tag, key)
    tenure, unit = held(worker, key)
    unit.serial = "AS-WRITTEN"
    says(worker, pack={"design_wh": 60.1, "full_wh": 33, "serial": "AS-READ"})
    said = what_it_said(session, worker.job.row.job, worker.job.standing)
    assert said.questions == [f"{_label(worker, key)} says serial AS-READ, on record is AS-WRITTEN: was it changed without a record?"]
    worker.finishes(where.part)
    worker.closes(replaced(key, where), accept_reason="it is as it is")
    assert unit.serial == "AS-WRITTEN"
    assert readings(worker, tenure) == []
    assert worker.job.journal[-1].entry.data["questions"] == said.questions


def test_a_serial_that_is_on_another_unit_is_not_given_to_two(session: Session, clock: Clock) -> None:
    where, key = machine(session, "battery")
    worker = opened(session, clock, where.tag, key)
    unit = held(worker, key)[1]
    other = session.scalar(select(Unit).where(Unit.id != unit.id, Unit.part_id == unit.part_id, Unit.serial.is_not(None)))
    assert other is not None
    unit.serial = None
    says(worker, pack={"design_wh": 60.1, "full_wh": 33, "serial": other.serial})
    worker.finishes(where.part)
    worker.closes(replaced(key, where), accept_reason="read as it is")
    assert unit.serial is None
    assert worker.job.journal[-1].entry.data["questions"] == [f"serial {other.serial} is on record of another unit: it was not written"]


def test_a_reading_is_of_the_day_the_machine_reported(session: Session, clock: Clock) -> None:
    where, key = machine(session, "battery")
    worker = opened(session, clock, where.tag, key)
    old, unit = held(worker, key)
    unit.serial = None
    says(worker, pack={"design_wh": 60.1, "full_wh": 33})
    worker.finishes(where.part)
    said = worker.job.standing.report_before
    assert said is not None
    later = Clock(clock.today + timedelta(days=3), clock.now + timedelta(days=3))
    keep_reported(session, worker.job.row.job, said, clock=later, author_id=2)
    assert readings(worker, old) == [(33, 60.1)]
    keep_reported(session, worker.job.row.job, {**said, "on": "2001-01-01"}, clock=later, author_id=2)
    first = session.scalar(select(Reading).where(Reading.tenure_id == old.id, Reading.read_on == old.fitted_on))
    assert first is not None, "no part is read before it went in"


def _label(worker: Worker, key: str) -> str:
    return next(row.label for row in assets.positions_of_model(worker.session, worker.job.row.job.model_id) if row.key == key)


def test_another_module_than_agreed_does_not_pass_because_it_was_fitted(session: Session, clock: Clock) -> None:
    where, key = machine(session, "memory")
    other, size, fitted = ("LM-16320", 8, 16) if where.part == "LM-8320" else ("LM-8320", 16, 8)
    worker = opened(session, clock, where.tag, key)
    worker.until("", other)
    (row,) = comparisons(session, worker.job.row.job, worker.job.standing)
    assert (row.planned, row.reported, row.answer.verdict) == (where.part, other, "no")
    assert row.answer.reason == f"agreed was another one: {size} GB agreed, {fitted} GB fitted"
    total = 16 + fitted  # soldered, and what went in: as fitted, and not as agreed
    rows = {item.what: item.answer.verdict for item in says(worker, memory={"installed_gb": total})}
    assert rows["memory"] == "no"
    worker.says("check", **dict.fromkeys(checks_of(worker.job.plan), True))
    with pytest.raises(Refused, match="agreed was another one"):
        worker.closes(replaced(key, where))


@pytest.mark.parametrize("purpose", ["repair", "upgrade"])
def test_of_an_upgrade_only_what_was_said_is_agreed(session: Session, clock: Clock, purpose: str) -> None:
    where, key = machine(session, "memory")
    other = "LM-16320" if where.part == "LM-8320" else "LM-8320"
    worker = opened(session, clock, where.tag, key, purpose=purpose)
    worker.until("", other)
    assert len(comparisons(session, worker.job.row.job, worker.job.standing)) == (purpose == "repair")
    agreed = opened(session, clock, machine_of(session, where.tag), key, purpose=purpose, agreed_parts={key: other})
    agreed.until("", other)
    assert comparisons(session, agreed.job.row.job, agreed.job.standing) == []


def machine_of(session: Session, tag: str) -> str:
    """Another machine of the same model and site."""
    query = text(
        "SELECT b.tag FROM asset a JOIN asset b ON b.model_id = a.model_id AND b.id <> a.id AND b.retired_on IS NULL "
        "WHERE a.tag = :tag AND NOT EXISTS (SELECT 1 FROM job j WHERE j.asset_id = b.id) ORDER BY b.id LIMIT 1"
    )
    return str(session.scalar(query, {"tag": tag}))


def test_what_was_agreed_at_the_opening_is_what_is_accepted(session: Session, clock: Clock) -> None:
    where, key = machine(session, "memory")
    with pytest.raises(Refused, match="no part has the number GHOST"):
        opened(session, clock, where.tag, key, agreed_parts={key: "GHOST"})
    with pytest.raises(Refused, match="no position ghost"):
        opened(session, clock, where.tag, key, agreed_parts={"ghost": where.part})
    worker = opened(session, clock, where.tag, key, agreed_parts={key: f" {where.part.lower()} "})
    assert worker.job.standing.agreed_parts == {key: where.part}
    worker.finishes(where.part)
    assert all(row.answer.verdict == "yes" for row in comparisons(session, worker.job.row.job, worker.job.standing))
    ask_stand_in(session, worker.job_id, fault="memory", device=worker.device, clock=clock)
    assert {row.what for row in comparisons(session, worker.job.row.job, worker.job.standing) if row.answer.verdict == "no"} == {"memory"}


def test_what_closes_is_what_the_journal_says(session: Session, clock: Clock) -> None:
    where, key = machine(session, "memory")
    worker = opened(session, clock, where.tag, key)
    worker.until(f"swap:{key}")
    worker.does(where.part, serial="LM1", removed_serial="LM0")
    worker.finishes(where.part)
    with pytest.raises(Refused, match="at the bench its serial was LM1, the closing says LM2: correct it in the journal"):
        worker.closes(replaced(key, where, serial="LM2"))
    with pytest.raises(Refused, match="at the bench its part was"):
        worker.closes(replaced(key, replace(where, part="OF-P14")))
    worker.closes(replaced(key, where))
    assert held(worker, key)[1].serial == "LM1"


def test_a_correction_reaches_part_and_serials(session: Session, clock: Clock) -> None:
    where, key = machine(session, "memory")
    other = "LM-16320" if where.part == "LM-8320" else "LM-8320"
    worker = opened(session, clock, where.tag, key, agreed_parts={key: other})
    unit = held(worker, key)[1]
    unit.serial = None
    worker.until(f"swap:{key}")
    worker.does(where.part, serial="LM1")
    assert worker.sends("correct", position=key, serial="LM2").reasons == ["say why it is corrected: what was misread, or mistyped"]
    assert worker.sends("correct", position=key, reason="slip").reasons[0].startswith("say what is corrected")
    assert worker.sends("correct", position="drive", serial="x", reason="slip").reasons[0].startswith("nothing was fitted there")
    worker.says("correct", position=key, part_number=other, serial="LM2", removed_serial="LM0", reason="read the wrong label")
    worker.finishes()
    rows = comparisons(session, worker.job.row.job, worker.job.standing)
    assert [row.what for row in rows if row.answer.verdict == "no"] == []
    line = replaced(key, replace(where, part=other), source="on_hand")
    worker.closes(line, confirmed=frozenset({"fit", "stock", "lot", "duplicate"}), accept_reason="as corrected")
    tenure, fresh = held(worker, key)
    part = session.get_one(Part, tenure.part_id)
    assert [part.number, fresh.serial, unit.serial] == [other, "LM2", "LM0"]


def test_a_sink_that_was_off_shows_in_the_heat(session: Session, clock: Clock) -> None:
    where, key = machine(session, "fan")
    worker = opened(session, clock, where.tag, key)
    says(worker, hottest_c=84)
    worker.until("", where.part)
    (row,) = [row for row in says(worker, hottest_c=92, fans=[{"rpm": 2400}]) if row.what == "processor"]
    assert (row.planned, row.reported, row.answer.verdict) == ("84 °C before", "92 °C", "unknown")
    (row,) = [row for row in says(worker, hottest_c=61) if row.what == "processor"]
    assert row.answer.verdict == "yes"
    assert [row for row in says(worker, fans=[{"rpm": 2400}]) if row.what == "processor"] == []
