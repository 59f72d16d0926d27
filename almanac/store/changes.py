"""What was changed in the catalogue, by whom and when."""

from __future__ import annotations

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
