"""Lives by whole day of age: the sufficient statistic of every life model, aggregated in SQL by pool."""

from __future__ import annotations

from datetime import date, datetime
from typing import NamedTuple

from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.core.life.outcomes import DEAD_ON_ARRIVAL_DAYS
from almanac.store.evidence import CURRENT_REVISION, FAR_DAYS, LIVED

AT_RISK = f"""
SELECT part_id, model_id, duty, site_id, day, sum(entered)::integer, sum(gone)::integer, sum(confirmed)::integer, sum(open)::integer
FROM ({LIVED}) lived
CROSS JOIN LATERAL (VALUES
  (GREATEST(entry_age, :early_days), 1, 0, 0, 0),
  (exit_age, 0, 1, COALESCE(finding = 'confirmed' AND age_days > :early_days, false)::integer,
   COALESCE(finding = 'open' AND age_days > :early_days, false)::integer)
) AS step (day, entered, gone, confirmed, open)
WHERE exit_age > GREATEST(entry_age, :early_days)
GROUP BY 1, 2, 3, 4, 5
"""
IN_SERVICE = f"""
SELECT part_id, model_id, duty, site_id, exit_age, count(*)::integer FROM ({LIVED}) lived WHERE in_service GROUP BY 1, 2, 3, 4, 5
"""


class AgeRow(NamedTuple):
    """Units of one pool that begin and end being at risk at an age in days, and how many of those that end failed."""

    part_id: int
    model_id: int
    duty: str
    site_id: int
    day: int
    entered: int
    gone: int
    confirmed: int
    open: int


class ServedRow(NamedTuple):
    """Units of one pool in service now at an age in days."""

    part_id: int
    model_id: int
    duty: str
    site_id: int
    day: int
    units: int


def at_risk(session: Session, *, as_of: date, known_at: datetime) -> tuple[list[AgeRow], list[ServedRow]]:
    """Every pool's ages at risk, and the ages of what is in service; wear-out exposure begins after the days of dead on arrival."""
    bound = {"as_of": as_of, "known_at": known_at, "early_days": DEAD_ON_ARRIVAL_DAYS, "far_days": FAR_DAYS}
    ages = session.execute(text(AT_RISK.format(revision=CURRENT_REVISION)), bound)
    served = session.execute(text(IN_SERVICE.format(revision=CURRENT_REVISION)), bound)
    return [AgeRow(*row) for row in ages], [ServedRow(*row) for row in served]
