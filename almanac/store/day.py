"""What the bench's day is made of beside its jobs: planned swaps that come due, and packs and drives that were read as worn."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import date
from typing import NamedTuple

from sqlalchemy import text
from sqlalchemy.orm import Session

SWAPS = """
SELECT f.planned_on, f.quantity, m.maker || ' ' || m.name AS model, s.name AS site, s.code AS site_code, p.number AS part_number,
       p.name AS part_name, f.note,
       COALESCE((SELECT sum(r.quantity) FROM reservation r WHERE r.plan_id = f.id AND r.released_on IS NULL), 0)::integer AS kept
FROM fleet_plan f JOIN device_model m ON m.id = f.model_id JOIN site s ON s.id = f.site_id JOIN part p ON p.id = f.part_id
WHERE f.action = 'swap' AND f.withdrawn_at IS NULL AND f.planned_on BETWEEN :since AND :until
ORDER BY f.planned_on, f.id
"""
WORN = """
WITH last AS (SELECT DISTINCT ON (tenure_id) tenure_id, read_on, "full", design FROM reading WHERE NOT withdrawn
              ORDER BY tenure_id, read_on DESC, id DESC)
SELECT a.tag, m.maker || ' ' || m.name AS model, s.name AS site, s.code AS site_code, p.number AS part_number, p.name AS part_name,
       p.kind, r.read_on, (r."full" / r.design)::float AS share, count(*) OVER () AS total
FROM last r JOIN tenure t ON t.id = r.tenure_id AND t.removed_on IS NULL JOIN part p ON p.id = t.part_id
JOIN unnest(CAST(:numbers AS text[]), CAST(:limits AS float8[])) AS l(number, most) ON l.number = p.number
JOIN asset a ON a.id = t.asset_id AND a.retired_on IS NULL JOIN device_model m ON m.id = a.model_id
JOIN asset_stay y ON y.asset_id = a.id AND y.until_on IS NULL JOIN site s ON s.id = y.site_id
WHERE r."full" < r.design * l.most AND NOT EXISTS (SELECT 1 FROM job j WHERE j.asset_id = a.id AND j.ended_at IS NULL)
ORDER BY share, a.tag LIMIT :most
"""
FINDINGS = """
SELECT count(*) FROM event_revision r JOIN incident i ON i.id = r.incident_id AND i.latest_number = r.number WHERE r.finding = 'open'
"""


class PlannedSwap(NamedTuple):
    """A swap of a part in some machines of a model at a site. kept : parts that are reserved for it"""

    planned_on: date
    quantity: int
    model: str
    site: str
    site_code: str
    part_number: str
    part_name: str
    note: str
    kept: int


class WornUnit(NamedTuple):
    """A part whose last reading says how much it still gives of what it was made for; nobody works on its machine."""

    tag: str
    model: str
    site: str
    site_code: str
    part_number: str
    part_name: str
    kind: str
    read_on: date
    share: float


def planned_swaps(session: Session, *, since: date, until: date) -> list[PlannedSwap]:
    """Swaps planned for some days, the earliest first."""
    return [PlannedSwap(*row) for row in session.execute(text(SWAPS), {"since": since, "until": until})]


def worn_units(session: Session, limits: Mapping[str, float], *, most: int) -> tuple[list[WornUnit], int]:
    """Units whose last reading is below a share, the lowest first, and how many there are. limits : shares by part number"""
    bound = {"numbers": list(limits), "limits": list(limits.values()), "most": most}
    rows = session.execute(text(WORN), bound).all()
    return [WornUnit(*row[:-1]) for row in rows], rows[0].total if rows else 0


def open_findings(session: Session) -> int:
    """Incidents whose finding nobody settled yet."""
    return int(session.scalar(text(FINDINGS)) or 0)
