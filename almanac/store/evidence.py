"""What the database knows of lives and of the fleet in service, aggregated in SQL by pool."""

from __future__ import annotations

from datetime import date, datetime
from typing import NamedTuple

from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.core.life.outcomes import DEAD_ON_ARRIVAL_DAYS

LATEST_REVISION = """
    SELECT DISTINCT ON (incident_id) id, incident_id, occurred_on
    FROM event_revision
    WHERE recorded_at <= :known_at
    ORDER BY incident_id, number DESC
"""
"""The revision of each incident that held at a moment."""

# The pool's class is that of the site where the tenure ended, or where the machine stands today.
TENURE_COUNTS = f"""
WITH latest AS MATERIALIZED ({LATEST_REVISION}),
ended AS MATERIALIZED (
    SELECT l.removed_tenure_id AS tenure_id, l.finding, r.occurred_on
    FROM event_line l JOIN latest r ON r.id = l.revision_id
    WHERE l.removed_tenure_id IS NOT NULL AND l.action <> 'kept'
),
lived AS (
    SELECT t.part_id, t.model_id, t.asset_id, t.fitted_on, e.finding,
           t.age_at_fitting_days + (t.observed_from - t.fitted_on) AS entry_age,
           t.observed_from = t.fitted_on AND t.age_at_fitting_days = 0 AS fresh,
           t.age_at_fitting_days - (t.fitted_on - date '2000-01-01') AS age_offset,
           LEAST(COALESCE(e.occurred_on, CASE WHEN t.removal_recorded_at <= :known_at THEN t.removed_on END, :as_of), :as_of) AS last_on
    FROM tenure t LEFT JOIN ended e ON e.tenure_id = t.id
    WHERE t.recorded_at <= :known_at AND t.observed_from <= :as_of
)
SELECT v.part_id, v.model_id, a.duty, s.environment, v.finding, v.fresh,
       v.last_on - v.fitted_on <= :early_days AS early,
       v.age_offset + (v.last_on - date '2000-01-01') > GREATEST(v.entry_age, :early_days) AS exposed,
       count(*) AS tenures,
       sum(GREATEST(v.age_offset + (v.last_on - date '2000-01-01') - GREATEST(v.entry_age, :early_days), 0))::double precision
           AS exposure_days
FROM lived v
JOIN asset a ON a.id = v.asset_id
JOIN asset_stay y ON y.asset_id = v.asset_id
     AND y.from_on <= GREATEST(v.last_on - 1, a.in_service_on)
     AND (y.until_on IS NULL OR y.until_on > GREATEST(v.last_on - 1, a.in_service_on))
JOIN site s ON s.id = y.site_id
GROUP BY 1, 2, 3, 4, 5, 6, 7, 8
"""

IN_SERVICE = """
SELECT part_id, model_id, duty, environment, site_id, array_agg(retire_day), array_agg(units)
FROM (
    SELECT t.part_id, t.model_id, a.duty, s.environment, y.site_id,
           CASE WHEN a.retire_planned_on > :as_of THEN a.retire_planned_on - :as_of END AS retire_day,
           count(*)::integer AS units
    FROM tenure t
    JOIN asset a ON a.id = t.asset_id
    JOIN asset_stay y ON y.asset_id = a.id AND y.until_on IS NULL
    JOIN site s ON s.id = y.site_id
    WHERE t.removed_on IS NULL AND a.retired_on IS NULL AND a.in_service_on <= :as_of
    GROUP BY 1, 2, 3, 4, 5, 6
) by_day
GROUP BY 1, 2, 3, 4, 5
"""

ASSETS_IN_SERVICE = """
SELECT a.model_id, a.duty, y.site_id, count(*) AS assets
FROM asset a JOIN asset_stay y ON y.asset_id = a.id AND y.until_on IS NULL
WHERE a.retired_on IS NULL AND a.in_service_on <= :as_of
GROUP BY 1, 2, 3
"""


class TenureRow(NamedTuple):
    """Tenures of one pool and outcome."""

    part_id: int
    model_id: int
    duty: str
    environment: str
    finding: str | None
    fresh: bool
    early: bool
    exposed: bool
    tenures: int
    exposure_days: float


class ServiceRow(NamedTuple):
    """Units of one pool in service at a site, by the days until their machines retire (None: not planned)."""

    part_id: int
    model_id: int
    duty: str
    environment: str
    site_id: int
    retire_days: tuple[int | None, ...]
    units: tuple[int, ...]


def tenure_counts(session: Session, *, as_of: date, known_at: datetime) -> list[TenureRow]:
    """Tenures by pool and outcome, as they were recorded at a moment and up to a day."""
    bound = {"as_of": as_of, "known_at": known_at, "early_days": DEAD_ON_ARRIVAL_DAYS}
    return [TenureRow(*row) for row in session.execute(text(TENURE_COUNTS), bound)]


def in_service(session: Session, *, as_of: date) -> list[ServiceRow]:
    """Units in service today by pool, site and planned retirement; a planned day already past is no plan."""
    found = session.execute(text(IN_SERVICE), {"as_of": as_of})
    return [
        ServiceRow(part_id, model_id, duty, environment, site_id, tuple(days), tuple(units))
        for part_id, model_id, duty, environment, site_id, days, units in found
    ]


def assets_in_service(session: Session, *, as_of: date) -> dict[tuple[int, str, int], int]:
    """Machines in service by (model, duty, site)."""
    return {(row.model_id, row.duty, row.site_id): row.assets for row in session.execute(text(ASSETS_IN_SERVICE), {"as_of": as_of})}


ENTRIES = f"""
WITH latest AS MATERIALIZED ({LATEST_REVISION})
SELECT r.incident_id, r.occurred_on, a.tag, m.maker || ' ' || m.name AS model, s.name AS site, l.finding,
       r.occurred_on - t.fitted_on + t.age_at_fitting_days AS age_days,
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
    """A log entry that ended a tenure of a part."""

    incident_id: int
    occurred_on: date
    tag: str
    model: str
    site: str
    finding: str
    age_days: int
    early: bool
    exposed: bool


def entries_of_parts(session: Session, parts: list[int], *, as_of: date, known_at: datetime) -> list[EntryRow]:
    """Every log entry that took one of these parts out, latest first."""
    bound = {"parts": parts, "as_of": as_of, "known_at": known_at, "early_days": DEAD_ON_ARRIVAL_DAYS}
    return [EntryRow(*row) for row in session.execute(text(ENTRIES), bound)]
