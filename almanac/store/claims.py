"""Failed parts their supplier still stands for, and machines about to retire with what they would give."""

from __future__ import annotations

from datetime import date
from typing import NamedTuple

from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.store.evidence import CURRENT_REVISION
from almanac.store.units import WENT_TO

CLAIMS = f"""
SELECT r.incident_id, r.occurred_on, p.number AS part_number, p.name AS part_name, q.name AS supplier, a.tag, s.code AS site,
       t.fitted_on + p.warranty_days AS until_on, l.finding,
       {WENT_TO} AS removed_to, u.serial, p.price
FROM event_line l JOIN ({CURRENT_REVISION}) r ON r.id = l.revision_id JOIN incident i ON i.id = r.incident_id
JOIN tenure t ON t.id = l.removed_tenure_id JOIN unit u ON u.id = t.unit_id JOIN asset a ON a.id = t.asset_id
JOIN part p ON p.id = t.part_id AND p.warranty_days IS NOT NULL JOIN supplier q ON q.id = p.supplier_id JOIN site s ON s.id = i.site_id
WHERE l.action <> 'kept' AND l.finding IN ('confirmed', 'dead_on_arrival', 'open') AND r.occurred_on <= t.fitted_on + p.warranty_days
  AND t.fitted_on + p.warranty_days >= :since
ORDER BY until_on, r.incident_id
"""
RETIRING = """
SELECT a.tag, m.maker || ' ' || m.name AS model, s.code AS site, a.retire_planned_on, p.number AS part_number, p.name AS part_name,
       p.kind, count(*)::integer AS units, max((:today - t.fitted_on) + t.age_at_fitting_days)::integer AS oldest_days
FROM asset a JOIN device_model m ON m.id = a.model_id JOIN asset_stay y ON y.asset_id = a.id AND y.until_on IS NULL
JOIN site s ON s.id = y.site_id
LEFT JOIN tenure t ON t.asset_id = a.id AND t.removed_on IS NULL LEFT JOIN part p ON p.id = t.part_id AND p.kind <> ALL(:never)
WHERE a.retired_on IS NULL AND a.retire_planned_on IS NOT NULL AND a.retire_planned_on <= :until
GROUP BY 1, 2, 3, 4, 5, 6, 7 ORDER BY a.retire_planned_on, a.tag, p.number LIMIT :most
"""


class ClaimRow(NamedTuple):
    """A failed part within its warranty. removed_to : where it went · until_on : last day of the warranty"""

    incident_id: int
    occurred_on: date
    part_number: str
    part_name: str
    supplier: str
    tag: str
    site: str
    until_on: date
    finding: str
    removed_to: str
    serial: str | None
    price: float


class RetiringRow(NamedTuple):
    """One part number of a machine about to retire; part_number is None where nothing of it is on record that could be kept."""

    tag: str
    model: str
    site: str
    retire_on: date
    part_number: str | None
    part_name: str | None
    kind: str | None
    units: int
    oldest_days: int | None


def claims(session: Session, *, since: date) -> list[ClaimRow]:
    """Failed parts whose warranty had not ended by a day, the soonest to end first."""
    return [ClaimRow(*row) for row in session.execute(text(CLAIMS), {"since": since})]


def retiring(session: Session, *, today: date, until: date, never: list[str], most: int = 2000) -> list[RetiringRow]:
    """What machines planned to retire until a day would give. never : kinds that are not kept from a machine"""
    bound = {"today": today, "until": until, "never": never, "most": most}
    return [RetiringRow(*row) for row in session.execute(text(RETIRING), bound)]
