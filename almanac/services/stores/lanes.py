"""How sites are supplied from the depot: a lead changes days, timetable and the word for what carries it."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from almanac.core.stock.timetable import Timetable
from almanac.services.errors import Fault, Refused
from almanac.store import catalog
from almanac.store.models import Lane

LONGEST_DAYS, LONGEST_GAP = 365, 60


def change_lane(session: Session, site_code: str, wanted: Timetable) -> None:
    """Write down how a site is supplied, both ways; a site without a lane gets one.

    Raises
    ------
    Refused : no such site, the depot itself, no depot, or a figure or weekday that cannot be, each with its place
    """
    sites = catalog.sites(session)
    site = next((one for one in sites if one.code == site_code.upper()), None)
    depot = next((one for one in sites if one.is_depot), None)
    faults = _faults(wanted)
    if site is None:
        faults.append(Fault("site", f"no site has the code {site_code}"))
    elif depot is None or site.is_depot:
        faults.append(Fault("site", "the depot is supplied by the suppliers" if site.is_depot else "no site is the depot"))
    if faults or site is None or depot is None:
        raise Refused(*faults)
    for start, goal in ((depot.id, site.id), (site.id, depot.id)):
        lane = session.scalar(select(Lane).where(Lane.from_site_id == start, Lane.to_site_id == goal))
        if lane is None:
            lane = Lane(from_site_id=start, to_site_id=goal)
            session.add(lane)
        lane.days, lane.every_days, lane.carrier = wanted.days, wanted.every_days, wanted.carrier.strip()
        lane.weekdays = sorted(set(wanted.weekdays))
    session.flush()


def _faults(wanted: Timetable) -> list[Fault]:
    faults = []
    if not 0 <= wanted.days <= LONGEST_DAYS:
        faults.append(Fault("days", f"0 to {LONGEST_DAYS} days were wanted, got {wanted.days}"))
    if wanted.every_days is not None and not 1 <= wanted.every_days <= LONGEST_GAP:
        faults.append(Fault("every_days", f"1 to {LONGEST_GAP} days were wanted, or nothing, got {wanted.every_days}"))
    if any(not 0 <= day <= 6 for day in wanted.weekdays):
        faults.append(Fault("weekdays", "0 (Monday) to 6 (Sunday) were wanted"))
    if wanted.weekdays and wanted.every_days:
        faults.append(Fault("every_days", "weekdays or every so many days: one of the two"))
    if not wanted.carrier.strip():
        faults.append(Fault("carrier", "say what carries it: boat, van, post"))
    return faults
