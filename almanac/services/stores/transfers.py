"""Parts from one site to another: packed at one, under way, arrived at the other, and what did not arrive settled there and then."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import timedelta

from sqlalchemy import select
from sqlalchemy.orm import Session

from almanac.core.life.outcomes import Bucket
from almanac.services.errors import Fault, NotFound, Refused, Stale
from almanac.services.stores.acts import Recorded, add_moves, record_act, shelf_of
from almanac.services.stores.ages import ages_leaving, first_of
from almanac.services.stores.fill import fill_waiting
from almanac.services.words import count, day
from almanac.store import catalog, shelves, stores
from almanac.store.models import Site, Transfer


@dataclass(frozen=True)
class TransferRequest:
    """Parts to pack at one site for another."""

    part_number: str
    from_site: str
    to_site: str
    quantity: int


@dataclass(frozen=True)
class ArrivalRequest:
    """What arrived of a transfer; a difference wants its reason. `expected_version` is the version the person read."""

    quantity: int
    reason: str
    expected_version: int


def pack(session: Session, request: TransferRequest, by: Recorded) -> Transfer:
    """Take parts off a shelf and pack them for another site; they are under way from then on.

    Raises
    ------
    Refused : no such part or site, the same site twice, or more than lie free on the shelf
    """
    if request.from_site.upper() == request.to_site.upper():
        raise Refused(Fault("to_site", "it is there already: name another site"))
    sites = sorted((request.from_site.upper(), request.to_site.upper()))
    locked = {code: shelf_of(session, request.part_number, code) for code in sites}  # always in this order: two that cross never hang
    part, start, shelf = locked[request.from_site.upper()]
    _, goal, there = locked[request.to_site.upper()]
    held = shelves.free(session, shelf.id, by.clock.today)
    if not 1 <= request.quantity <= held:
        raise Refused(
            Fault(
                "quantity", f"{max(held, 0)} lie free at {start.name}: name 1 to {held}" if held > 0 else f"none lies free at {start.name}"
            )
        )
    transfer = Transfer(
        part_id=part.id,
        from_site_id=start.id,
        to_site_id=goal.id,
        quantity=request.quantity,
        packed_on=by.clock.today,
        author_id=by.author_id,
        recorded_at=by.clock.now,
    )
    session.add(transfer)
    session.flush()
    act = record_act(session, "packed", f"for {goal.name}", by, transfer_id=transfer.id)
    ages = ages_leaving(session, (part, shelf, Bucket.ON_HAND), request.quantity, by.clock.today)
    add_moves(session, (shelf, Bucket.ON_HAND, -1), ages, "sent", act, by)
    add_moves(session, (there, Bucket.UNDER_WAY, 1), ages, "sent", act, by)
    return transfer


def send(session: Session, transfer_id: int, expected_version: int, by: Recorded) -> None:
    """A packed transfer leaves.

    Raises
    ------
    NotFound : no such transfer · Stale : it changed meanwhile · Refused : it left already
    """
    transfer = _open(session, transfer_id, expected_version)
    if transfer.left_on is not None:
        raise Refused(Fault("transfer", f"it left on {day(transfer.left_on)}"))
    lane = catalog.lanes_from(session, transfer.from_site_id).get(transfer.to_site_id, 0)
    transfer.left_on, transfer.due_on = by.clock.today, by.clock.today + timedelta(days=lane)
    transfer.version += 1
    session.flush()


def arrive(session: Session, transfer_id: int, request: ArrivalRequest, by: Recorded) -> None:
    """Put what arrived on the shelf; machines that wait there are served first come, first served.

    Raises
    ------
    NotFound : no such transfer · Stale : it changed meanwhile · Refused : more than was packed, or a difference without its reason
    """
    transfer = _open(session, transfer_id, request.expected_version)
    faults = []
    missing = transfer.quantity - request.quantity
    if not 0 <= request.quantity <= transfer.quantity:
        faults.append(Fault("quantity", f"{transfer.quantity} were packed: name 0 to {transfer.quantity}, got {request.quantity}"))
    elif missing and not request.reason.strip():
        faults.append(Fault("reason", f"{count(missing, 'part')} did not arrive: say what is known of {'it' if missing == 1 else 'them'}"))
    if faults:
        raise Refused(*faults)
    shelf = shelves.shelf_for_update(session, transfer.part_id, transfer.to_site_id)
    act = record_act(session, "arrived", request.reason, by, transfer_id=transfer.id)
    came, lost = first_of(stores.ages_packed(session, transfer.id), request.quantity)
    add_moves(session, (shelf, Bucket.UNDER_WAY, -1), came, "arrived", act, by)
    add_moves(session, (shelf, Bucket.ON_HAND, 1), came, "arrived", act, by)
    add_moves(session, (shelf, Bucket.UNDER_WAY, -1), lost, "lost", act, by)
    transfer.arrived_on, transfer.arrived = by.clock.today, request.quantity
    transfer.left_on = transfer.left_on or by.clock.today
    transfer.version += 1
    session.flush()
    fill_waiting(session, shelf, by.clock)


def unpack(session: Session, transfer_id: int, reason: str, expected_version: int, by: Recorded) -> None:
    """Cancel a transfer that is still packed: its parts go back on the shelf they came from.

    Raises
    ------
    NotFound : no such transfer · Stale : it changed meanwhile · Refused : it left, or no reason
    """
    transfer = _open(session, transfer_id, expected_version)
    faults = []
    if transfer.left_on is not None:
        faults.append(Fault("transfer", f"it left on {day(transfer.left_on)}: send it back once it is there"))
    if not reason.strip():
        faults.append(Fault("reason", "say why in a few words: who reads the record later has only this"))
    if faults:
        raise Refused(*faults)
    by_code = sorted((session.get_one(Site, site) for site in (transfer.from_site_id, transfer.to_site_id)), key=lambda site: site.code)
    locked = {site.id: shelves.shelf_for_update(session, transfer.part_id, site.id) for site in by_code}
    shelf, there = locked[transfer.from_site_id], locked[transfer.to_site_id]
    act = record_act(session, "unpacked", reason, by, transfer_id=transfer.id)
    ages = stores.ages_packed(session, transfer.id)
    add_moves(session, (there, Bucket.UNDER_WAY, -1), ages, "undone", act, by)
    add_moves(session, (shelf, Bucket.ON_HAND, 1), ages, "undone", act, by)
    transfer.cancelled_on = by.clock.today
    transfer.version += 1
    session.flush()
    fill_waiting(session, shelf, by.clock)


def _open(session: Session, transfer_id: int, expected_version: int) -> Transfer:
    transfer = session.scalar(select(Transfer).where(Transfer.id == transfer_id).with_for_update())
    if transfer is None:
        raise NotFound(f"there is no transfer {transfer_id}")
    if transfer.version != expected_version:
        raise Stale("this transfer was changed meanwhile: look at it again, then decide")
    if transfer.arrived_on is not None or transfer.cancelled_on is not None:
        raise Refused(Fault("transfer", "it is closed already"))
    return transfer
