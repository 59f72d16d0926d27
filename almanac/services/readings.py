"""Readings: what a part in service could still give on a day, written down, and the share at which it is swapped."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from sqlalchemy.orm import Session

from almanac.core.parts.declared.kinds import WORN
from almanac.services.clock import Clock
from almanac.services.errors import Fault, Refused
from almanac.store import catalog
from almanac.store.models import Reading
from almanac.store.readings import tenure_at
from almanac.store.settings import settings_on

MOST_SHARE = 2
"""A full capacity past so many times what the part was made for is a slip."""


@dataclass(frozen=True)
class ReadingRequest:
    """A machine's tag, the key of the position, the day, and full and design capacity in one unit (Wh, or % of life left of 100)."""

    tag: str
    position: str
    read_on: date
    full: float
    design: float
    cycles: int | None = None


def add_reading(session: Session, request: ReadingRequest, *, clock: Clock, author_id: int) -> int:
    """Write a reading down; one for the same part and day takes the place of what was read before. Returns its id.

    Raises
    ------
    Refused : a day to come, a capacity out of range, or nothing in that position of that machine on that day
    """
    faults = []
    if request.read_on > clock.today:
        faults.append(Fault("read_on", f"a day up to today, {clock.today}, was wanted"))
    if request.design <= 0:
        faults.append(Fault("design", "a capacity above 0 was wanted"))
    elif not 0 <= request.full <= MOST_SHARE * request.design:
        faults.append(Fault("full", f"a capacity from 0 to {MOST_SHARE * request.design:g} was wanted: twice the design capacity at most"))
    tenure = tenure_at(session, tag=request.tag, position=request.position, day=request.read_on)
    if tenure is None:
        where = f"{request.position} of {request.tag} on {request.read_on}"
        faults.append(Fault("tag", f"no part is on record in {where}: look the tag up in the Ledger"))
    if faults or tenure is None:
        raise Refused(*faults)
    reading = Reading(
        tenure_id=tenure.id,
        read_on=request.read_on,
        full=request.full,
        design=request.design,
        cycles=request.cycles,
        recorded_at=clock.now,
        author_id=author_id,
    )
    session.add(reading)
    session.flush()
    return reading.id


def worn_limits(session: Session, clock: Clock) -> dict[str, float]:
    """The share of what it was made for at which a part is swapped, by part number; the company may have set it by kind or part."""
    settings = settings_on(session, clock.today)

    def limit(kind: str, number: str) -> float:
        return float(settings.value(WORN[kind].setting, kind=kind, part_number=number, default=WORN[kind].share))

    return {part.number: limit(part.kind, part.number) for part in catalog.stock_parts(session, tuple(WORN))}
