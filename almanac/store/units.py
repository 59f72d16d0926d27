"""Physical parts by themselves: those recovered and tested, and who has a removed drive."""

from __future__ import annotations

from sqlalchemy import select, text
from sqlalchemy.orm import Session

from almanac.store.models import CustodyLine, Unit, User

HARVESTED = """
SELECT u.id, t.age_at_fitting_days + (t.removed_on - t.fitted_on) AS age_days
FROM unit u
JOIN LATERAL (SELECT * FROM tenure WHERE unit_id = u.id ORDER BY fitted_on DESC, id DESC LIMIT 1) t ON t.removed_on IS NOT NULL
JOIN LATERAL (
  SELECT l.removed_to, i.site_id FROM event_line l JOIN event_revision r ON r.id = l.revision_id
  JOIN incident i ON i.id = r.incident_id AND i.latest_number = r.number
  WHERE l.removed_tenure_id = t.id ORDER BY r.id DESC LIMIT 1
) l ON l.removed_to = 'harvested' AND l.site_id = :site
WHERE u.part_id = :part AND u.tested_on IS NOT NULL
ORDER BY (u.serial IS NOT DISTINCT FROM CAST(:serial AS text)) DESC, u.tested_on, u.id
"""


def harvested(session: Session, part_id: int, site_id: int, *, serial: str | None = None) -> list[tuple[Unit, int]]:
    """Recovered units of a part at a site that passed their test, with their age in days; the one with the serial first."""
    rows = session.execute(text(HARVESTED), {"part": part_id, "site": site_id, "serial": serial}).all()
    found = {unit.id: unit for unit in session.scalars(select(Unit).where(Unit.id.in_([row.id for row in rows])))}
    return [(found[row.id], row.age_days) for row in rows]


def custody(session: Session, unit_id: int) -> list[tuple[CustodyLine, str | None]]:
    """Where a removed drive has been, first line first, with who wrote each."""
    query = (
        select(CustodyLine, User.name)
        .outerjoin(User, User.id == CustodyLine.author_id)
        .where(CustodyLine.unit_id == unit_id)
        .order_by(CustodyLine.id)
    )
    return [(line, name) for line, name in session.execute(query)]
