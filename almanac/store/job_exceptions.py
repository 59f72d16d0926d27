"""What jobs left behind that a lead should know: parts that came from no shelf's new stock, and drives out of their machines."""

from __future__ import annotations

from datetime import date
from typing import NamedTuple

from sqlalchemy import text
from sqlalchemy.orm import Session

RECOVERED = """
SELECT p.number, l.fitted_from, j.id, a.tag, r.occurred_on, u.name
FROM job j JOIN asset a ON a.id = j.asset_id JOIN incident i ON i.id = j.incident_id
JOIN event_revision r ON r.incident_id = i.id AND r.number = i.latest_number
JOIN event_line l ON l.revision_id = r.id JOIN part p ON p.id = l.fitted_part_id LEFT JOIN "user" u ON u.id = r.author_id
WHERE l.fitted_from IS NOT NULL AND l.fitted_from NOT IN ('on_hand', 'issued') AND r.occurred_on >= :since
ORDER BY j.id, l.number
"""
DRIVES = """
SELECT DISTINCT ON (c.unit_id) c.unit_id, p.number, n.serial, c.words, c.recorded_at::date, u.name, j.id, a.tag
FROM custody_line c JOIN unit n ON n.id = c.unit_id JOIN part p ON p.id = n.part_id
JOIN job j ON j.id = (SELECT min(f.job_id) FROM custody_line f WHERE f.unit_id = c.unit_id)
JOIN asset a ON a.id = j.asset_id LEFT JOIN "user" u ON u.id = c.author_id
WHERE NOT EXISTS (SELECT 1 FROM tenure t WHERE t.unit_id = c.unit_id AND t.removed_on IS NULL)
ORDER BY c.unit_id, c.id DESC
"""


class RecoveredRow(NamedTuple):
    """A part that a job fitted from a bucket that is not new stock."""

    number: str
    bucket: str
    job_id: int
    tag: str
    on: date
    author: str | None


class DriveRow(NamedTuple):
    """A drive that is out of its machine, with the last line of its custody, and the job that took it out."""

    unit_id: int
    number: str
    serial: str | None
    words: str
    on: date
    author: str | None
    job_id: int
    tag: str


def recovered_at_bench(session: Session, since: date) -> list[RecoveredRow]:
    """Parts fitted at the bench that were not new, since a day."""
    return [RecoveredRow(*row) for row in session.execute(text(RECOVERED), {"since": since})]


def drives_in_custody(session: Session) -> list[DriveRow]:
    """Drives that left their machine at the bench and are in no other one."""
    return [DriveRow(*row) for row in session.execute(text(DRIVES))]
