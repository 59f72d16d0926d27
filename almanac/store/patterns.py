"""Counts of findings by part, and positions that failed again."""

from __future__ import annotations

from datetime import date
from typing import NamedTuple

from sqlalchemy import text
from sqlalchemy.orm import Session

FINDINGS_BY_PART = """
SELECT p.number, p.name, p.kind, l.finding, count(*)::integer AS lines
FROM event_line l
JOIN event_revision r ON r.id = l.revision_id
JOIN incident i ON i.id = r.incident_id AND i.latest_number = r.number
JOIN part p ON p.id = l.removed_part_id
WHERE l.action <> 'kept' OR l.finding = 'no_fault_found'
GROUP BY 1, 2, 3, 4
ORDER BY 1
"""

# The second failure of a position, where the part that failed was itself fitted because one had failed there.
AGAIN = """
WITH failed AS (
  SELECT t.id, t.asset_id, t.position_id, t.part_id, t.fitted_on, r.occurred_on, l.finding, i.id AS incident_id
  FROM event_line l
  JOIN event_revision r ON r.id = l.revision_id
  JOIN incident i ON i.id = r.incident_id AND i.latest_number = r.number
  JOIN tenure t ON t.id = l.removed_tenure_id
  WHERE l.finding IN ('confirmed', 'open', 'dead_on_arrival') AND l.action <> 'kept'
)
SELECT a.tag, m.maker || ' ' || m.name AS model, o.label AS position, o.kind, p.number AS part_number,
       f.incident_id, b.incident_id AS before_id, f.occurred_on, b.occurred_on AS before_on, (f.occurred_on - f.fitted_on) AS lasted_days
FROM failed f
JOIN failed b ON b.asset_id = f.asset_id AND b.position_id = f.position_id AND b.occurred_on = f.fitted_on AND b.id <> f.id
JOIN asset a ON a.id = f.asset_id
JOIN device_model m ON m.id = a.model_id
JOIN position o ON o.id = f.position_id
JOIN part p ON p.id = f.part_id
WHERE f.occurred_on > :since AND f.finding <> 'dead_on_arrival'
ORDER BY f.occurred_on - f.fitted_on, f.occurred_on DESC, a.tag, o.key
LIMIT :most
"""


class FindingCount(NamedTuple):
    """Lines of one finding of a part."""

    number: str
    name: str
    kind: str
    finding: str
    lines: int


class Again(NamedTuple):
    """A position that failed, was mended, and failed again."""

    tag: str
    model: str
    position: str
    kind: str
    part_number: str
    incident_id: int
    before_id: int
    occurred_on: date
    before_on: date
    lasted_days: int


def findings_by_part(session: Session) -> list[FindingCount]:
    """How often each part came out with each finding, as the latest revisions have it."""
    return [FindingCount(*row) for row in session.execute(text(FINDINGS_BY_PART))]


def failed_again(session: Session, *, since: date, most: int = 500) -> list[Again]:
    """Positions that failed again after a day, those whose part lasted shortest first."""
    return [Again(*row) for row in session.execute(text(AGAIN), {"since": since, "most": most})]
