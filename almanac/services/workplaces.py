"""Where people work: who is bound to sites writes what happens there, and nowhere else. Whoever is bound to none writes everywhere.

The bound is kept by what is written, whichever request wrote it: moves and promises of a shelf, counts, jobs and incidents of machines.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from sqlalchemy import Select, event, inspect, select
from sqlalchemy.orm import Session

from almanac.core.life.outcomes import Bucket
from almanac.store.models import (
    ApprovalRow,
    AssetStay,
    Backorder,
    EventRevision,
    Incident,
    Job,
    JobEntry,
    Reservation,
    Shelf,
    Site,
    StockCount,
    StockMove,
    Tenure,
    Transfer,
)

PLACES = "places"
"""Where the bound is kept in a session."""


class Elsewhere(Exception):
    """Something would be written at a site where this person does not work; nothing was changed."""


def bind_to(session: Session, sites: frozenset[int]) -> None:
    """Let a session write what happens at some sites alone; none binds it to nothing."""
    session.info[PLACES] = sites


def _itself(site_id: int) -> Select[Any]:
    return select(Site.id).where(Site.id == site_id)


def _of_shelf(shelf_id: int) -> Select[Any]:
    return select(Shelf.site_id).where(Shelf.id == shelf_id)


def _of_asset(asset_id: int) -> Select[Any]:
    return select(AssetStay.site_id).where(AssetStay.asset_id == asset_id).order_by(AssetStay.from_on.desc()).limit(1)


def _of_job(job_id: int) -> Select[Any]:
    return _of_asset_in(select(Job.asset_id).where(Job.id == job_id))


def _of_incident(incident_id: int) -> Select[Any]:
    return _of_asset_in(select(Incident.asset_id).where(Incident.id == incident_id))


def _of_asset_in(asset: Select[Any]) -> Select[Any]:
    one = asset.scalar_subquery()
    return select(AssetStay.site_id).where(AssetStay.asset_id == one).order_by(AssetStay.from_on.desc()).limit(1)


HAPPENS_AT: Mapping[type[Any], Callable[[Any], Select[Any] | None]] = {
    # What is under way is on nobody's shelf yet: who sends a parcel writes it for the shelf it goes to.
    StockMove: lambda row: None if row.bucket == Bucket.UNDER_WAY else _of_shelf(row.shelf_id),
    # A shelf is made where something is first sent to it; what is written on one that is there happens there.
    Shelf: lambda row: _itself(row.site_id) if inspect(row).persistent else None,
    # It is packed, sent and unpacked where it comes from, and arrives where it goes to.
    Transfer: lambda row: _itself(row.from_site_id if row.arrived_on is None else row.to_site_id),
    StockCount: lambda row: _of_shelf(row.shelf_id),
    Reservation: lambda row: _of_shelf(row.shelf_id),
    Backorder: lambda row: _of_shelf(row.shelf_id),
    Job: lambda row: _of_asset(row.asset_id),
    JobEntry: lambda row: _of_job(row.job_id),
    ApprovalRow: lambda row: _of_job(row.job_id),
    Incident: lambda row: _of_asset(row.asset_id),
    EventRevision: lambda row: _of_incident(row.incident_id),
    Tenure: lambda row: _of_asset(row.asset_id),
}
"""The site at which a row of a table happens; None where it happens at none."""


@event.listens_for(Session, "before_flush")
def _keep(session: Session, *_: object) -> None:
    """Refuse what would be written elsewhere.

    Raises
    ------
    Elsewhere : a new or changed row happens at a site this session is not bound to
    """
    sites: frozenset[int] = session.info.get(PLACES, frozenset())
    if not sites:
        return
    with session.no_autoflush:
        for row in (*session.new, *(one for one in session.dirty if session.is_modified(one))):
            happens = HAPPENS_AT.get(type(row), lambda _: None)(row)
            site = session.scalar(happens) if happens is not None else None
            if site is not None and site not in sites:
                raise Elsewhere(_words(session, site, sites))


def _words(session: Session, site: int, sites: frozenset[int]) -> str:
    rows = session.execute(select(Site.id, Site.code).where(Site.id.in_([site, *sites])))
    names: dict[int, str] = {number: code for number, code in rows}
    own = ", ".join(sorted(names[one] for one in sites if one in names))
    return f"This happens at {names[site]}, and you work at {own}. Somebody there, or a lead, can do it; a lead can let you, too."
