"""Answers take no more room than the company allows: the longest unused go first, what somebody acted on never."""

from __future__ import annotations

from sqlalchemy.orm import Session

from almanac.services.clock import FAR_FUTURE
from almanac.store import answers
from almanac.store.settings import settings_on

MEGABYTES = 2000
"""Ceiling of the table, unless the company sets another."""


def keep_within_ceiling(session: Session) -> int:
    """Drop what is over the ceiling [cfg `answers_megabytes`]; returns how many answers went."""
    most = float(settings_on(session, FAR_FUTURE).value("answers_megabytes", default=MEGABYTES))
    return answers.drop_longest_unused(session, most_bytes=int(most * 1e6))
