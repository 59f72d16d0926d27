"""What a worker may not decide alone, what is still out, and what a lead should know of the bench."""

from __future__ import annotations

from datetime import date, datetime
from typing import Literal

from pydantic import Field

from almanac.web.schemas.base import Schema, Words


class ApprovalView(Schema):
    """What was asked, by whom, and what a second person said; `granted` is None while nobody answered."""

    id: int
    job_id: int
    tag: str
    kind: Literal["waive", "gate", "left_out", "release"]
    subject: str
    title: str
    reason: str
    asked_at: datetime
    asked_by: str
    answered_by: str | None
    granted: bool | None
    own: bool
    words: str


class ApprovalList(Schema):
    approvals: list[ApprovalView]


class ApprovalIn(Schema):
    """What is asked of a second person; `own` where the company lets its only one approve, with a photo."""

    kind: Literal["waive", "gate", "left_out", "release"]
    subject: str = Field(default="", max_length=120)
    reason: Words
    count: int = Field(default=1, ge=1, le=1000)
    own: bool = False
    photo: str = Field(default="", max_length=80)


class ApprovalAsked(Schema):
    approval_id: int


class ReleaseIn(Schema):
    """Who decided what becomes of a stopped machine, and when."""

    officer: str = Field(min_length=1, max_length=120)
    day: date
    decision: Literal["released", "disposed", "returned"]


class AnswerIn(Schema):
    """The answer of a second person: the one signed in here, or one who signs in beside the worker with login and password."""

    granted: bool
    words: Words = ""
    release: ReleaseIn | None = None
    login: str | None = Field(default=None, max_length=200)
    password: str | None = Field(default=None, max_length=1000)


class StillOutView(Schema):
    """Screws of a group or a lead that are not back beneath the next layer."""

    words: str
    group: str | None
    count: int
    lead: str | None


class ExceptionView(Schema):
    """One thing a lead should know; `cure` is how it is settled, None where it stays on record as it is; `unit_id` of a drive."""

    what: str
    words: str
    job_id: int
    tag: str
    on: date
    by: str | None
    cure: str | None
    unit_id: int | None


class CustodyIn(Schema):
    """Where a drive that left its machine is now, or what became of its data."""

    words: str = Field(max_length=400)


class ExceptionList(Schema):
    exceptions: list[ExceptionView]


class SwapQuery(Schema):
    """A part in the hand: where it is to go, its number, and its serial where it was read."""

    position: str = Field(max_length=80)
    part: str = Field(max_length=60)
    serial: str = Field(default="", max_length=60)


class SwapAnswerView(Schema):
    """One question about it, answered; a no wants a reason."""

    question: str
    verdict: Literal["yes", "no", "unknown"]
    words: str


class SwapAnswers(Schema):
    answers: list[SwapAnswerView]
