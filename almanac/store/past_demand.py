"""Parts drawn in the past, as the log now has them: what a forecast of then is held against."""

from __future__ import annotations

from datetime import date
from typing import NamedTuple

from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.store.evidence import CURRENT_REVISION

DRAWN = f"""
SELECT t.part_id, r.occurred_on AS drawn_on, a.in_service_on AS machine_since, count(*)::integer AS parts
FROM event_line l
JOIN ({CURRENT_REVISION}) r ON r.id = l.revision_id
JOIN tenure t ON t.id = l.removed_tenure_id
JOIN asset a ON a.id = t.asset_id
WHERE l.action <> 'kept' AND l.finding NOT IN ('upgrade', 'preventive')
GROUP BY 1, 2, 3
"""


class DrawnRow(NamedTuple):
    """Parts of one number that failures, damage or suspicion drew on a day, for machines in service since another."""

    part_id: int
    drawn_on: date
    machine_since: date
    parts: int


def past_demand(session: Session) -> list[DrawnRow]:
    """Every part drawn but for upgrades and planned swaps."""
    return [DrawnRow(*row) for row in session.execute(text(DRAWN))]


def first_entry(session: Session) -> date | None:
    """Day of the first entry of the log; None for an empty one."""
    found: date | None = session.scalar(text(f"SELECT min(occurred_on) FROM ({CURRENT_REVISION}) r"))
    return found
