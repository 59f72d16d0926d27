"""Approvals at the bench: asked by who works, answered by a second signed-in person, carried out by the server (rules G1a, G1c)."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from sqlalchemy.orm import Session

from almanac.core.workbench.approvals import Approval, Approver, answer_refusals, own_refusals
from almanac.core.workbench.entries import refusals
from almanac.core.workbench.gates import Gate
from almanac.core.workbench.journal import ENDED, Entry, JobState, Standing, open_gates
from almanac.core.workbench.plan import JobPlan
from almanac.core.workbench.screws import LEFT_OUT
from almanac.services.clock import Clock
from almanac.services.errors import Fault, NotFound, Refused
from almanac.services.workbench.lease import locked_job, write_entry
from almanac.services.workbench.planning import restored
from almanac.services.workbench.read import gate_rules, standing_of
from almanac.store import jobs
from almanac.store.models import ApprovalRow, Job, Role, User
from almanac.store.settings import settings_on


@dataclass(frozen=True)
class ApprovalRequest:
    """What a worker asks: a gate to be let be or approved, a group of screws to be left out, a stopped machine to be released.

    subject : the gate or the group, empty for a release · photo : of an own approval, where the company allows one
    """

    kind: Approval
    subject: str
    reason: str
    count: int = 1
    own: bool = False
    photo: str = ""


@dataclass(frozen=True)
class AnswerRequest:
    """What a second person says. details : of a release the officer, the day, the decision"""

    granted: bool
    words: str = ""
    details: Mapping[str, str] = field(default_factory=dict)


def ask_approval(session: Session, job_id: int, request: ApprovalRequest, *, clock: Clock, author_id: int) -> int:
    """Ask for an approval; asked again while nobody answered it is the same one. Returns its number.

    Raises
    ------
    NotFound : there is no such job · Refused : no reason, or nothing of the kind can be approved now
    """
    job = locked_job(session, job_id)
    plan, standing = restored(job.plan), standing_of(session, job)
    gate = _gate(session, plan, standing, request, clock)
    faults = [] if request.reason.strip() else [Fault("reason", "say why")]
    faults += [Fault("subject", words) for words in _cannot(session, plan, standing, request, gate, clock)]
    if request.own:
        allowed = bool(settings_on(session, clock.today).value("own_approval", default=0))
        alone = jobs.approvers(session) == [author_id]
        photo = bool(request.photo.strip())
        faults += [Fault("own", words) for words in own_refusals(request.kind, gate, allowed=allowed, alone=alone, photo=photo)]
    if faults:
        raise Refused(*faults)
    known = jobs.open_approval(session, job_id, request.kind.value, request.subject)
    row = known or ApprovalRow(
        job_id=job_id,
        kind=request.kind.value,
        subject=request.subject,
        count=request.count,
        title=_title(request, gate),
        reason=request.reason.strip(),
        asked_at=clock.now,
        asked_by_id=author_id,
        own=request.own,
        details={"photo": request.photo} if request.photo else {},
    )
    session.add(row)
    session.flush()
    if request.own:
        _carry_out(session, job, row, session.get_one(User, author_id), AnswerRequest(granted=True), clock)
    return row.id


def _gate(session: Session, plan: JobPlan, standing: Standing, request: ApprovalRequest, clock: Clock) -> Gate | None:
    if request.kind not in (Approval.WAIVE, Approval.GATE):
        return None
    return next((gate for gate in open_gates(plan, standing, gate_rules(session, clock)) if gate.id == request.subject), None)


def _title(request: ApprovalRequest, gate: Gate | None) -> str:
    if gate is not None:
        return f"{gate.title}: let it be" if request.kind == Approval.WAIVE else gate.title
    return f"Leave {request.count} x {request.subject} out" if request.kind == Approval.LEFT_OUT else "Release what was stopped"


def _cannot(session: Session, plan: JobPlan, standing: Standing, request: ApprovalRequest, gate: Gate | None, clock: Clock) -> list[str]:
    """Why this cannot be carried out, whoever approves it."""
    if request.kind == Approval.RELEASE:
        return [] if (standing.danger or standing.referral) and not standing.released else ["nothing was stopped that could be released"]
    entry = _entry(request.kind, request.subject, request.count, {"name": "somebody", "reason": request.reason or "a reason"}, gate)
    return refusals(plan, standing, entry, gate_rules(session, clock))


def _entry(kind: Approval, subject: str, count: int, said: Mapping[str, Any], gate: Gate | None) -> Entry:
    if kind == Approval.WAIVE:
        return Entry("waive", {"gate": subject, **said})
    if kind == Approval.GATE:
        return Entry("approve", {"gate": subject, "opens": gate is not None and not gate.asks, **said})
    if kind == Approval.LEFT_OUT:
        return Entry("screw", {"group": subject, "end": LEFT_OUT, "count": count, **said})
    return Entry("release", dict(said))


def answer_approval(session: Session, approval_id: int, answer: AnswerRequest, *, approver_id: int, clock: Clock) -> int:
    """Answer what was asked; what is granted is carried out at once. Returns the number of the job.

    Raises
    ------
    NotFound : nothing was asked under that number
    Refused : answered already, the answer of the worker, of somebody without the right, or something that cannot be any more
    """
    row = session.get(ApprovalRow, approval_id)
    if row is None:
        raise NotFound(f"there is no approval {approval_id}")
    job = locked_job(session, row.job_id)
    session.refresh(row)
    user = session.get_one(User, approver_id)
    if row.answered_at is not None:
        raise Refused(Fault("approval", "this was answered already: read the job again"))
    works = approver_id in (row.asked_by_id, job.lease_user_id)
    approver = Approver(is_lead=user.role == Role.LEAD.value, works=works)
    if why := answer_refusals(Approval(row.kind), approver):
        raise Refused(*(Fault("approver", words) for words in why))
    if not answer.granted and not answer.words.strip():
        raise Refused(Fault("words", "say why it is not approved"))
    _carry_out(session, job, row, user, answer, clock)
    return job.id


def _carry_out(session: Session, job: Job, row: ApprovalRow, user: User, answer: AnswerRequest, clock: Clock) -> None:
    row.granted, row.answered_at, row.answered_by_id = answer.granted, clock.now, user.id
    row.details = {**row.details, **answer.details, "words": answer.words.strip()}
    if answer.granted:
        _write(session, job, row, user, clock)
    else:
        words = f"not approved by {user.name}: {row.title} ({answer.words.strip()})"
        write_entry(session, job, "note", {"words": words}, clock=clock, author_id=user.id)
    session.flush()


def _write(session: Session, job: Job, row: ApprovalRow, user: User, clock: Clock) -> None:
    plan, standing = restored(job.plan), standing_of(session, job)
    rules, kind = gate_rules(session, clock), Approval(row.kind)
    gate = next((gate for gate in open_gates(plan, standing, rules) if gate.id == row.subject), None)
    said = {**row.details, "name": user.name, "reason": row.reason, "own": row.own, "approval": row.id}
    entry = _entry(kind, row.subject, row.count, said, gate)
    ended = standing.state in ENDED  # a machine in quarantine is released after its job has ended
    why = refusals(plan, replace(standing, state=JobState.STOPPED) if ended else standing, entry, rules)
    if why:
        raise Refused(*(Fault("approval", words) for words in why))
    write_entry(session, job, entry.kind, entry.data, clock=clock, author_id=user.id)
    if not ended:
        job.state = standing_of(session, job).state.value


def unreleased(session: Session, asset_id: int) -> Job | None:
    """The job that stopped a machine which nobody has released since: no other begins on it (rule B4)."""
    for job in jobs.stopped_jobs(session, asset_id):
        standing = standing_of(session, job)
        if (standing.danger or standing.referral) and not standing.released:
            return job
    return None
