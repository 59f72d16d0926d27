"""People: added by a lead, given a link that works once, ended with all they had in hand; nobody is left without a lead."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from uuid import uuid4

import pytest
from sqlalchemy import select, text
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from almanac.core.workbench.approvals import Approval
from almanac.services.accounts import create_user, sign_in
from almanac.services.audit import GROUPS, WORDS, AuditWish, Event, audit_csv, note, read_audit
from almanac.services.change_log import note_changes
from almanac.services.clock import Clock
from almanac.services.errors import NotFound, Refused
from almanac.services.orders.drafts import DraftAct, LineWanted, act_on_draft, draft_orders
from almanac.services.people import (
    PersonChange,
    add_person,
    change_person,
    end_person,
    end_sign_ins_of,
    make_link,
    owner_of_link,
    read_people,
    take_back,
    use_link,
)
from almanac.services.sessions import open_web_session, user_of_token
from almanac.services.tokens import make_token, user_of_key
from almanac.services.workbench.lease import Device, take_lease
from almanac.store.models import ApprovalRow, Job, JobEntry, OrderDraft, Role, User
from almanac.store.people import bound_to
from tests.services.jobs import machine, opened

NOW = datetime(2026, 11, 2, 8, tzinfo=UTC)
PASSWORD = "a long enough password"
LEAD = 1
BENCH = PersonChange("Mara Dunn", Role.TECHNICIAN)


def added(session: Session, login: str = "dunn", person: PersonChange = BENCH) -> tuple[User, str]:
    return add_person(session, login, person, by=LEAD, now=NOW)


def signs_in(session: Session, login: str, password: str) -> bool:
    return sign_in(session, login, password, address="", now=NOW + timedelta(hours=3)) is not None


def test_a_new_person_chooses_a_password_by_a_link_that_works_once(session: Session) -> None:
    user, token = added(session)
    assert owner_of_link(session, token, now=NOW).login == "dunn"
    assert token not in str(session.execute(text("SELECT token_hash FROM password_link")).all())
    with pytest.raises(Refused, match="at least 12"):
        use_link(session, token, "short", address="", now=NOW)
    assert use_link(session, token, PASSWORD, address="10.0.0.9", now=NOW).id == user.id
    assert signs_in(session, "dunn", PASSWORD)
    with pytest.raises(NotFound, match="it was used"):
        use_link(session, token, PASSWORD, address="", now=NOW)


def test_a_link_ends_with_its_time_and_with_the_next_one(session: Session) -> None:
    user, first = added(session)
    second = make_link(session, user.id, by=LEAD, now=NOW)
    for token, at in ((first, NOW), (second, NOW + timedelta(hours=48)), ("made up", NOW)):
        with pytest.raises(NotFound):
            use_link(session, token, PASSWORD, address="", now=at)
    assert use_link(session, second, PASSWORD, address="", now=NOW + timedelta(hours=47)).id == user.id


def test_until_the_link_is_used_the_password_of_before_holds_and_then_every_sign_in_ends(session: Session) -> None:
    user = create_user(session, login="dunn", name="Mara Dunn", role=Role.TECHNICIAN, password=PASSWORD)
    browser = open_web_session(session, user, now=NOW)
    link = make_link(session, user.id, by=LEAD, now=NOW)
    assert user_of_token(session, browser, now=NOW)
    assert signs_in(session, "dunn", PASSWORD)
    use_link(session, link, "another long password", address="", now=NOW)
    assert user_of_token(session, browser, now=NOW) is None
    assert not signs_in(session, "dunn", PASSWORD)


def test_who_is_ended_is_out_at_once_and_lets_go_of_what_was_in_hand(session: Session, clock: Clock) -> None:
    where, key = machine(session, "fan")
    job = session.get_one(Job, opened(session, clock, where.tag, key).job_id)
    holder = session.get_one(User, 2)
    take_lease(session, job.id, Device(uuid4(), holder.id), takeover=True, clock=clock)
    browser = open_web_session(session, holder, now=NOW)
    shown = make_token(session, holder.id, name="probe", scope="read", days=30, now=NOW)
    link = make_link(session, holder.id, by=LEAD, now=NOW)
    ended = end_person(session, holder.id, by=LEAD, now=NOW)
    assert (ended.keys, ended.jobs) == (1, 1)
    assert ended.sign_ins >= 1
    session.refresh(job)
    assert (job.lease_user_id, job.lease_device, job.lease_until) == (None, None, None)
    assert user_of_token(session, browser, now=NOW) is None
    assert user_of_key(session, shown, now=NOW) is None
    with pytest.raises(NotFound):
        use_link(session, link, PASSWORD, address="", now=NOW)
    with pytest.raises(Refused, match="take them back first"):
        make_link(session, holder.id, by=LEAD, now=NOW)


def test_an_order_that_was_not_sent_goes_on_without_who_began_it(session: Session, clock: Clock) -> None:
    holder, _ = added(session, person=PersonChange("Mara Dunn", Role.LEAD))
    (draft,) = draft_orders(session, [LineWanted("OF-P14", 2)], "", clock=clock, author_id=holder.id)
    assert end_person(session, holder.id, by=LEAD, now=NOW).drafts == 1
    assert "1 draft of orders left" in read_audit(session, AuditWish(group="people"))[0][0].words
    version = session.get_one(OrderDraft, draft).version
    order = act_on_draft(session, draft, DraftAct("send", version), clock=clock, user_id=LEAD, is_lead=True)
    assert order is not None


def test_who_is_taken_back_chooses_anew(session: Session) -> None:
    user = create_user(session, login="dunn", name="Mara Dunn", role=Role.TECHNICIAN, password=PASSWORD)
    with pytest.raises(Refused, match="may sign in"):
        take_back(session, user.id, by=LEAD, now=NOW)
    assert signs_in(session, "dunn", PASSWORD)
    end_person(session, user.id, by=LEAD, now=NOW)
    assert not signs_in(session, "dunn", PASSWORD)
    link = take_back(session, user.id, by=LEAD, now=NOW)
    assert not signs_in(session, "dunn", PASSWORD)
    use_link(session, link, "another long password", address="", now=NOW)
    assert signs_in(session, "dunn", "another long password")


def test_there_is_always_a_lead(session: Session) -> None:
    with pytest.raises(Refused, match="nobody ends themselves"):
        end_person(session, LEAD, by=LEAD, now=NOW)
    with pytest.raises(Refused, match="nobody else is a lead"):
        change_person(session, LEAD, PersonChange("Q", Role.READER), by=LEAD, now=NOW)
    second, _ = added(session, person=PersonChange("Second", Role.LEAD))
    end_person(session, LEAD, by=second.id, now=NOW)
    with pytest.raises(Refused, match="nobody else is a lead"):
        end_person(session, second.id, by=LEAD, now=NOW)
    with pytest.raises(Refused, match="nobody else is a lead"):
        change_person(session, second.id, BENCH, by=LEAD, now=NOW)


def test_only_technicians_are_bound_to_sites(session: Session) -> None:
    user, _ = added(session, person=PersonChange("Mara Dunn", Role.TECHNICIAN, ("GUL", "GUL")))
    assert len(bound_to(session, user.id)) == 1
    assert next(one for one in read_people(session, now=NOW) if one.id == user.id).sites == ("GUL",)
    change_person(session, user.id, PersonChange("Mara Dunn", Role.READER), by=LEAD, now=NOW)
    assert bound_to(session, user.id) == frozenset()
    for person, why in (
        (PersonChange("X", Role.READER, ("GUL",)), "only technicians"),
        (PersonChange("X", Role.TECHNICIAN, ("NIX",)), "no site NIX"),
        (PersonChange("  ", Role.TECHNICIAN), "a name"),
    ):
        with pytest.raises(Refused, match=why):
            change_person(session, user.id, person, by=LEAD, now=NOW)
    with pytest.raises(Refused, match="in use"):
        added(session, "dunn")
    with pytest.raises(NotFound):
        end_sign_ins_of(session, 10**7, by=LEAD, now=NOW)


def test_what_is_done_to_people_is_on_record_and_stays(session: Session) -> None:
    user, link = added(session)
    use_link(session, link, PASSWORD, address="10.0.0.9", now=NOW)
    change_person(session, user.id, BENCH, by=LEAD, now=NOW)  # nothing changed: nothing to note
    change_person(session, user.id, PersonChange("Mara Dunn", Role.TECHNICIAN, ("GUL",)), by=LEAD, now=NOW)
    assert signs_in(session, "dunn", PASSWORD)
    assert not signs_in(session, "dunn", "guessed wrong password")
    assert not signs_in(session, "hunter2", "typed in the wrong field")
    end_sign_ins_of(session, user.id, by=LEAD, now=NOW)
    end_person(session, user.id, by=LEAD, now=NOW)
    rows, _ = read_audit(session, AuditWish(words="dunn"))
    assert [row.event for row in reversed(rows)][-8:] == [
        "person_added", "link_made", "link_used", "person_changed", "signed_out", "person_ended", "signed_in", "sign_in_failed",
    ]  # fmt: skip
    changed = next(row for row in rows if row.event == "person_changed")
    assert changed.words == "Mara Dunn, technician; now Mara Dunn, technician at GUL"
    failed, _ = read_audit(session, AuditWish(group="sign_ins", words="no such login"))
    assert failed
    assert "hunter2" not in str(read_audit(session, AuditWish())[0])
    for change in ("UPDATE audit_entry SET words = ''", "DELETE FROM audit_entry", "TRUNCATE audit_entry"):
        with pytest.raises(DBAPIError, match="append-only"), session.begin_nested():
            session.execute(text(change))


def test_the_audit_is_read_page_by_page_and_by_who_when_and_what(session: Session) -> None:
    for hour in range(5):
        note(session, Event.KEY_MADE, by=LEAD, subject=f"key {hour}", at=NOW + timedelta(hours=hour))
    note(session, Event.KEY_ENDED, by=None, subject="key 9", at=NOW + timedelta(hours=4))
    wish = AuditWish(group="people", words="key ", since=NOW.date(), until=NOW.date())
    first, more = read_audit(session, wish, most=4)
    assert more
    last = first[-1]
    rest, more = read_audit(session, AuditWish(group="people", words="key ", before=last.at, before_key=last.key), most=100)
    assert [row.subject for row in (*first, *rest)][:6] == ["key 9", "key 4", "key 3", "key 2", "key 1", "key 0"]
    mine, _ = read_audit(session, AuditWish(login="quay", words="key "))
    assert {row.login for row in mine} == {"quay"}
    assert read_audit(session, AuditWish(since=NOW.date() + timedelta(days=9999)))[0] == []
    with pytest.raises(Refused):
        read_audit(session, AuditWish(group="nonsense"))


def test_the_audit_holds_what_other_tables_decide_and_no_secret(session: Session, clock: Clock) -> None:
    where, key = machine(session, "fan")
    job = opened(session, clock, where.tag, key).job_id
    asked = {
        "job_id": job,
        "subject": "step",
        "title": "Break a seal",
        "reason": "no other way",
        "asked_at": NOW,
        "asked_by_id": 2,
        "details": {},
    }
    answers = ((Approval.WAIVE, True), (Approval.GATE, False))
    session.add_all(ApprovalRow(kind=kind, granted=yes, answered_at=NOW, answered_by_id=LEAD, **asked) for kind, yes in answers)
    waived = {"gate": "power", "name": "Q", "reason": "drill"}
    session.add(JobEntry(job_id=job, number=99, entry_key=uuid4(), kind="waive", data=waived, done_at=NOW, recorded_at=NOW, author_id=2))
    note_changes(session, "part OF-P14", [("price", "10", "12")], clock=clock, author_id=LEAD)
    rows = {row.event: row for row in read_audit(session, AuditWish(), most=10**6)[0]}
    assert {"setting", "approval_asked", "approval_granted", "approval_refused", "plan", "waiver", "catalogue"} <= set(rows)
    assert (rows["waiver"].login, rows["waiver"].words) == ("pell", "power, by Q: drill")
    assert rows["catalogue"].words == "price: 10, now 12"
    assert set(rows) <= set(WORDS)
    assert {event for _, events in GROUPS.values() for event in events} == set(WORDS)
    assert {event.value for event in Event} <= set(WORDS)
    assert not [row for row in read_audit(session, AuditWish(words="setup_code"), most=10)[0]]
    hashes = session.scalars(select(User.password_hash)).all()
    file = audit_csv(session, AuditWish()).decode("utf-8-sig")
    assert file.startswith("at,login,name,did,subject,words,address")
    assert not [one for one in hashes if one in file]
