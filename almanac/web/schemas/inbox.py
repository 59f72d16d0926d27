"""Reports that machines bring, questions they raise, and keys for programs."""

from __future__ import annotations

from datetime import date, datetime

from pydantic import Field

from almanac.store.models import Scope
from almanac.web.schemas.base import Schema


class ReportQuery(Schema):
    """What a machine calls itself, and when it wrote its report: a moment with its zone, now where none is given."""

    tag: str = Field(default="", max_length=60)
    serial: str = Field(default="", max_length=60)
    at: datetime | None = None


class MachineReportTaken(Schema):
    """What became of a report. tag : of the machine it was known as · again : it had come before, and nothing was done"""

    tag: str | None
    written: list[str]
    asked: list[str]
    missed: list[str]
    again: bool


class ReportQuestionView(Schema):
    """Something a machine says that is on record otherwise."""

    id: int
    tag: str
    model: str
    site: str | None
    words: str
    raised_on: date
    said_last_on: date


class StrangerView(Schema):
    """A machine that reports and is not on record. says : what is in it"""

    calls_itself: str
    reported_at: datetime
    says: list[str]


class ReportsView(Schema):
    """What reports brought. ever, lately : machines that ever reported, and in the last week · in_use : machines in use"""

    as_of: date
    ever: int
    lately: int
    in_use: int
    total: int
    questions: list[ReportQuestionView]
    strangers: list[StrangerView]


class SettleQuestionIn(Schema):
    reason: str = Field(max_length=300)


class TokenIn(Schema):
    """A key. days : until it opens nothing any more"""

    name: str = Field(max_length=200)
    scope: Scope
    days: int = Field(ge=1, le=3660)


class TokenMade(Schema):
    """A new key, shown this once. address : of the calendar, for a key that opens one"""

    token: str
    address: str | None


class TokenView(Schema):
    id: int
    name: str
    scope: Scope
    owner: str
    mine: bool
    made_at: datetime
    expires_at: datetime
    last_used_at: datetime | None
    ended_at: datetime | None


class TokenList(Schema):
    tokens: list[TokenView]
