"""The share of what it was made for at which a part in service is swapped."""

from __future__ import annotations

from sqlalchemy.orm import Session

from almanac.core.parts.declared.kinds import WORN
from almanac.services.clock import Clock
from almanac.store import catalog
from almanac.store.settings import settings_on


def worn_limits(session: Session, clock: Clock) -> dict[str, float]:
    """That share by part number; the company may have set it by kind or part."""
    settings = settings_on(session, clock.today)

    def limit(kind: str, number: str) -> float:
        return float(settings.value(WORN[kind].setting, kind=kind, part_number=number, default=WORN[kind].share))

    return {part.number: limit(part.kind, part.number) for part in catalog.stock_parts(session, tuple(WORN))}
