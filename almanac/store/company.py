"""What hangs on sites and suppliers."""

from __future__ import annotations

from datetime import date

from sqlalchemy import func, select, text
from sqlalchemy.orm import Session

from almanac.store.models import AssetStay, Incident, Part

WATCH = """
UPDATE tenure t
SET observed_from = LEAST(GREATEST(t.fitted_on, :now), COALESCE(t.removed_on, GREATEST(t.fitted_on, :now))),
    age_span_days = CASE WHEN t.as_delivered
        THEN LEAST(GREATEST(t.fitted_on, :now), COALESCE(t.removed_on, GREATEST(t.fitted_on, :now))) - t.fitted_on
        ELSE LEAST(t.age_span_days, t.age_at_fitting_days + GREATEST(:now - t.fitted_on, 0)) END
FROM asset a JOIN LATERAL (SELECT site_id FROM asset_stay y WHERE y.asset_id = a.id ORDER BY y.from_on DESC LIMIT 1) s ON true
WHERE a.id = t.asset_id AND s.site_id = :site
  AND t.observed_from = LEAST(GREATEST(t.fitted_on, :was), COALESCE(t.removed_on, GREATEST(t.fitted_on, :was)))
"""
"""Lives that were under watch since a site's log began, or since they began themselves. What was concluded to have come with its
machine may have been replaced until then, so that its age is a span; what somebody saw fitted stays as old as it is."""


def machines_by_site(session: Session) -> dict[int, int]:
    """Machines that stand at each site."""
    query = select(AssetStay.site_id, func.count()).where(AssetStay.until_on.is_(None)).group_by(AssetStay.site_id)
    return {site: count for site, count in session.execute(query)}


def parts_by_supplier(session: Session) -> dict[int, int]:
    """Parts each supplier sells."""
    query = select(Part.supplier_id, func.count()).group_by(Part.supplier_id)
    return {supplier: count for supplier, count in session.execute(query)}


def first_incident(session: Session, site_id: int) -> date | None:
    """Day of the first incident on record at a site."""
    return session.scalar(select(func.min(Incident.occurred_on)).where(Incident.site_id == site_id))


def watch_since(session: Session, site_id: int, *, was: date, now: date) -> None:
    """Move the day from which lives at a site are under watch."""
    session.execute(text(WATCH), {"site": site_id, "was": was, "now": now})
