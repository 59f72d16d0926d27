"""What a lead changed in the catalogue or the company, kept in words: of what, which field, from what to what."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import date

from sqlalchemy.orm import Session

from almanac.services.clock import Clock
from almanac.services.words import day
from almanac.store.models import CatalogChange

Field = tuple[str, str, str]
"""A field with what it was and what it is now, in words."""


def note_changes(session: Session, subject: str, fields: Iterable[Field], *, clock: Clock, author_id: int | None) -> int:
    """Put the fields that were changed on record; returns how many those are."""
    changed = [one for one in fields if one[1] != one[2]]
    session.add_all(
        CatalogChange(
            subject=subject, field=name, before=was, after=now, changed_on=clock.today, recorded_at=clock.now, author_id=author_id
        )
        for name, was, now in changed
    )
    session.flush()
    return len(changed)


def in_words(value: object) -> str:
    """A value as the record tells it."""
    if value is None:
        return "not known"
    return day(value) if isinstance(value, date) else str(value).strip()
