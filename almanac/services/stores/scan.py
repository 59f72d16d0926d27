"""A scan opens the act that fits: receive what is on order, take in what is under way, count a shelf, look at a machine."""

from __future__ import annotations

from dataclasses import dataclass
from urllib.parse import quote

from sqlalchemy.orm import Session

from almanac.core.stock.labels import Scanned, read_label
from almanac.services.errors import NotFound
from almanac.store import assets, catalog, orders, shelves, stores, units
from almanac.store.models import Asset, Part, Site


@dataclass(frozen=True)
class Act:
    """Where a scan leads. path : of the page · words : what it was taken for"""

    path: str
    words: str


def act_for(session: Session, text: str, *, site_code: str | None) -> Act:
    """What to do with something that was scanned at a site, the depot where none is chosen.

    Raises
    ------
    NotFound : nothing on record has that number
    """
    scanned = read_label(text)
    found = _order(session, scanned) or _shelf(session, scanned, site_code) or _unit(session, scanned)
    if found is None:
        raise NotFound(
            f"nothing on record is called {text.strip() or '(empty)'}: a part number, a shelf, a lot, an order or a serial was wanted"
        )
    return found


def _order(session: Session, scanned: Scanned) -> Act | None:
    if scanned.kind not in ("", "order"):
        return None
    rows = orders.order_rows(session, number=scanned.number.upper())
    return _order_act(session, rows[0].order.number, rows[0].order.id) if rows else None


def _order_act(session: Session, number: str, order_id: int, part: str = "") -> Act:
    """Receive the line of an order that has something to come: the part's, or the only one."""
    waiting = [line for line in orders.lines_of(session, [order_id])[order_id] if line.to_come > 0 and part in ("", line.part_number)]
    act = f"?receive={waiting[0].id}" if len(waiting) == 1 else ""
    return Act(f"/stores/orders/{quote(number)}{act}", f"order {number}")


def _shelf(session: Session, scanned: Scanned, site_code: str | None) -> Act | None:
    if scanned.kind == "order":
        return None
    part = assets.part_by_number(session, scanned.number)
    site = _site(session, scanned.site or site_code)
    if part is None or site is None:
        return None
    own = f"/stores/{quote(part.number)}/{site.code}"
    if scanned.kind == "shelf":
        return Act(f"{own}?act=count", f"shelf of {part.number} at {site.name}")
    if scanned.kind == "lot":
        return Act(f"{own}?act=set_aside", f"lot {scanned.lot} of {part.number} at {site.name}")
    return _arrival(session, part, site) or Act(own, f"{part.number} at {site.name}")


def _site(session: Session, code: str | None) -> Site | None:
    sites = catalog.sites(session)
    if code is None:
        return next((site for site in sites if site.is_depot), None)
    return next((site for site in sites if site.code == code.upper()), None)


def _arrival(session: Session, part: Part, site: Site) -> Act | None:
    """What is on its way to that shelf: a transfer first, then an order."""
    coming = next(
        (one for one in stores.under_way(session) if (one.part_number, one.to_site) == (part.number, site.code) and one.left_on), None
    )
    if coming is not None:
        return Act(f"/stores?arrive={coming.id}", f"{coming.quantity} {part.number} from {coming.from_site}")
    line = next((one for one in shelves.open_lines(session, part_id=part.id) if one.site_id == site.id), None)
    if line is None:
        return None
    return Act(f"/stores/orders/{quote(line.order_number)}?receive={line.id}", f"{part.number} on order {line.order_number}")


def _unit(session: Session, scanned: Scanned) -> Act | None:
    """A serial: the machine its part serves in, or the order it came with."""
    if scanned.kind:
        return None
    unit = units.by_serial(session, scanned.number)
    tenure = units.open_tenure(session, unit.id) if unit is not None else None
    if tenure is not None:
        tag = session.get_one(Asset, tenure.asset_id).tag
        return Act(f"/ledger?q={quote(tag)}", f"serial {scanned.number}, in {tag}")
    number = orders.serials_received(session, [scanned.number]).get(scanned.number)
    return Act(f"/stores/orders/{quote(number)}", f"serial {scanned.number}, came with {number}") if number else None
