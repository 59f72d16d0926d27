"""What is promised and who waits: reserved for a machine, asked of an empty shelf, and filled first come, first served."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from almanac.services.errors import Fault, NotFound, Refused
from almanac.services.stores.acts import Recorded, shelf_of
from almanac.services.stores.fill import fill_waiting
from almanac.store import assets, shelves, stores
from almanac.store.models import Backorder, Part, Reservation, Shelf, Site


@dataclass(frozen=True)
class PromiseRequest:
    """Parts of a shelf for a machine, by its tag, or for a planned swap; without either they are kept for nobody in particular."""

    part_number: str
    site_code: str
    quantity: int
    tag: str = ""
    plan_id: int | None = None


@dataclass(frozen=True)
class Promised:
    """What came of it: parts reserved now, and parts the machine waits for."""

    reserved: int
    waits: int


def promise(session: Session, request: PromiseRequest, by: Recorded) -> Promised:
    """Reserve what lies free, and put the rest on the list of those who wait.

    Raises
    ------
    Refused : no such part, site or machine, or no quantity
    """
    part, site, shelf = shelf_of(session, request.part_number, request.site_code)
    faults = _plan_faults(session, request, part, site, by)
    if not 1 <= request.quantity <= 1000:
        faults.append(Fault("quantity", f"1 to 1,000 parts were wanted, got {request.quantity}"))
    asset = assets.asset_by_tag(session, request.tag.strip()) if request.tag.strip() else None
    if request.tag.strip() and asset is None:
        faults.append(Fault("tag", f"no machine has the tag {request.tag.strip()}"))
    if faults:
        raise Refused(*faults)
    free = 0 if stores.waiting_at(session, shelf.id) else shelves.free(session, shelf.id, by.clock.today)
    now = min(max(free, 0), request.quantity)
    owner = asset.id if asset is not None else None
    if now:
        session.add(Reservation(shelf_id=shelf.id, quantity=now, asset_id=owner, plan_id=request.plan_id, reserved_on=by.clock.today))
    if request.quantity > now:
        rest = request.quantity - now
        session.add(Backorder(shelf_id=shelf.id, quantity=rest, asset_id=owner, plan_id=request.plan_id, asked_on=by.clock.today))
    session.flush()
    return Promised(now, request.quantity - now)


def _plan_faults(session: Session, request: PromiseRequest, part: Part, site: Site, by: Recorded) -> list[Fault]:
    """Parts for a planned swap: one that is still to come, of this part at this site, and no more than it takes."""
    if request.plan_id is None:
        return []
    swap = next((one for one in stores.swaps_planned(session, part.id, site.id, by.clock.today) if one.id == request.plan_id), None)
    if swap is None:
        return [Fault("plan_id", f"no swap of {part.number} at {site.name} is planned under that number")]
    if request.tag.strip():
        return [Fault("plan_id", "for a machine or for a planned swap: one of the two")]
    left = swap.quantity - swap.kept
    if request.quantity > left:
        return [Fault("quantity", f"the swap takes {swap.quantity}, {swap.kept} are kept already: name up to {left}")]
    return []


def release(session: Session, reservation_id: int, by: Recorded) -> None:
    """Give reserved parts free; whoever waits for the part at that shelf is served.

    Raises
    ------
    NotFound : no such reservation is open
    """
    found = session.scalar(select(Reservation).where(Reservation.id == reservation_id).with_for_update())
    if found is None or found.released_on is not None:
        raise NotFound(f"no reservation {reservation_id} is open")
    found.released_on = by.clock.today
    session.flush()
    fill_waiting(session, session.get_one(Shelf, found.shelf_id), by.clock)


def give_up(session: Session, backorder_id: int, by: Recorded) -> None:
    """Somebody waits no longer.

    Raises
    ------
    NotFound : nobody waits under that number
    """
    found = session.scalar(select(Backorder).where(Backorder.id == backorder_id).with_for_update())
    if found is None or found.filled_on is not None:
        raise NotFound(f"nobody waits under the number {backorder_id}")
    found.filled_on = by.clock.today
    session.flush()
