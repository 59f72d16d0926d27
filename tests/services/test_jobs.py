"""A job from its opening to its effects, on the demo company's machines and PostgreSQL."""

from __future__ import annotations

from datetime import timedelta
from typing import Any
from uuid import uuid4

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.core.life.outcomes import Finding
from almanac.core.workbench.approvals import Approval
from almanac.core.workbench.closing import checks_of
from almanac.services.clock import Clock
from almanac.services.errors import NeedsConfirmation, NotFound, Refused, Stale
from almanac.services.ledger.read import read_card, read_history
from almanac.services.ledger.record import LineRequest
from almanac.services.pages.plan import learnt_of
from almanac.services.workbench import sheets
from almanac.services.workbench.after import AbandonRequest, SettleRequest, abandon_job, add_custody, reopen_job, settle_job
from almanac.services.workbench.close import CloseLine
from almanac.services.workbench.heard import Said
from almanac.services.workbench.lease import Device, release_lease, take_lease
from almanac.services.workbench.open import change_targets
from almanac.services.workbench.planning import PlanRequest
from almanac.services.workbench.read import gate_rules, read_job, read_jobs
from almanac.services.workbench.report import ask_stand_in, take_report
from almanac.store.units import custody
from almanac.web.views.job_words import job_view
from tests.core.workbench.bench import ANSWERS
from tests.services.helpers import in_bucket, units
from tests.services.jobs import Worker, machine, opened, replaced
from tests.services.test_finds import finds


def test_a_whole_job_changes_machine_shelf_and_log_together(session: Session, clock: Clock) -> None:
    where, key = machine(session, "fan")
    before, on_hand = units(session), in_bucket(session, where.part, "on_hand")
    worker = opened(session, clock, where.tag, key)
    worker.finishes(where.part)
    assert [item.row.job.id for item in [worker.job]] == [job.job.id for job in read_jobs(session, ended=False)][:1]
    done = worker.closes(replaced(key, where), note="blades worn")
    assert done.incident_id is not None
    entry = read_history(session, done.incident_id)[0]
    assert (entry.finding, entry.reason, entry.minutes) == ("open", "stops under load", worker.minute - 1)
    assert (entry.lines[0].fitted_part, entry.lines[0].removed_part) == (where.part, where.part)
    assert units(session) == before
    assert in_bucket(session, where.part, "on_hand") == on_hand - 1
    reading = read_job(session, worker.job_id, clock=clock)
    assert reading.standing.state == "closed"
    assert reading.row.job.lease_device is None
    assert read_jobs(session, ended=True)[0].job.id == worker.job_id


def test_a_failure_nobody_noticed_is_closed_with_the_day_it_was_last_seen_in_order(session: Session, clock: Clock) -> None:
    where, key = machine(session, "fan")
    worker = opened(session, clock, where.tag, key)
    worker.finishes(where.part)
    found = len(finds(session))
    with pytest.raises(Refused, match="name an earlier day"):
        worker.closes(replaced(key, where), last_good_on=clock.today)
    assert read_job(session, worker.job_id, clock=clock).standing.state != "closed"
    done = worker.closes(replaced(key, where), last_good_on=clock.today - timedelta(days=40))
    assert done.incident_id is not None
    assert read_history(session, done.incident_id)[-1].last_good_on == clock.today - timedelta(days=40)
    assert len(finds(session)) == found + 1


@settings(max_examples=12, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    st.sampled_from([("fan", "Packet 14"), ("memory", "Packet 14"), ("ssd", "Halyard 12"), ("battery", "Packet 15"), ("fan", "Bollard")]),
    st.sampled_from(["open", "damage", "no_fault_found", "upgrade", "preventive"]),
    st.sampled_from([None, "scrapped", "quarantine", "returned", "harvested"]),
    st.booleans(),
)
def test_units_are_conserved_under_every_job(
    session: Session, clock: Clock, what: tuple[str, str], finding: str, bucket: str | None, refit: bool
) -> None:
    """Fitted + on hand + harvested + quarantined + scrapped + returned is the same before and after every job."""
    nested = session.begin_nested()
    where, key = machine(session, *what)
    before = units(session)
    worker = opened(session, clock, where.tag, key)
    worker.finishes(None if refit else where.part)
    line = CloseLine(key, LineRequest(0, "kept")) if refit else replaced(key, where, removed_to=bucket, custody="cabinet 2, R. Pell")
    done = worker.closes(line, finding=finding)
    assert units(session) == before
    assert done.incident_id is not None
    reopen_job(session, worker.job_id, "again", clock=clock, author_id=2)
    assert units(session) == before
    assert read_history(session, done.incident_id)[-1].finding == finding
    nested.rollback()


def test_what_is_missing_blocks_the_closing_by_name(session: Session, clock: Clock) -> None:
    where, key = machine(session, "fan")
    worker = opened(session, clock, where.tag, key)
    while not worker.job.beneath:
        step = worker.job.next_step
        assert step is not None
        leads = {"leads": [lead.name for lead in step.leads if "fan" not in lead.name]} if step.phase == "closing" else {}
        worker.does(where.part, **leads)
    cover = worker.job.next_step
    assert cover is not None
    assert worker.sends("step", step=cover.id).reasons[0].startswith("before this step") or worker.job.gates == ()
    worker.passes_gates()
    assert worker.sends("step", step=cover.id).reasons == ["fan lead beneath this is still off"]
    with pytest.raises(Refused) as caught:
        worker.closes(replaced(key, where))
    words = [fault.message for fault in caught.value.faults]
    assert any("still off" in word and "fan lead" in word for word in words)
    assert sum("not checked" in word for word in words) == len(checks_of(worker.job.plan)) == 3
    assert any("not done" in word for word in words)


def test_a_figure_that_differs_closes_only_with_a_reason(session: Session, clock: Clock) -> None:
    where, key = machine(session, "memory")
    worker = opened(session, clock, where.tag, key)
    worker.finishes(where.part)
    figures = ask_stand_in(session, worker.job_id, fault="memory", device=worker.device, clock=clock)
    assert [item.answer.verdict for item in figures if item.what == "memory"] == ["no"]
    with pytest.raises(Refused, match="reseat the module"):
        worker.closes(replaced(key, where))
    assert worker.closes(replaced(key, where), accept_reason="second slot is dead, owner agrees").incident_id


def test_a_report_is_read_from_several_forms(session: Session, clock: Clock) -> None:
    where, key = machine(session, "memory")
    worker = opened(session, clock, where.tag, key)
    with pytest.raises(Refused, match="line 1, column 2: no JSON"):
        take_report(session, worker.job_id, "{oops", device=worker.device, clock=clock)
    figures = take_report(session, worker.job_id, "Size: 16 GB\nSize: 8 GB\n", device=worker.device, clock=clock)
    assert figures[0].reported == "24 GB"


def test_an_entry_sent_twice_is_one_entry_and_a_refused_one_keeps_those_before(session: Session, clock: Clock) -> None:
    where, key = machine(session, "fan")
    worker, same = opened(session, clock, where.tag, key), uuid4()
    assert worker.sends("note", key=same, words="hinge creaks").written == 1
    assert worker.sends("note", key=same, words="hinge creaks").written == 1
    assert len(worker.job.journal) == 1
    taken = worker.sends("step", step="open:nonsense")
    assert (taken.written, len(taken.reasons)) == (0, 1)
    assert worker.sends("close").reasons == ["close is not written this way"]
    other = opened(session, clock, where.tag, key, confirmed={"second_job"})
    with pytest.raises(Refused, match="belongs to another job"):
        other.sends("note", key=same, words="x")


def test_one_device_at_a_time_and_taking_over_is_recorded(session: Session, clock: Clock) -> None:
    where, key = machine(session, "fan")
    first = opened(session, clock, where.tag, key)
    first.says("note", words="mine")
    second = Worker(session, clock, first.job_id, user_id=1)
    with pytest.raises(NeedsConfirmation, match="has job"):
        take_lease(session, first.job_id, second.device, takeover=False, clock=clock)
    with pytest.raises(Stale, match="Pell took this job over"):
        second.sends("note", words="mine too")
    take_lease(session, first.job_id, second.device, takeover=True, clock=clock)
    with pytest.raises(Stale, match="Quay took this job over"):
        first.sends("note", words="still mine?")
    assert [item.entry.kind for item in first.job.journal] == ["note", "takeover"]
    release_lease(session, first.job_id, first.device)  # not his any more: nothing happens
    release_lease(session, first.job_id, second.device)
    first.says("note", words="free again")


def test_a_lease_runs_out_without_a_heartbeat(session: Session, clock: Clock) -> None:
    where, key = machine(session, "fan")
    first = opened(session, clock, where.tag, key)
    first.says("note", words="mine")
    session.execute(text("UPDATE job SET lease_until = now() - interval '1 second' WHERE id = :id"), {"id": first.job_id})
    Worker(session, clock, first.job_id, user_id=1).says("note", words="nobody was here")


def test_targets_change_with_a_reason_and_what_is_done_stays_done(session: Session, clock: Clock) -> None:
    where, key = machine(session, "fan")
    worker = opened(session, clock, where.tag, key)
    worker.until(f"swap:{key}")
    opened_steps = worker.job.standing.done
    with pytest.raises(Refused, match="leaves the route that was agreed"):
        change_targets(session, worker.job_id, PlanRequest([key, "drive"]), reason="", device=worker.device, clock=clock)
    change_targets(session, worker.job_id, PlanRequest(["drive"]), reason="drive is loud too", device=worker.device, clock=clock)
    job = worker.job
    assert set(job.plan.targets) == {key, "drive"}
    assert tuple(step.id for step in job.plan.steps)[: len(opened_steps)] == opened_steps
    assert job.next_step is not None
    assert job.next_step.phase == "opening"
    worker.until("test", where.part)
    worker.does()
    with pytest.raises(Refused, match="has begun"):
        change_targets(session, worker.job_id, PlanRequest(["memory_a"]), reason="more", device=worker.device, clock=clock)


def test_a_job_is_diagnosed_before_it_has_a_target(session: Session, clock: Clock) -> None:
    where, key = machine(session, "fan")
    worker = opened(session, clock, where.tag)
    assert worker.job.plan.steps == ()
    worker.says("test", symptom="loud_fan", test="busy", outcome="idle and still loud")
    change_targets(session, worker.job_id, PlanRequest([key]), reason="", device=worker.device, clock=clock)
    assert worker.job.next_step is not None


def test_bad_openings_are_named(session: Session, clock: Clock) -> None:
    where, key = machine(session, "fan")
    with pytest.raises(Refused) as caught:
        opened(session, clock, where.tag, key, symptom=" ", events=["fire"])
    assert {fault.field for fault in caught.value.faults} == {"symptom", "events"}
    with pytest.raises(Refused, match="no asset has the tag SK-9999"):
        opened(session, clock, "SK-9999", key)
    with pytest.raises(Refused, match="ghost"):
        opened(session, clock, where.tag, "ghost")
    with pytest.raises(Refused, match="not by a lay user"):
        opened(session, clock, where.tag, key, plan=PlanRequest([key], remote=True))
    opened(session, clock, where.tag, key)
    with pytest.raises(NeedsConfirmation, match="is not ended"):
        opened(session, clock, where.tag, key)
    with pytest.raises(NotFound):
        read_job(session, 10**6, clock=clock)


def test_a_dangerous_pack_ends_in_quarantine(session: Session, clock: Clock) -> None:
    where, key = machine(session, "fan")
    worker = opened(session, clock, where.tag, key)
    worker.does()
    worker.says("danger", signs=["swollen"])
    assert worker.job.row.job.state == "stopped"
    with pytest.raises(Refused, match="where it is quarantined"):
        abandon_job(session, worker.job_id, AbandonRequest("pack"), device=worker.device, clock=clock)
    request = AbandonRequest("pack swollen", quarantine="steel box in the yard, fire officer called")
    number = abandon_job(session, worker.job_id, request, device=worker.device, clock=clock)
    assert number is not None
    entry = read_history(session, number)[0]
    assert (entry.finding, entry.lines[0].kind, entry.lines[0].action) == ("open", "battery", "kept")
    assert "steel box" in entry.note
    ended = worker.job.journal[-1].entry
    assert ended.kind == "abandon"
    with pytest.raises(Refused, match="nothing to abandon"):
        abandon_job(session, worker.job_id, AbandonRequest("again"), device=worker.device, clock=clock)


def _watched(session: Session, clock: Clock, kind: str = "fan") -> tuple[Worker, int]:
    where, key = machine(session, kind)
    worker = opened(session, clock, where.tag, key)
    worker.finishes(where.part)
    done = worker.closes(replaced(key, where), watch=True)
    assert done.incident_id is not None
    return worker, done.incident_id


def test_a_watched_job_is_confirmed_only_once_the_cure_has_held(session: Session, clock: Clock) -> None:
    worker, incident = _watched(session, clock)
    proven = SettleRequest("confirmed", fails_elsewhere=True)
    with pytest.raises(Refused, match="5 cold starts and 14 days"):
        settle_job(session, worker.job_id, proven, clock=clock, author_id=2)
    for _ in range(5):
        worker.says("cold_start", good=True)
    assert worker.sends("step", step="open:x").reasons[0].startswith("the machine is being watched")
    later = Clock(clock.today + timedelta(days=14), clock.now + timedelta(days=14))
    settle_job(session, worker.job_id, proven, clock=later, author_id=2)
    assert read_history(session, incident)[-1].finding == "confirmed"
    assert worker.job.standing.state == "closed"
    with pytest.raises(Refused, match="only a watched one"):
        settle_job(session, worker.job_id, proven, clock=later, author_id=2)


def test_a_reopened_job_leaves_open_what_was_called_a_failure(session: Session, clock: Clock) -> None:
    worker, incident = _watched(session, clock)
    worker.says("cold_start", good=False)
    with pytest.raises(Refused, match="what came back"):
        reopen_job(session, worker.job_id, " ", clock=clock, author_id=2)
    again = reopen_job(session, worker.job_id, "loud after two days", clock=clock, author_id=2)
    assert read_history(session, incident)[-1].finding == "open"
    assert "loud after two days" in read_history(session, incident)[-1].note
    fresh = read_job(session, again, clock=clock)
    assert fresh.row.job.reopens_id == worker.job_id
    with pytest.raises(Refused, match="only a closed or watched"):
        reopen_job(session, again, "x", clock=clock, author_id=2)


def test_a_removed_drive_has_a_line_of_custody(session: Session, clock: Clock) -> None:
    where, key = machine(session, "ssd")
    worker = opened(session, clock, where.tag, key)
    worker.finishes(where.part)
    with pytest.raises(Refused, match="needs custody"):
        worker.closes(replaced(key, where))
    worker.closes(replaced(key, where, custody="cabinet 2, R. Pell"))
    unit = session.execute(text("SELECT unit_id FROM custody_line")).scalar_one()
    add_custody(session, unit, "erased by company policy", clock=clock, author_id=1)
    assert [line.words for line, _ in custody(session, unit)] == ["cabinet 2, R. Pell", "erased by company policy"]
    with pytest.raises(Refused):
        add_custody(session, unit, " ", clock=clock, author_id=1)
    with pytest.raises(NotFound):
        add_custody(session, 10**7, "x", clock=clock, author_id=1)


def test_facts_settled_at_the_bench_go_to_the_page_with_their_grade(session: Session, clock: Clock) -> None:
    where, key = machine(session, "fan")
    worker = opened(session, clock, where.tag, key)
    worker.until(f"swap:{key}")
    facts = {(fact.position, fact.name) for fact in worker.job.facts}
    assert facts
    position, name = sorted(facts)[0]
    field = next(fact.field for fact in worker.job.facts if (fact.position, fact.name) == (position, name))
    value: Any = "screwed" if field == "serviceability" else True
    worker.says("settle", position=position, field=field, name=name, value=value, grade="measured")
    assert (position, name) not in {(fact.position, fact.name) for fact in worker.job.facts}
    worker.finishes(where.part)
    number = worker.closes(replaced(key, where)).page_number
    assert number is not None
    page, reason = session.execute(
        text("SELECT page, reason FROM model_revision r JOIN asset a ON a.model_id = r.model_id WHERE a.tag = :tag AND r.number = :n"),
        {"tag": where.tag, "n": number},
    ).one()
    assert reason == f"Settled while open at job {worker.job_id}"
    entry = next(item for item in page["positions"] if item["key"] == position)
    said = entry[field] if field == "serviceability" else entry["takes"][name][-1]
    assert said == (value if field == "serviceability" else {**said, "value": value, "grade": "measured", "source": f"job {worker.job_id}"})


def test_closed_jobs_teach_the_minutes_of_their_model(session: Session, clock: Clock) -> None:
    where, key = machine(session, "fan")
    model = session.execute(text("SELECT model_id FROM asset WHERE tag = :t"), {"t": where.tag}).scalar_one()
    assert learnt_of(session, model).factor == 1
    worker = opened(session, clock, where.tag, key)
    planned = worker.job.row.job.planned_minutes
    worker.finishes(where.part)
    worker.closes(replaced(key, where), minutes=round(planned * 2))
    learnt = learnt_of(session, model)
    assert learnt.jobs == 1
    assert learnt.factor == pytest.approx((round(planned * 2) / planned + 5) / 6)


def test_a_survey_writes_no_incident(session: Session, clock: Clock) -> None:
    where, key = machine(session, "fan")
    worker = opened(session, clock, where.tag, key, purpose="survey", symptom="look inside")
    worker.finishes()
    assert worker.closes(CloseLine(key, LineRequest(0, "kept")), finding=Finding.PREVENTIVE.value).incident_id is None


def test_time_parked_is_no_bench_time(session: Session, clock: Clock) -> None:
    where, key = machine(session, "fan")
    worker = opened(session, clock, where.tag, key)
    worker.does()
    so_far = worker.job.minutes_so_far
    worker.says("park", words="lunch", screws_where="box 3", isolated=False)
    worker.minute += 25
    worker.says("resume", read=True)
    assert worker.job.minutes_so_far == so_far + 1


def test_another_device_knows_nothing_of_a_lease_it_never_had(session: Session, clock: Clock) -> None:
    with pytest.raises(NotFound, match="there is no job"):
        take_lease(session, 10**6, Device(uuid4(), 1), takeover=False, clock=clock)


def _tested(session: Session, clock: Clock, result: str) -> tuple[Worker, CloseLine]:
    where, key = machine(session, "fan")
    worker = opened(session, clock, where.tag, key, plan=PlanRequest((key,), test_first=True))
    worker.until("test", where.part)
    worker.does(result=result)
    worker.finishes(where.part)
    return worker, replaced(key, where)


def test_after_a_failed_power_test_the_job_closes_as_not_cured(session: Session, clock: Clock) -> None:
    worker, line = _tested(session, clock, "bad")
    assert worker.job.standing.failed_test
    for changes, field in (
        ({"finding": "upgrade"}, "finding"),
        ({"finding": "no_fault_found"}, "finding"),
        ({"watch": True}, "watch"),
    ):
        with pytest.raises(Refused) as caught:
            worker.closes(line, **changes)
        assert field in [fault.field for fault in caught.value.faults]
    with pytest.raises(Refused, match="closes as not cured"):
        worker.closes(replaced(line.position, machine(session, "fan")[0], finding="damage"))
    done = worker.closes(line)
    assert done.incident_id is not None
    assert read_history(session, done.incident_id)[-1].finding == "open"
    assert session.scalar(text("SELECT is_open FROM incident WHERE id = :i"), {"i": done.incident_id})
    job = read_jobs(session, ended=True)[0].job
    assert (job.state, job.failed_test) == ("closed", True)
    closing = worker.job.journal[-1].entry
    assert (closing.kind, closing.data["cured"]) == ("close", False)


def test_a_test_taken_back_and_passed_is_passed(session: Session, clock: Clock) -> None:
    where, key = machine(session, "fan")
    worker = opened(session, clock, where.tag, key, plan=PlanRequest((key,), test_first=True))
    worker.until("test", where.part)
    worker.does(result="bad")
    worker.says("back")
    assert not worker.job.standing.failed_test
    worker.does(result="good")
    worker.finishes(where.part)
    worker.closes(replaced(key, where), watch=True)
    assert not read_jobs(session, ended=False)[0].job.failed_test


def test_a_waived_gate_reads_as_waived_on_screen_and_paper(session: Session, clock: Clock, monkeypatch: pytest.MonkeyPatch) -> None:
    for name in ("job_pdf", "tags_pdf"):
        monkeypatch.setattr(sheets, name, lambda *printed: repr(printed).encode())
    where, key = machine(session, "fan")
    worker = opened(session, clock, where.tag, key)
    while "isolation" not in [gate.id for gate in worker.job.gates]:
        worker.does(where.part)
    if "power" in [gate.id for gate in worker.job.gates]:
        worker.says("gate", gate="power", answers=ANSWERS["power"])
    worker.is_approved(Approval.WAIVE, "isolation", reason="the plug is torn off")
    words = "isolation waived by M. Quay: the plug is torn off"
    standing = worker.job.standing
    assert "isolation" in standing.passed
    assert "isolation" not in standing.truly_passed
    worker.finishes(where.part)
    reading = read_job(session, worker.job_id, clock=clock)
    view = job_view(reading, read_card(session, where.tag, today=clock.today), [], Said(), gate_rules(session, clock), (5, 14))
    assert not view.isolated
    assert [waiver.words for waiver in view.waivers] == [words]
    for sheet in (sheets.job_record, sheets.bench_sheet, sheets.tray_tags):
        assert words in sheet(session, worker.job_id, clock=clock).decode()
