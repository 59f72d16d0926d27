"""What is on record of machines, positions, lives and incidents, as tickets are held against it."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass
from datetime import date

from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.store.oldlog import Fleet, read_fleet

RECORDED = """
SELECT i.asset_id, l.position_id, i.occurred_on FROM incident i
JOIN event_revision r ON r.incident_id = i.id AND r.number = i.latest_number JOIN event_line l ON l.revision_id = r.id
"""


@dataclass(frozen=True)
class Record:
    """The fleet, and days on which incidents are on record, by machine and position."""

    fleet: Fleet
    recorded: dict[tuple[int, int], list[date]]


def read_record(session: Session) -> Record:
    """Everything tickets are held against."""
    recorded: dict[tuple[int, int], list[date]] = defaultdict(list)
    for asset, position, day in session.execute(text(RECORDED)):
        recorded[asset, position].append(day)
    return Record(read_fleet(session), recorded)
