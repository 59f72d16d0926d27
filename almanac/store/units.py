"""Physical parts by themselves: those recovered and tested, and who has a removed drive."""

from __future__ import annotations

from datetime import date
from typing import NamedTuple

from sqlalchemy import select, text
from sqlalchemy.orm import Session

from almanac.core.life.outcomes import REMOVED_TO
from almanac.store.models import CustodyLine, Tenure, Unit, User

WENT_TO = "COALESCE(l.removed_to, CASE l.finding " + " ".join(f"WHEN '{f}' THEN '{b}'" for f, b in REMOVED_TO.items()) + " END)"
"""Where an old part went: as was said, or on lines of before as its finding says."""
HARVESTED = f"""
SELECT u.id, t.age_at_fitting_days + (t.removed_on - t.fitted_on) AS age_days, t.age_span_days
FROM unit u
JOIN LATERAL (SELECT * FROM tenure WHERE unit_id = u.id ORDER BY fitted_on DESC, id DESC LIMIT 1) t ON t.removed_on IS NOT NULL
JOIN LATERAL (
  SELECT {WENT_TO} AS removed_to, i.site_id FROM event_line l JOIN event_revision r ON r.id = l.revision_id
  JOIN incident i ON i.id = r.incident_id AND i.latest_number = r.number
  WHERE l.removed_tenure_id = t.id ORDER BY r.id DESC LIMIT 1
) l ON l.removed_to = 'harvested' AND l.site_id = :site
WHERE u.part_id = :part AND u.tested_as = 'good'
ORDER BY (u.serial IS NOT DISTINCT FROM CAST(:serial AS text)) DESC, u.tested_on, u.id
"""


LAST_LEFT = """
SELECT l.removed_to FROM tenure t JOIN event_line l ON l.removed_tenure_id = t.id
JOIN event_revision r ON r.id = l.revision_id JOIN incident i ON i.id = r.incident_id AND i.latest_number = r.number
WHERE t.unit_id = :unit ORDER BY t.removed_on DESC NULLS LAST, r.id DESC LIMIT 1
"""


IN_STORE = f"""
unit u JOIN part p ON p.id = u.part_id
JOIN LATERAL (SELECT * FROM tenure WHERE unit_id = u.id ORDER BY fitted_on DESC, id DESC LIMIT 1) t ON t.removed_on IS NOT NULL
JOIN LATERAL (
  SELECT {WENT_TO} AS removed_to, i.site_id FROM event_line l JOIN event_revision r ON r.id = l.revision_id
  JOIN incident i ON i.id = r.incident_id AND i.latest_number = r.number
  WHERE l.removed_tenure_id = t.id ORDER BY r.id DESC LIMIT 1
) l ON l.removed_to = 'harvested'
JOIN asset a ON a.id = t.asset_id
"""
"""Recovered units that serve nowhere, with the machine they came out of."""
RECOVERED = f"""
SELECT u.id, u.serial, t.age_at_fitting_days + (t.removed_on - t.fitted_on) AS age_days, t.age_span_days, t.removed_on, a.tag,
       u.tested_on, u.tested_as
FROM {IN_STORE} WHERE u.part_id = :part AND l.site_id = :site AND u.tested_as IS DISTINCT FROM 'worn' ORDER BY t.removed_on, u.id
"""
TESTED = f"""
SELECT u.part_id, l.site_id, count(*)::integer AS units FROM {IN_STORE}
WHERE u.tested_as = 'good' AND p.shelf_life_days IS NULL AND p.kind <> ALL(:never) GROUP BY 1, 2
"""


class RecoveredRow(NamedTuple):
    """A recovered unit on a shelf. age_days : in service so far, or less by up to age_span_days
    tested_as : good or worn, None before its test
    """

    id: int
    serial: str | None
    age_days: int
    age_span_days: int
    removed_on: date
    tag: str
    tested_on: date | None
    tested_as: str | None


def recovered(session: Session, part_id: int, site_id: int) -> list[RecoveredRow]:
    """Recovered units of a part at a site, the first to come out first."""
    return [RecoveredRow(*row) for row in session.execute(text(RECOVERED), {"part": part_id, "site": site_id})]


def tested_good(session: Session, never: list[str]) -> dict[tuple[int, int], int]:
    """Recovered units that passed their test, by (part, site), of parts without a shelf life. never : kinds that are never stock again"""
    return {(row.part_id, row.site_id): row.units for row in session.execute(text(TESTED), {"never": never})}


def by_serial(session: Session, serial: str) -> Unit | None:
    """The unit with a serial, the latest where two have it."""
    return session.scalar(select(Unit).where(Unit.serial == serial).order_by(Unit.id.desc()).limit(1))


def open_tenure(session: Session, unit_id: int) -> Tenure | None:
    """Where a unit serves, None where it serves nowhere."""
    return session.scalar(select(Tenure).where(Tenure.unit_id == unit_id, Tenure.removed_on.is_(None)))


def last_left(session: Session, unit_id: int) -> str | None:
    """What became of a unit when it last came out of a machine, None where it never did."""
    found: str | None = session.scalar(text(LAST_LEFT), {"unit": unit_id})
    return found


def harvested(session: Session, part_id: int, site_id: int, *, serial: str | None = None) -> list[tuple[Unit, int, int]]:
    """Recovered units of a part at a site that passed their test, with their age in days, and by how much it may be less; the one with
    the serial first.
    """
    rows = session.execute(text(HARVESTED), {"part": part_id, "site": site_id, "serial": serial}).all()
    found = {unit.id: unit for unit in session.scalars(select(Unit).where(Unit.id.in_([row.id for row in rows])))}
    return [(found[row.id], row.age_days, row.age_span_days) for row in rows]


def custody(session: Session, unit_id: int) -> list[tuple[CustodyLine, str | None]]:
    """Where a removed drive has been, first line first, with who wrote each."""
    query = (
        select(CustodyLine, User.name)
        .outerjoin(User, User.id == CustodyLine.author_id)
        .where(CustodyLine.unit_id == unit_id)
        .order_by(CustodyLine.id)
    )
    return [(line, name) for line, name in session.execute(query)]
