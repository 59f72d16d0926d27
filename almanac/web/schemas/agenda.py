"""What is due today for whoever looks."""

from __future__ import annotations

from datetime import date

from almanac.services.agenda import DueGroup
from almanac.store.models import Role
from almanac.web.schemas.base import Schema


class TodayQuery(Schema):
    """Whose day it is."""

    role: Role = Role.READER


class DueView(Schema):
    """Something that is due. on : its day, None where it is due until it is done · path : of the page where it is done"""

    group: DueGroup
    words: str
    more: str
    path: str
    on: date | None
    late: bool
    site: str | None


class TodayView(Schema):
    """What is due today, and what of it comes in the next week."""

    as_of: date
    due: list[DueView]
    coming: list[DueView]
