"""Decisions on alarms, as they held at a moment."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime

from sqlalchemy import or_, select
from sqlalchemy.orm import Session

from almanac.store.models import AlarmDecision


def decisions(session: Session, *, known_at: datetime | None = None) -> Sequence[AlarmDecision]:
    """Decisions that hold, oldest first; by default now, else as they held at a moment."""
    query = select(AlarmDecision).order_by(AlarmDecision.decided_at, AlarmDecision.id)
    if known_at is None:
        return session.scalars(query.where(AlarmDecision.withdrawn_at.is_(None))).all()
    held = or_(AlarmDecision.withdrawn_at.is_(None), AlarmDecision.withdrawn_at > known_at)
    return session.scalars(query.where(AlarmDecision.decided_at <= known_at, held)).all()
