"""What nobody decides alone at the bench, what stops a machine, and what a lead reads of it."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.core.workbench.approvals import Approval
from almanac.services.clock import Clock
from almanac.services.company_settings import SettingRequest, change_setting
from almanac.services.errors import NotFound, Refused
from almanac.services.pages.library import read_library
from almanac.services.workbench.after import AbandonRequest, abandon_job
from almanac.services.workbench.approve import AnswerRequest, ApprovalRequest, answer_approval, ask_approval
from almanac.services.workbench.exceptions import read_exceptions
from almanac.services.workbench.facts import settle_on_page
from almanac.services.workbench.in_hand import answer_swap
from almanac.store.jobs import open_approvals
from almanac.store.models import Job
from tests.core.workbench.bench import ANSWERS
from tests.services.jobs import LEAD, machine, opened, other_technician


def test_what_stopped_a_machine_keeps_every_other_job_off_it_until_a_lead_releases_it(session: Session, clock: Clock) -> None:
    where, key = machine(session, "fan")
    worker = opened(session, clock, where.tag, key, signs=["touchpad", "no_power"])
    assert worker.job.row.job.state == "stopped"
    assert worker.job.standing.danger == ("dead touchpad",)
    assert worker.sends("gate", gate="power", answers=ANSWERS["power"]).reasons[0].startswith("the pack stopped this job")
    abandon_job(session, worker.job_id, AbandonRequest("pack", quarantine="steel box"), device=worker.device, clock=clock)
    with pytest.raises(Refused, match="nobody released it"):
        opened(session, clock, where.tag, key, confirmed=frozenset({"second_job"}))
    said: dict[str, Any] = {"officer": "O. Safety", "day": "2026-11-01", "decision": "disposed"}
    with pytest.raises(Refused, match="a lead decides"):
        worker.is_approved(Approval.RELEASE, by=other_technician(session), **said)
    worker.is_approved(Approval.RELEASE, **said)
    assert worker.job.row.job.state == "abandoned"
    assert opened(session, clock, where.tag, key).job.row.job.state == "open"
    [exception] = [one for one in read_exceptions(session, clock=clock) if one.job_id == worker.job_id]
    assert (exception.what, exception.words, exception.cure) == ("was stopped", "dead touchpad; disposed since", None)


def test_no_power_with_mains_inside_is_licensed_work(session: Session, clock: Clock) -> None:
    where, key = machine(session, "memory", "Counter 24")
    worker = opened(session, clock, where.tag, key, signs=["no_power", "gap"])
    assert worker.job.row.job.state == "stopped"
    assert worker.job.standing.referral == ("no power",)
    assert "licensed work" in worker.sends("gate", gate="power", answers=ANSWERS["power"]).reasons[0]
    assert worker.sends("note", words="socket and lead are good").reasons == []
    assert [one.what for one in read_exceptions(session, clock=clock) if one.job_id == worker.job_id] == ["mains, referred"]


def test_the_word_of_a_worker_is_none(session: Session, clock: Clock) -> None:
    where, key = machine(session, "fan")
    worker = opened(session, clock, where.tag, key)
    wrong: list[tuple[str, dict[str, Any]]] = [
        ("waive", {"gate": "power", "reason": "x", "name": "M. Quay"}),
        ("release", {"name": "M. Quay"}),
        ("approve", {"gate": "power"}),
        ("screw", {"group": "rim", "end": "left_out", "name": "M. Quay"}),
    ]
    for kind, data in wrong:
        assert worker.sends(kind, **data).reasons == ["your own word is none here: ask a second signed-in person to approve it"]
    asked = ApprovalRequest(Approval.WAIVE, "power", "the button is gone")
    number = ask_approval(session, worker.job_id, asked, clock=clock, author_id=2)
    assert ask_approval(session, worker.job_id, asked, clock=clock, author_id=2) == number
    yes, no = AnswerRequest(granted=True), AnswerRequest(granted=False)
    for approver, words in ((2, "your own word is none"), (other_technician(session), "a lead decides this")):
        with pytest.raises(Refused, match=words):
            answer_approval(session, number, yes, approver_id=approver, clock=clock)
    with pytest.raises(Refused, match="say why"):
        answer_approval(session, number, no, approver_id=LEAD, clock=clock)
    answer_approval(session, number, replace(no, words="use the other button"), approver_id=LEAD, clock=clock)
    assert worker.job.journal[-1].entry.data["words"].startswith("not approved by M. Quay")
    with pytest.raises(Refused, match="answered already"):
        answer_approval(session, number, yes, approver_id=LEAD, clock=clock)
    worker.is_approved(Approval.WAIVE, "power", reason="the button is gone")
    assert worker.job.standing.waived["power"].words("power") == "power waived by M. Quay: the button is gone"
    with pytest.raises(Refused, match="no gate power"):
        worker.is_approved(Approval.WAIVE, "power")
    assert [one.what for one in read_exceptions(session, clock=clock) if one.job_id == worker.job_id] == ["waived"]


def test_what_was_asked_on_a_job_that_ended_is_asked_of_nobody_but_a_release(session: Session, clock: Clock) -> None:
    where, key = machine(session, "fan")
    worker = opened(session, clock, where.tag, key)
    ask_approval(session, worker.job_id, ApprovalRequest(Approval.WAIVE, "power", "x"), clock=clock, author_id=2)
    assert [item.row.kind for item in open_approvals(session)] == ["waive"]
    worker.says("danger", signs=["hot"])
    ask_approval(session, worker.job_id, ApprovalRequest(Approval.RELEASE, "", "taken away"), clock=clock, author_id=2)
    abandon_job(session, worker.job_id, AbandonRequest("pack", quarantine="steel box"), device=worker.device, clock=clock)
    assert [item.row.kind for item in open_approvals(session)] == ["release"]


def test_what_was_asked_for_may_be_gone_when_it_is_answered(session: Session, clock: Clock) -> None:
    where, key = machine(session, "fan")
    worker = opened(session, clock, where.tag, key)
    number = ask_approval(session, worker.job_id, ApprovalRequest(Approval.WAIVE, "power", "x"), clock=clock, author_id=2)
    worker.passes_gates()
    with pytest.raises(Refused, match="no gate power"):
        answer_approval(session, number, AnswerRequest(granted=True), approver_id=LEAD, clock=clock)


def test_one_person_approves_only_what_the_company_allows_with_a_photo_and_never_mains_packs_or_seals(
    session: Session, clock: Clock
) -> None:
    where, key = machine(session, "fan")
    worker = opened(session, clock, where.tag, key)
    own = ApprovalRequest(Approval.WAIVE, "power", "the button is gone", own=True)

    def asks(request: ApprovalRequest) -> int:
        return ask_approval(session, worker.job_id, request, clock=clock, author_id=2)

    with pytest.raises(Refused, match="your own word is none"):
        asks(own)
    change_setting(session, SettingRequest("company", "", "own_approval", 1, 0), clock=clock, author_id=1)
    with pytest.raises(Refused, match="somebody else can"):
        asks(own)
    session.execute(text('UPDATE "user" SET active = (id = 2)'))
    with pytest.raises(Refused, match="needs a photo"):
        asks(own)
    asks(replace(own, photo="a" * 40))
    assert "power" in worker.job.standing.passed
    assert "power" not in worker.job.standing.truly_passed
    assert [one.what for one in read_exceptions(session, clock=clock) if one.job_id == worker.job_id] == ["own approval"]
    worker.says("danger", signs=["hot"])
    with pytest.raises(Refused, match="packs, mains and seals"):
        asks(ApprovalRequest(Approval.RELEASE, "", "it is cool now", own=True, photo="a" * 40))


def test_a_wrong_part_is_answered_before_it_goes_in_and_a_reason_is_read_by_a_lead(session: Session, clock: Clock) -> None:
    where, key = machine(session, "fan")
    elsewhere = session.execute(
        text("SELECT u.serial, a.tag FROM tenure t JOIN unit u ON u.id = t.unit_id JOIN asset a ON a.id = t.asset_id "
             "WHERE t.removed_on IS NULL AND u.serial IS NOT NULL AND a.tag <> :tag ORDER BY t.id LIMIT 1"), {"tag": where.tag}
    ).one()  # fmt: skip
    worker = opened(session, clock, where.tag, key)
    while (step := worker.job.next_step) is not None and step.phase != "swap":
        worker.does()
    worker.passes_gates()
    assert step is not None
    pack = worker.sends("step", step=step.id, part_number="OB-P14-60").reasons
    assert pack[0].startswith("OB-P14-60 is a battery, this is the place of a fan")
    assert worker.sends("step", step=step.id, part_number="XX-1").reasons[0].startswith("no part is called XX-1")
    taken = worker.sends("step", step=step.id, part_number=where.part, serial=elsewhere.serial).reasons
    assert any(elsewhere.serial in words for words in taken)
    assert worker.job.standing.swaps == {}
    worker.says("step", step=step.id, part_number=where.part, serial=elsewhere.serial, reason="the label was swapped")
    [told] = [one for one in read_exceptions(session, clock=clock) if one.job_id == worker.job_id]
    assert told.what == "contradiction"
    assert told.words.endswith("Fitted all the same: the label was swapped")
    answers = answer_swap(session, worker.job_id, key, where.part, "")
    assert [(one.question, one.verdict) for one in answers][:2] == [("part", "yes"), ("serial", "unknown")]
    with pytest.raises(NotFound):
        answer_swap(session, worker.job_id, "ghost", where.part, "")
    with pytest.raises(NotFound):
        answer_swap(session, 10**6, key, where.part, "")


def test_the_makers_waiting_time_looked_up_at_the_bench_goes_to_the_page(session: Session, clock: Clock) -> None:
    where, key = machine(session, "fan")
    worker = opened(session, clock, where.tag, key)
    standing = replace(worker.job.standing, maker_wait=(7.0, "label beside the inlet"))
    job = session.get_one(Job, worker.job_id)
    assert settle_on_page(session, job, standing, clock=clock, author_id=2) is not None
    fact = read_library(session).page(job.model_id).whole["facts"]["mains_wait_minutes"]
    said = fact if isinstance(fact, list) else [fact]
    assert [(one["value"], one["grade"]) for one in said if "label beside" in str(one.get("source"))] == [(7.0, "document")]
