"""What the database knows of lives and of the fleet in service, aggregated in SQL by pool."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import UTC, date, datetime
from typing import NamedTuple

from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.core.life.outcomes import DEAD_ON_ARRIVAL_DAYS

FAR_DAYS = 1500
"""Retirements planned for later than any forecast reaches are not told apart."""
EVER = datetime(9999, 1, 1, tzinfo=UTC)
"""A moment by which everything that is on record was recorded."""
LATEST_REVISION = """
    SELECT DISTINCT ON (incident_id) id, incident_id, occurred_on, last_good_on
    FROM event_revision
    WHERE recorded_at <= :known_at
    ORDER BY incident_id, number DESC
"""
"""The revision of each incident that held at a moment."""

CURRENT_REVISION = """
    SELECT r.id, r.incident_id, r.occurred_on, r.last_good_on
    FROM event_revision r JOIN incident i ON i.id = r.incident_id AND i.latest_number = r.number
"""
"""The same for this moment, by the number that each incident repeats: no sorting."""

# One pass over the tenures. The pool's class is that of the site where the tenure ended, or where the machine stands today;
# the days until retirement are kept for what is still in service.
LIVED = """
    SELECT v.part_id, v.model_id, a.duty, y.site_id, v.finding, v.fresh, v.entry_age, v.age_span,
           v.age_span > 0 AND v.age_at_fitting_days = 0 AND v.fitted_on = a.in_service_on AS with_machine,
           v.last_on - v.fitted_on AS age_days, v.age_at_fitting_days + (v.last_on - v.fitted_on) AS exit_age,
           v.age_at_fitting_days + (v.last_good_on - v.fitted_on) AS good_age,
           v.tenure_id, v.incident_id, v.last_on, a.tag,
           v.runs AND (a.retired_on IS NULL OR a.retired_on > :as_of) AND a.in_service_on <= :as_of AS in_service,
           CASE WHEN v.runs AND a.retire_planned_on > :as_of AND a.retire_planned_on <= :as_of + :far_days
                THEN a.retire_planned_on - :as_of END AS retire_day
    FROM (
        SELECT t.id AS tenure_id, t.part_id, t.model_id, t.asset_id, t.fitted_on, t.age_at_fitting_days, t.age_span_days AS age_span,
               e.finding, e.incident_id, e.last_good_on,
               e.occurred_on IS NULL AND (t.removed_on IS NULL OR t.removed_on > :as_of OR t.removal_recorded_at > :known_at) AS runs,
               t.age_at_fitting_days + (t.observed_from - t.fitted_on) AS entry_age,
               t.observed_from = t.fitted_on AND t.age_at_fitting_days = 0 AS fresh,
               LEAST(COALESCE(e.occurred_on, CASE WHEN t.removal_recorded_at <= :known_at THEN t.removed_on END, :as_of), :as_of) AS last_on
        FROM tenure t
        LEFT JOIN (
            SELECT l.removed_tenure_id AS tenure_id, l.finding, r.occurred_on, r.incident_id, r.last_good_on
            FROM event_line l JOIN ({revision}) r ON r.id = l.revision_id
            WHERE l.removed_tenure_id IS NOT NULL AND l.action <> 'kept'
        ) e ON e.tenure_id = t.id
        WHERE t.recorded_at <= :known_at AND t.observed_from <= :as_of
    ) v
    JOIN asset a ON a.id = v.asset_id
    JOIN asset_stay y ON y.asset_id = v.asset_id
         AND y.from_on <= GREATEST(v.last_on - 1, a.in_service_on)
         AND (y.until_on IS NULL OR y.until_on > GREATEST(v.last_on - 1, a.in_service_on))
"""
"""Every tenure with its ages, its end and whether it is in service, as known at a moment."""
SEEN_GOOD = "GREATEST(entry_age, good_age, :early_days)"
FOUND = f"""(good_age IS NOT NULL AND finding IN ('confirmed', 'open')
    AND age_days > :early_days AND age_span = 0 AND exit_age - {SEEN_GOOD} > 1)"""
"""A failure of which it is only known that it lies between two ages, further apart than a day: LIVED's SEEN_GOOD and exit_age."""

SERVING = """
    asset a JOIN asset_stay y ON y.asset_id = a.id AND y.from_on <= :as_of AND (y.until_on IS NULL OR y.until_on > :as_of)
        AND a.in_service_on <= :as_of AND (a.retired_on IS NULL OR a.retired_on > :as_of)
"""
"""Machines in service on a day, with the stay that says where."""
ASSETS_IN_SERVICE = f"""
SELECT a.model_id, a.duty, y.site_id, count(*) AS assets
FROM {SERVING} WHERE a.model_id = ANY(:models)
GROUP BY 1, 2, 3
"""


def assets_in_service(session: Session, models: Iterable[int], *, as_of: date) -> dict[tuple[int, str, int], int]:
    """Machines of some models in service, by (model, duty, site)."""
    found = session.execute(text(ASSETS_IN_SERVICE), {"models": sorted(set(models)), "as_of": as_of})
    return {(row.model_id, row.duty, row.site_id): row.assets for row in found}


ENTRIES = f"""
WITH latest AS MATERIALIZED ({LATEST_REVISION})
SELECT r.incident_id, r.occurred_on, a.tag, m.maker || ' ' || m.name AS model, s.name AS site, l.finding,
       r.occurred_on - t.fitted_on + t.age_at_fitting_days AS age_days, t.age_span_days,
       r.occurred_on - t.fitted_on <= :early_days AS early,
       r.occurred_on - t.fitted_on + t.age_at_fitting_days
           > GREATEST(t.observed_from - t.fitted_on + t.age_at_fitting_days, :early_days) AS exposed
FROM event_line l
JOIN latest r ON r.id = l.revision_id
JOIN tenure t ON t.id = l.removed_tenure_id
JOIN incident i ON i.id = r.incident_id
JOIN asset a ON a.id = i.asset_id
JOIN device_model m ON m.id = a.model_id
JOIN site s ON s.id = i.site_id
WHERE t.part_id = ANY(:parts) AND l.action <> 'kept' AND r.occurred_on <= :as_of
ORDER BY r.occurred_on DESC, r.incident_id DESC
"""


class EntryRow(NamedTuple):
    """A log entry that ended a tenure of a part. age_span_days : by so much its age may be less"""

    incident_id: int
    occurred_on: date
    tag: str
    model: str
    site: str
    finding: str
    age_days: int
    age_span_days: int
    early: bool
    exposed: bool


def entries_of_parts(session: Session, parts: list[int], *, as_of: date, known_at: datetime) -> list[EntryRow]:
    """Every log entry that took one of these parts out, latest first."""
    bound = {"parts": parts, "as_of": as_of, "known_at": known_at, "early_days": DEAD_ON_ARRIVAL_DAYS}
    return [EntryRow(*row) for row in session.execute(text(ENTRIES), bound)]


def any_incident(session: Session) -> bool:
    """Whether anything was ever recorded in the failure log."""
    return bool(session.scalar(text("SELECT EXISTS (SELECT 1 FROM incident)")))
