"""Parts in a job's hands, and the one it waits for."""

from __future__ import annotations

from datetime import date
from typing import Literal

from pydantic import Field

from almanac.web.schemas.base import Schema


class IssuedView(Schema):
    """Parts of a shelf that a job has in its hands."""

    part_number: str
    part_name: str
    site: str
    quantity: int


class WaitedView(Schema):
    """The part a job waits for; `kept` where it lies there for this machine, `due_on` null where nothing is coming."""

    part_number: str
    part_name: str
    kept: bool
    due_on: date | None
    due_with: str | None


class WithParts(Schema):
    """What a job has in its hands, and what it waits for."""

    issued: list[IssuedView]
    waited: WaitedView | None


class IssueIn(Schema):
    """Parts for a job, or back from it."""

    act: Literal["issue", "give_back"]
    part_number: str = Field(max_length=60)
    site: str = Field(max_length=20)
    quantity: int = Field(default=1, ge=1, le=1000)
