"""The bench's day: every job says where it stands, what it waits for and when that comes; what comes up stands beside it."""

from __future__ import annotations

from datetime import date, timedelta

import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.core.parts.declared.kinds import WORN
from almanac.core.workbench.approvals import Approval
from almanac.services.clock import Clock
from almanac.services.stores.acts import MoveRequest, Recorded, do
from almanac.services.workbench.approve import ApprovalRequest, ask_approval
from almanac.services.workbench.day import DayJob, read_day
from almanac.services.workbench.planning import PlanRequest
from tests.services.jobs import Worker, machine, opened


@pytest.fixture
def worker(session: Session, clock: Clock) -> Worker:
    where, key = machine(session, "fan")
    return opened(session, clock, where.tag, key)


def of(worker: Worker) -> DayJob:
    return next(job for job in read_day(worker.session, clock=worker.clock).jobs if job.row.job.id == worker.job_id)


def test_a_job_says_its_step_and_what_lies_beside_the_machine(worker: Worker) -> None:
    begun = of(worker)
    assert begun.way is not None
    assert (begun.stands, begun.note, begun.tone) == (f"step 1 of {begun.way.steps}", "nothing is out", "ready")
    assert begun.targets == ["Fan, left"]
    while not worker.job.standing.leads_off:
        worker.does()
    went = of(worker)
    done = len(worker.job.standing.done)
    assert (went.stands, went.tone) == (f"step {done + 1} of {begun.way.steps}", "goes")
    assert "screws and" in went.note
    assert went.note.endswith("out")
    worker.until("")
    assert of(worker).stands == "to be closed"


def test_one_that_is_parked_says_how_it_was_left(worker: Worker) -> None:
    worker.does()
    worker.says("park", words="called to the ferry", screws_where="box 3", isolated=True)
    parked = of(worker)
    assert (parked.stands, parked.note, parked.tone) == ("parked", "called to the ferry; screws: box 3", "waits")


def test_one_that_waits_says_what_comes_and_when_or_that_nothing_does(session: Session, worker: Worker, technician: Recorded) -> None:
    worker.says("wait", **{"for": "part"})
    assert of(worker).note == "its number was not said: nobody knows when it comes"
    site = str(session.scalar(text("SELECT s.code FROM job j JOIN site s ON s.id = j.site_id WHERE j.id = :id"), {"id": worker.job_id}))
    waits = opened(session, worker.clock, other_machine(session, site), "fan_left")
    number = "OF-P14"
    free = int(session.scalar(text(FREE), {"part": number, "site": site}) or 0)
    if free:
        do(session, MoveRequest(number, site, "scrap", free, "crushed"), Recorded(worker.clock, 1, is_lead=True))
    session.execute(
        text("UPDATE purchase_line SET cancelled = quantity WHERE part_id = (SELECT id FROM part WHERE number = :n)"), {"n": number}
    )
    waits.says("wait", **{"for": "part", "part_number": number})
    nothing = of(waits)
    assert (nothing.stands, nothing.note, nothing.tone) == (f"waits for {number}", "nothing is on its way: order or send one", "stopped")
    session.execute(text("UPDATE purchase_line SET cancelled = 0 WHERE part_id = (SELECT id FROM part WHERE number = :n)"), {"n": number})
    coming = of(waits)
    assert coming.note.startswith("comes on ")
    assert coming.tone == "waits"
    do(session, MoveRequest(number, site, "found", 1, "behind the rack"), technician)
    assert of(waits).note == "it lies there, kept for this machine"


FREE = """SELECT sum(m.quantity) FROM stock_move m JOIN shelf h ON h.id = m.shelf_id JOIN part p ON p.id = h.part_id JOIN site s ON s.id = h.site_id
          WHERE m.bucket = 'on_hand' AND p.number = :part AND s.code = :site"""


def other_machine(session: Session, site: str) -> str:
    return str(
        session.scalar(
            text("""SELECT a.tag FROM asset a JOIN device_model m ON m.id = a.model_id AND m.name = 'Packet 14'
                    JOIN asset_stay y ON y.asset_id = a.id AND y.until_on IS NULL JOIN site s ON s.id = y.site_id AND s.code = :site
                    WHERE a.retired_on IS NULL AND NOT EXISTS (SELECT 1 FROM job j WHERE j.asset_id = a.id) ORDER BY a.id DESC LIMIT 1"""),
            {"site": site},
        )
    )


def test_an_approval_a_danger_and_a_diagnosis_are_told(session: Session, clock: Clock, worker: Worker) -> None:
    ask_approval(session, worker.job_id, ApprovalRequest(Approval.WAIVE, "power", "its button is stuck"), clock=clock, author_id=2)
    asked = of(worker)
    assert (asked.stands, asked.note, asked.tone) == ("waits for an approval", "asked about: power", "waits")
    worker.says("danger", signs=["swollen"])
    stopped = of(worker)
    assert (stopped.stands, stopped.tone) == ("stopped", "stopped")
    assert "swollen" in stopped.note
    where, _ = machine(session, "ssd", "Halyard 14")
    unknown = opened(session, clock, where.tag, plan=PlanRequest(()))
    assert (of(unknown).stands, of(unknown).note, of(unknown).way) == ("diagnosis", "no test done yet", None)


def test_what_is_worn_by_its_readings_is_shown_until_somebody_works_on_it(session: Session, clock: Clock) -> None:
    before = read_day(session, clock=clock)
    tags = [unit.tag for unit, _ in before.worn]
    assert tags
    assert all(unit.share < limit + 0.03 for unit, limit in before.worn)
    assert [unit.share for unit, _ in before.worn] == sorted(unit.share for unit, _ in before.worn)
    session.execute(
        text("""INSERT INTO reading (tenure_id, read_on, "full", design, recorded_at, withdrawn)
                SELECT r.tenure_id, '2026-10-31', r.design * 0.5, r.design, now(), false FROM reading r JOIN tenure t ON t.id = r.tenure_id
                JOIN asset a ON a.id = t.asset_id WHERE a.tag = :tag ORDER BY r.id DESC LIMIT 1"""),
        {"tag": tags[-1]},
    )
    worst, limit = read_day(session, clock=clock).worn[0]
    assert (worst.tag, round(worst.share, 2), limit) == (tags[-1], 0.5, 0.7)
    opened(session, clock, tags[-1], "battery")
    after = read_day(session, clock=clock)
    assert tags[-1] not in [unit.tag for unit, _ in after.worn]
    assert after.worn_count == before.worn_count - 1


def test_a_part_is_worn_where_the_company_says_it_is(session: Session, clock: Clock) -> None:
    before = read_day(session, clock=clock)
    number = before.worn[0][0].part_number
    session.execute(
        text("""INSERT INTO setting (scope, scope_key, key, number, value, from_on, recorded_at)
                VALUES ('part', :number, :key, 1, to_jsonb(0.5), '2020-01-01', now())"""),
        {"number": number, "key": WORN["battery"].setting},
    )
    after = read_day(session, clock=clock)
    assert number not in [unit.part_number for unit, _ in after.worn]
    assert after.worn_count == before.worn_count - sum(unit.part_number == number for unit, _ in before.worn)


def test_planned_swaps_stand_there_with_what_is_kept_for_them(session: Session, clock: Clock) -> None:
    (swap,) = read_day(session, clock=clock).swaps
    assert (swap.quantity, swap.planned_on) == (10, date(2027, 3, 15))
    assert 0 <= swap.kept <= swap.quantity
    moved = "UPDATE fleet_plan SET planned_on = :day WHERE action = 'swap'"
    for days, shown in ((-31, 0), (-30, 1), (183, 1), (184, 0)):
        session.execute(text(moved), {"day": clock.today + timedelta(days=days)})
        assert len(read_day(session, clock=clock).swaps) == shown
    session.execute(text(moved), {"day": clock.today})
    session.execute(text("UPDATE fleet_plan SET withdrawn_at = recorded_at WHERE action = 'swap'"))
    assert read_day(session, clock=clock).swaps == []
