"""What a worker may not decide alone, and what a lead should know of the bench."""

from __future__ import annotations

from datetime import UTC, datetime

from flask import Blueprint, request

from almanac.core.workbench.approvals import Approval
from almanac.services.accounts import sign_in
from almanac.services.clock import read_clock
from almanac.services.errors import Fault, Refused
from almanac.services.workbench.after import add_custody
from almanac.services.workbench.approve import AnswerRequest, ApprovalRequest, answer_approval, ask_approval
from almanac.services.workbench.day import read_day
from almanac.services.workbench.exceptions import read_exceptions
from almanac.services.workbench.in_hand import answer_swap
from almanac.store.jobs import open_approvals
from almanac.store.models import Role
from almanac.web.access import author_id
from almanac.web.api import endpoint
from almanac.web.database import commit, session
from almanac.web.devices import device_of
from almanac.web.schemas import approvals as schemas
from almanac.web.schemas.base import Done
from almanac.web.schemas.day import DayJobView, DaySwapView, DayView, WayView, WornUnitView
from almanac.web.views.job_words import approval_view, line_view

blueprint = Blueprint("approvals", __name__, url_prefix="/api/v1")


@endpoint(blueprint, "/approvals", access=Role.READER, replies=schemas.ApprovalList)
def list_approvals() -> schemas.ApprovalList:
    """What nobody answered yet."""
    return schemas.ApprovalList(approvals=[approval_view(item) for item in open_approvals(session())])


@endpoint(blueprint, "/jobs/<int:job_id>/approvals", method="POST", access=Role.TECHNICIAN, replies=schemas.ApprovalAsked, status=201)
def ask_for_approval(job_id: int, json: schemas.ApprovalIn) -> schemas.ApprovalAsked:
    """Ask a second person."""
    wanted = ApprovalRequest(Approval(json.kind), json.subject, json.reason, json.count, json.own, json.photo)
    number = ask_approval(session(), job_id, wanted, clock=read_clock(session()), author_id=author_id())
    return schemas.ApprovalAsked(approval_id=number)


@endpoint(blueprint, "/approvals/<int:approval_id>/answer", method="POST", access=Role.TECHNICIAN, replies=Done)
def answer_one_approval(approval_id: int, json: schemas.AnswerIn) -> Done:
    """Answer what was asked: as who is signed in, or as somebody who signs in beside the worker for this one answer."""
    answer = AnswerRequest(json.granted, json.words, json.release.model_dump(mode="json") if json.release else {})
    answer_approval(session(), approval_id, answer, approver_id=_approver(json), clock=read_clock(session()))
    return Done()


def _approver(json: schemas.AnswerIn) -> int:
    if not json.login:
        return author_id()
    now = datetime.now(UTC)
    user = sign_in(
        session(), json.login, json.password or "", address=request.remote_addr or "", now=now, device=device_of(json.login)
    )  # fmt: skip
    if user is None:
        commit()  # the failed attempt has to be counted although the request is refused
        raise Refused(Fault("password", "login and password do not match: check both, upper and lower case count"))
    if Role(user.role) == Role.READER:
        raise Refused(Fault("login", f"{user.name} reads only: a technician or a lead approves"))
    return user.id


@endpoint(blueprint, "/bench/exceptions", access=Role.READER, replies=schemas.ExceptionList)
def list_exceptions() -> schemas.ExceptionList:
    """What went another way than the rules have it."""
    found = read_exceptions(session(), clock=read_clock(session()))
    return schemas.ExceptionList(exceptions=[schemas.ExceptionView.model_validate(item) for item in found])


@endpoint(blueprint, "/bench/day", access=Role.READER, replies=DayView)
def the_day_at_the_bench() -> DayView:
    """Who has what, where each job stands, and what comes up beside the jobs."""
    found = read_day(session(), clock=read_clock(session()))
    return DayView(
        jobs=[
            DayJobView(
                line=line_view(one.row),
                targets=one.targets,
                stands=one.stands,
                note=one.note,
                tone=one.tone,
                way=None if one.way is None else WayView.model_validate(one.way),
            )
            for one in found.jobs
        ],
        swaps=[DaySwapView.model_validate(one) for one in found.swaps],
        worn=[WornUnitView.model_validate({**one._asdict(), "limit": limit}) for one, limit in found.worn],
        worn_count=found.worn_count,
        open_findings=found.open_findings,
    )


@endpoint(blueprint, "/jobs/<int:job_id>/in-hand", access=Role.READER, replies=schemas.SwapAnswers)
def answer_part_in_hand(job_id: int, query: schemas.SwapQuery) -> schemas.SwapAnswers:
    """What the records say of a part before it goes in."""
    found = answer_swap(session(), job_id, query.position, query.part, query.serial)
    return schemas.SwapAnswers(answers=[schemas.SwapAnswerView.model_validate(item) for item in found])


@endpoint(blueprint, "/bench/drives/<int:unit_id>/custody", method="POST", access=Role.TECHNICIAN, replies=Done, status=201)
def write_custody(unit_id: int, json: schemas.CustodyIn) -> Done:
    """The next line of a drive's custody: where it is now, and who has it."""
    add_custody(session(), unit_id, json.words, clock=read_clock(session()), author_id=author_id())
    return Done()
