"""Shelves counted: what lies there is booked with its reason; a difference above a value waits for a lead."""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from almanac.core.life.outcomes import Bucket
from almanac.services.errors import Fault, NotFound, Refused
from almanac.services.stores.acts import Recorded, add_moves, record_act, shelf_of
from almanac.services.stores.ages import Ages, ages_leaving
from almanac.services.stores.fill import fill_waiting, take_back
from almanac.services.words import count
from almanac.store import shelves
from almanac.store.models import Part, Role, Shelf, StockCount, User
from almanac.store.settings import settings_on

WORTH_ASKING = 200.0
"""A difference worth more than this waits for a lead, while the company says nothing else."""
ALONE = "booked by its only lead, nobody else looked"
"""What a dear difference says for itself where no second person could be asked."""


@dataclass(frozen=True)
class CountRequest:
    """What was counted on a shelf. `place` : where it lies, kept where it is given"""

    part_number: str
    site_code: str
    counted: int
    reason: str = ""
    place: str | None = None


def count_shelf(session: Session, request: CountRequest, by: Recorded) -> StockCount:
    """Book what was counted; without a difference that is on record, too.

    Raises
    ------
    Refused : no such part or site, a count that cannot be, a difference without its reason, or another count of it that waits
    """
    part, _, shelf = shelf_of(session, request.part_number, request.site_code)
    booked = shelves.balance(session, shelf.id)
    faults = []
    if not 0 <= request.counted <= 100_000:
        faults.append(Fault("counted", f"0 to 100,000 parts were wanted, got {request.counted}"))
    elif request.counted != booked and not request.reason.strip():
        faults.append(Fault("reason", f"{booked} are booked: say what may have happened, or count again"))
    if session.scalar(select(StockCount.id).where(StockCount.shelf_id == shelf.id, StockCount.state == "waits")) is not None:
        faults.append(Fault("counted", "another count of this shelf waits for a lead: settle that one first"))
    if faults:
        raise Refused(*faults)
    if request.place is not None:
        shelf.place = request.place.strip() or None
    worth = Decimal(abs(request.counted - booked)) * part.price
    limit = Decimal(str(settings_on(session, by.clock.today).value("count_value", default=WORTH_ASKING)))
    dear = worth > limit
    waits = dear and (not by.is_lead or _has_another_lead(session, by))
    reason = request.reason.strip()
    found = StockCount(
        shelf_id=shelf.id,
        booked=booked,
        counted=request.counted,
        reason=f"{reason} ({ALONE})" if dear and not waits else reason,
        state="waits" if waits else "booked",
        counted_on=by.clock.today,
        author_id=by.author_id,
        approved_by_id=None,
        recorded_at=by.clock.now,
    )
    session.add(found)
    session.flush()
    if not waits:
        _book(session, found, shelf, by)
    return found


def _has_another_lead(session: Session, by: Recorded) -> bool:
    leads = select(func.count()).where(User.role == Role.LEAD.value, User.active, User.id != by.author_id)
    return bool(session.scalar(leads))


def approve(session: Session, count_id: int, by: Recorded) -> None:
    """Book a difference that waited: as much as was counted too many or too few then, whatever moved since.

    Raises
    ------
    NotFound : no count of that number waits · Refused : who counted it, or parts that are gone since
    """
    found, shelf = _waiting(session, count_id)
    if found.author_id == by.author_id:
        raise Refused(Fault("count", "a second person approves a count: not the one who counted"))
    difference = found.counted - found.booked
    if shelves.balance(session, shelf.id) + difference < 0:
        message = f"{count(-difference, 'part')} were missing, and fewer lie there now: refuse it, and count again"
        raise Refused(Fault("count", message))
    found.state, found.approved_by_id = "booked", by.author_id
    _book(session, found, shelf, by)


def refuse(session: Session, count_id: int, by: Recorded) -> None:
    """A count that waited is not booked; it stays on record.

    Raises
    ------
    NotFound : no count of that number waits
    """
    found, _ = _waiting(session, count_id)
    found.state, found.approved_by_id = "refused", by.author_id
    session.flush()


def _waiting(session: Session, count_id: int) -> tuple[StockCount, Shelf]:
    found = session.scalar(select(StockCount).where(StockCount.id == count_id).with_for_update())
    if found is None or found.state != "waits":
        raise NotFound(f"no count {count_id} waits")
    part_site = session.get_one(Shelf, found.shelf_id)
    return found, shelves.shelf_for_update(session, part_site.part_id, part_site.site_id)


def _book(session: Session, found: StockCount, shelf: Shelf, by: Recorded) -> None:
    difference = found.counted - found.booked
    if difference:
        act = record_act(session, "counted", found.reason, by, count_id=found.id)
        part = session.get_one(Part, shelf.part_id)
        unknown: Ages = [(None, difference)]
        gone = ages_leaving(session, (part, shelf, Bucket.ON_HAND), -difference, by.clock.today) if difference < 0 else unknown
        add_moves(session, (shelf, Bucket.ON_HAND, 1 if difference > 0 else -1), gone, "counted", act, by)
    take_back(session, shelf, by.clock)
    fill_waiting(session, shelf, by.clock)
