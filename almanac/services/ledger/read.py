"""Reading the ledger: pages of the log, one incident's history, and the card of a machine."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from sqlalchemy.orm import Session

from almanac.core.life.outcomes import Bucket
from almanac.services.errors import Fault, NotFound, Refused
from almanac.store import assets, catalog, incidents, shelves
from almanac.store.incidents import LogEntry, LogFilter, PageKey
from almanac.store.models import Asset, DeviceModel, Fits, Part, Position, Site, Tenure, Unit


@dataclass(frozen=True)
class Page:
    """Entries of a page, the key of the next one, and the count of all when it was asked for."""

    entries: list[LogEntry]
    next_key: str | None
    total: int | None


def read_page(session: Session, wanted: LogFilter, *, after: str | None, limit: int) -> Page:
    """A page of the log after a key; the first page also counts.

    Raises
    ------
    Refused : the key was not given out by a page before
    """
    key = _parse(after) if after else None
    entries = incidents.log_page(session, wanted, after=key, limit=limit + 1)
    more, entries = len(entries) > limit, entries[:limit]
    total = incidents.log_count(session, wanted) if after is None else None
    return Page(entries, _key(entries[-1]) if more else None, total)


def _key(entry: LogEntry) -> str:
    return f"{int(entry.finding == 'open')}.{entry.occurred_on.isoformat()}.{entry.incident_id}"


def _parse(after: str) -> PageKey:
    try:
        is_open, day, incident = after.split(".")
        return PageKey(is_open == "1", date.fromisoformat(day), int(incident))
    except ValueError as error:
        raise Refused(Fault("after", "this is not the key of a page: start again from the first page")) from error


def read_history(session: Session, incident_id: int) -> list[LogEntry]:
    """Every revision of an incident.

    Raises
    ------
    NotFound : there is no such incident
    """
    found = incidents.history(session, incident_id)
    if not found:
        raise NotFound(f"there is no incident {incident_id}")
    return found


@dataclass(frozen=True)
class Card:
    """A machine with its positions: what is in each, and what fits there with stock by site code."""

    asset: Asset
    model: DeviceModel
    site: Site | None
    positions: list[tuple[Position, tuple[Tenure, Part, Unit] | None, list[tuple[Fits, Part, dict[str, int]]]]]


def read_card(session: Session, tag: str, *, today: date) -> Card:
    """The card of a machine by its tag. Positions whose option the machine is known not to have are left out.

    Raises
    ------
    NotFound : no asset has that tag
    """
    asset = assets.asset_by_tag(session, tag)
    if asset is None:
        raise NotFound(f"no asset has the tag {tag}: check the label, or import the asset first")
    held = assets.open_tenures(session, asset.id)
    positions = [p for p in assets.positions_of_model(session, asset.model_id) if p.id in held or _possible(p, asset)]
    fits = assets.fits_of(session, [position.id for position in positions])
    codes = {site.id: site.code for site in catalog.sites(session)}
    stock: dict[int, dict[str, int]] = {}
    for (part_id, site_id), buckets in shelves.balances(session).items():
        if buckets.get(Bucket.ON_HAND, 0) > 0:
            stock.setdefault(part_id, {})[codes[site_id]] = buckets[Bucket.ON_HAND]
    return Card(
        asset=asset,
        model=assets.model_of(session, asset),
        site=assets.site_on(session, asset.id, min(today, asset.retired_on or today)),
        positions=[(p, held.get(p.id), [(fit, part, stock.get(part.id, {})) for fit, part in fits.get(p.id, [])]) for p in positions],
    )


def _possible(position: Position, asset: Asset) -> bool:
    """False only when the machine's option is known to be another one; unknown stays possible."""
    wanted = position.option_condition or {}
    return all(asset.options.get(name, value) == value for name, value in wanted.items())
