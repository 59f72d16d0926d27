"""Rows that the rates count in part, wrongly or not at all, found in SQL."""

from __future__ import annotations

from datetime import date
from typing import NamedTuple

from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.core.life.outcomes import DEAD_ON_ARRIVAL_DAYS
from almanac.store.evidence import CURRENT_REVISION

ENDED = f"""
    SELECT l.removed_tenure_id AS tenure_id, l.finding, r.occurred_on, r.last_good_on, v.incident_id
    FROM event_line l JOIN ({CURRENT_REVISION}) r ON r.id = l.revision_id JOIN event_revision v ON v.id = r.id
    WHERE l.removed_tenure_id IS NOT NULL AND l.action <> 'kept'
"""
TENURES = f"""
    FROM tenure t JOIN part p ON p.id = t.part_id JOIN asset a ON a.id = t.asset_id LEFT JOIN ({ENDED}) e ON e.tenure_id = t.id
    WHERE p.kind = ANY(:kinds) AND
"""
OLD_DAYS = 180
CONDITIONS = {
    "future": "t.fitted_on > :as_of",
    "still_open": "e.finding = 'open' AND e.occurred_on < :as_of - :old_days",
    "found": "e.last_good_on IS NOT NULL AND e.finding IN ('confirmed', 'open')",
    "unexplained": "t.removed_on IS NOT NULL AND e.tenure_id IS NULL AND (a.retired_on IS NULL OR t.removed_on < a.retired_on)",
    "gone_machine": "t.removed_on IS NULL AND a.retired_on IS NOT NULL AND a.retired_on < :as_of",
    "no_exposure": """LEAST(COALESCE(e.occurred_on, t.removed_on, :as_of), :as_of) - t.fitted_on + t.age_at_fitting_days
        <= GREATEST(t.observed_from - t.fitted_on + t.age_at_fitting_days, :early_days) AND t.fitted_on <= :as_of""",
    "nowhere": """NOT EXISTS (SELECT 1 FROM asset_stay y WHERE y.asset_id = a.id
        AND y.from_on <= GREATEST(LEAST(COALESCE(e.occurred_on, t.removed_on, :as_of), :as_of) - 1, a.in_service_on)
        AND (y.until_on IS NULL
             OR y.until_on > GREATEST(LEAST(COALESCE(e.occurred_on, t.removed_on, :as_of), :as_of) - 1, a.in_service_on)))""",
}
"""Conditions on a tenure t with its part p, machine a and the entry e that ended it, if any."""
BEFORE_LOG = f"""
SELECT count(*) OVER () AS total, a.tag, COALESCE(p.number, '') AS part, e.occurred_on AS day, e.incident_id, p.kind
FROM ({ENDED}) e JOIN incident i ON i.id = e.incident_id JOIN site s ON s.id = i.site_id JOIN asset a ON a.id = i.asset_id
JOIN tenure t ON t.id = e.tenure_id JOIN part p ON p.id = t.part_id
WHERE p.kind = ANY(:kinds) AND e.occurred_on < s.log_began_on
ORDER BY 4, 2 LIMIT :most
"""


class OddRow(NamedTuple):
    """A row that is odd: machine, part (none where only its kind is known), day, and the entry of the log behind it, if any."""

    tag: str
    part: str
    day: date
    incident_id: int | None
    kind: str


def odd_rows(session: Session, check: str, *, kinds: list[str], as_of: date, most: int) -> tuple[int, list[OddRow]]:
    """How many rows a check finds, and the first of them.

    check : a key of CONDITIONS, or "before_log"
    """
    query = (
        BEFORE_LOG
        if check == "before_log"
        else f"""
        SELECT count(*) OVER () AS total, a.tag, p.number AS part,
               COALESCE(e.occurred_on, t.removed_on, t.fitted_on) AS day, e.incident_id, p.kind
        {TENURES} {CONDITIONS[check]} ORDER BY 4 DESC, 2 LIMIT :most"""
    )
    bound = {"kinds": kinds, "as_of": as_of, "most": most, "old_days": OLD_DAYS, "early_days": DEAD_ON_ARRIVAL_DAYS}
    rows = session.execute(text(query), bound).all()
    return (int(rows[0][0]) if rows else 0), [OddRow(*row[1:]) for row in rows]
