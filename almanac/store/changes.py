"""What was changed in the catalogue, by whom and when."""

from __future__ import annotations

from collections.abc import Collection
from datetime import date
from typing import NamedTuple

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from almanac.store.models import CatalogChange, User


class ChangeRow(NamedTuple):
    """One field that was changed, in words."""

    changed_on: date
    field: str
    before: str
    after: str
    author: str | None


def changes_of(session: Session, *subjects: str, most: int = 30) -> list[ChangeRow]:
    """Changes of some subjects, the latest first."""
    query = select(CatalogChange.changed_on, CatalogChange.field, CatalogChange.before, CatalogChange.after, User.name)
    query = query.outerjoin(User, User.id == CatalogChange.author_id).where(CatalogChange.subject.in_(subjects))
    return [ChangeRow(*row) for row in session.execute(query.order_by(CatalogChange.id.desc()).limit(most))]


def count_of(session: Session, *subjects: str) -> int:
    """How many changes of some subjects are on record: what an edit has to name."""
    return session.scalar(select(func.count()).select_from(CatalogChange).where(CatalogChange.subject.in_(subjects))) or 0


def counts(session: Session) -> dict[str, int]:
    """How many changes of each subject are on record."""
    query = select(CatalogChange.subject, func.count()).group_by(CatalogChange.subject)
    return {subject: count for subject, count in session.execute(query)}


def latest(session: Session, subjects: Collection[str], most: int = 40) -> list[tuple[str, ChangeRow]]:
    """Changes of some subjects with whose they are, the latest first."""
    of, author = CatalogChange, User.name.label("author")
    query = select(of.subject, of.changed_on, of.field, of.before, of.after, author).outerjoin(User, User.id == of.author_id)
    rows = session.execute(query.where(of.subject.in_(list(subjects))).order_by(of.id.desc()).limit(most))
    return [(row.subject, ChangeRow(row.changed_on, row.field, row.before, row.after, row.author)) for row in rows]
