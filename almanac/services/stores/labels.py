"""Labels of shelves and lots to cut out, and the packing list of what goes to a site."""

from __future__ import annotations

from sqlalchemy.orm import Session

from almanac.core.parts.declared.kinds import BenchRole, kinds_of_role
from almanac.core.stock.labels import lot_label, shelf_label
from almanac.exchange.job_sheets import TrayTag, tags_pdf
from almanac.exchange.sheets import PackingLine, packing_pdf
from almanac.services.clock import read_clock
from almanac.services.errors import Fault, NotFound, Refused
from almanac.services.stores.wh_class import energy_class
from almanac.services.words import count, day
from almanac.store import assets, catalog, orders, stores
from almanac.store.models import Site
from almanac.store.stores import Under

MOST = 1000


def _site(session: Session, code: str) -> Site:
    site = next((one for one in catalog.sites(session) if one.code == code.upper()), None)
    if site is None:
        raise Refused(Fault("site", f"no site has the code {code or '(empty)'}"))
    return site


def shelf_labels(session: Session, site_code: str, number: str | None) -> bytes:
    """Labels of a site's shelves that hold or held something, in the order of their places; or of one part's.

    Raises
    ------
    Refused : no site has that code · NotFound : nothing to label
    """
    site = _site(session, site_code)
    rows = [row for row in stores.to_count(session, site.id, read_clock(session).today) if number in (None, row.part_number)][:MOST]
    if not rows:
        raise NotFound(f"no shelf at {site.name} holds or held {number or 'anything'}")
    tags = [
        TrayTag(
            row.part_number, (row.part_name, f"{site.name}{f', {row.place}' if row.place else ''}"), shelf_label(row.part_number, site.code)
        )
        for row in rows
    ]
    return tags_pdf(f"Shelves of {site.name}", tags)


def lot_labels(session: Session, order_number: str) -> bytes:
    """Labels of what arrived with an order, one a receipt.

    Raises
    ------
    NotFound : no such order, or nothing arrived with it
    """
    found = orders.order_rows(session, number=order_number)
    if not found:
        raise NotFound(f"there is no order {order_number}")
    order = found[0].order
    site = next(site for site in catalog.sites(session) if site.id == order.site_id)
    lines = {line.id: line for line in orders.lines_of(session, [order.id])[order.id]}
    lots = orders.lots_of(session, order.id)
    tags = []
    for row in orders.receipts_of(session, order.id):
        if row.undone or row.receipt.quantity < 0:
            continue
        line, lot = lines[row.receipt.line_id], lots.get(row.receipt.id, order.number)
        about = (line.part_name, f"lot {lot}, {count(row.receipt.quantity, 'part')}", f"arrived {day(row.receipt.received_on)}")
        tags.append(TrayTag(line.part_number, about, lot_label(line.part_number, site.code, lot)))
    if not tags:
        raise NotFound(f"nothing arrived with {order_number} yet: labels are made of what arrived")
    return tags_pdf(f"Lots of {order_number}", tags)


def packing_list(session: Session, site_code: str) -> bytes:
    """What is packed for a site or under way to it, to go with the boxes.

    Raises
    ------
    Refused : no site has that code · NotFound : nothing is packed for it
    """
    site = _site(session, site_code)
    rows = [row for row in stores.under_way(session) if row.to_site == site.code]
    if not rows:
        raise NotFound(f"nothing is packed for {site.name} or under way to it")
    lines = [_packing_line(session, row) for row in rows]
    about = f"As of {day(read_clock(session).today)}. {count(len(lines), 'line')}, {count(sum(row.quantity for row in rows), 'part')}."
    return packing_pdf(f"Packing list, {site.name}", about, lines)


def _packing_line(session: Session, row: Under) -> PackingLine:
    part = assets.part_by_number(session, row.part_number)
    pack = part is not None and part.kind in kinds_of_role(BenchRole.PACK)
    stands = (
        f"packed {day(row.packed_on)}"
        if row.left_on is None
        else f"left {day(row.left_on)}{f', due {day(row.due_on)}' if row.due_on else ''}"
    )
    about = f"{energy_class(part)}; carrier and dangerous-goods rules decide" if pack and part is not None else ""
    return PackingLine(row.part_number, row.part_name, row.from_site, str(row.quantity), stands, about)
