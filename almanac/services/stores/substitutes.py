"""What may be fitted in place of a part: two-way equivalents and one-way substitutes, set by a lead, offered where a shelf is empty."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from almanac.core.parts.kinds import Verdict
from almanac.services.clock import read_clock
from almanac.services.errors import Fault, NotFound, Refused
from almanac.store import assets, shelves
from almanac.store.models import DeviceModel, Fits, Interchange, Part, Position, Site


@dataclass(frozen=True)
class Substitute:
    """Another part that may be fitted in place of one. here, elsewhere : free at the site, and at all others · two_way : and the other
    way round"""

    number: str
    name: str
    reason: str
    two_way: bool
    here: int
    elsewhere: int


def substitutes_of(session: Session, part: Part, site: Site) -> list[Substitute]:
    """What may be fitted in place of a part, what lies free at the site first."""
    rows = session.scalars(select(Interchange).where((Interchange.serves_as_id == part.id) | (Interchange.part_id == part.id))).all()
    back = {row.serves_as_id for row in rows if row.part_id == part.id}
    others = [row.part_id for row in rows if row.serves_as_id == part.id]
    if not others:
        return []
    parts = {one.id: one for one in session.scalars(select(Part).where(Part.id.in_(others)))}
    free = shelves.free_by_site(session, others, read_clock(session).today)
    found = []
    for row in rows:
        if row.serves_as_id != part.id:
            continue
        own = {place: max(quantity, 0) for (number, place), quantity in free.items() if number == row.part_id}
        here, other = own.pop(site.id, 0), parts[row.part_id]
        found.append(Substitute(other.number, other.name, row.reason, row.part_id in back, here, sum(own.values())))
    return sorted(found, key=lambda one: (-one.here, -one.elsewhere, one.number))


def set_substitute(session: Session, number: str, other: str, *, two_way: bool, reason: str) -> None:
    """Let another part be fitted in place of one; said again, it is changed.

    Raises
    ------
    Refused : no such part, the part itself, another kind, no reason, or a position that takes the one and refuses the other
    """
    part, instead = assets.part_by_number(session, number), assets.part_by_number(session, other)
    named = ((number, part), (other, instead))
    faults = [Fault("number", f"no part has the number {given or '(empty)'}") for given, one in named if one is None]
    if not reason.strip():
        faults.append(Fault("reason", "say why it may be fitted instead, in a few words"))
    if part is not None and instead is not None:
        faults += _cannot(session, part, instead, two_way=two_way)
    if faults or part is None or instead is None:
        raise Refused(*faults)
    _write(session, instead, part, reason)
    if two_way:
        _write(session, part, instead, reason)
    else:
        _drop(session, part, instead)
    session.flush()


def _cannot(session: Session, part: Part, instead: Part, *, two_way: bool) -> list[Fault]:
    if part.id == instead.id:
        return [Fault("number", "a part is no substitute of itself")]
    if part.kind != instead.kind:
        return [Fault("number", f"{instead.number} is of another kind")]
    pairs = ((part, instead), (instead, part)) if two_way else ((part, instead),)
    return [Fault("number", words) for one, other in pairs if (words := _refused_somewhere(session, one, other))]


def _refused_somewhere(session: Session, part: Part, instead: Part) -> str | None:
    """A position that takes a part and refuses what should go in its place (rule N2)."""
    takes = select(Fits.position_id).where(Fits.part_id == part.id, Fits.verdict == Verdict.YES.value)
    query = (
        select(DeviceModel.maker, DeviceModel.name, Position.label, Fits.reason)
        .join(Position, Position.model_id == DeviceModel.id)
        .join(Fits, Fits.position_id == Position.id)
        .where(Fits.part_id == instead.id, Fits.verdict == Verdict.NO.value, Fits.position_id.in_(takes))
        .order_by(Position.id)
        .limit(1)
    )
    row = session.execute(query).first()
    if row is None:
        return None
    return f"{row.maker} {row.name}, {row.label}, takes {part.number} and not {instead.number}: {row.reason}"


def _write(session: Session, part: Part, serves_as: Part, reason: str) -> None:
    row = session.get(Interchange, (part.id, serves_as.id))
    if row is None:
        session.add(Interchange(part_id=part.id, serves_as_id=serves_as.id, reason=reason.strip()))
    else:
        row.reason = reason.strip()


def _drop(session: Session, part: Part, serves_as: Part) -> None:
    row = session.get(Interchange, (part.id, serves_as.id))
    if row is not None:
        session.delete(row)


def drop_substitute(session: Session, number: str, other: str) -> None:
    """A part may no longer be fitted in place of another, nor the other way round.

    Raises
    ------
    NotFound : it may not now
    """
    part, instead = assets.part_by_number(session, number), assets.part_by_number(session, other)
    ways = [] if part is None or instead is None else [(instead.id, part.id), (part.id, instead.id)]
    rows = [row for way in ways if (row := session.get(Interchange, way)) is not None]
    if not rows:
        raise NotFound(f"{other} is no substitute of {number}")
    for row in rows:
        session.delete(row)
    session.flush()
