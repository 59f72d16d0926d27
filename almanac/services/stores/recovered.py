"""Recovered parts: on the shelf without being stock, until a test says what they are (rules N7, B7)."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from almanac.core.life.outcomes import Bucket
from almanac.services.errors import Fault, NotFound, Refused
from almanac.services.stores.acts import PACKS, Recorded, add_moves, record_act, shelf_of
from almanac.services.stores.fill import fill_waiting
from almanac.store import shelves, units
from almanac.store.models import Part, Unit
from almanac.store.units import RecoveredRow

RESULTS = ("good", "worn")


def record_test(session: Session, number: str, site_code: str, unit_id: int, result: str, by: Recorded) -> None:
    """Say what the test of a recovered part showed: a good one counts as stock with its age, a worn one is scrapped.

    Raises
    ------
    NotFound : no such unit lies there · Refused : tested already, another result than good or worn, or a pack: never stock again
    """
    part, site, shelf = shelf_of(session, number, site_code)
    row = next((one for one in units.recovered(session, part.id, site.id) if one.id == unit_id), None)
    if row is None:
        raise NotFound(f"no recovered unit {unit_id} of {part.number} lies at {site.name}")
    faults = _faults(part, row, result)
    if shelves.balance(session, shelf.id, Bucket.HARVESTED) < 1:
        faults.append(Fault("unit", "by the books nothing recovered lies there: it was scrapped or fitted since"))
    if faults:
        raise Refused(*faults)
    unit = session.scalars(select(Unit).where(Unit.id == unit_id).with_for_update()).one()
    unit.tested_on, unit.tested_as = by.clock.today, result
    name = f"{part.number} out of {row.tag}{f', serial {row.serial}' if row.serial else ''}"
    record = record_act(session, f"tested_{result}", name, by)
    if result == "worn":
        unit.condition = "failed"
        add_moves(session, (shelf, Bucket.HARVESTED, -1), [(None, 1)], "tested", record, by)
        add_moves(session, (shelf, Bucket.SCRAPPED, 1), [(None, 1)], "tested", record, by)
    session.flush()
    fill_waiting(session, shelf, by.clock)


def _faults(part: Part, row: RecoveredRow, result: str) -> list[Fault]:
    faults = []
    if result not in RESULTS:
        faults.append(Fault("result", f"good or worn was wanted, got {result!r}"))
    if part.kind in PACKS:
        faults.append(Fault("unit", "a pack that came out of a machine is never stock again: dispose of it, or send it back"))
    if row.tested_as is not None:
        faults.append(Fault("unit", f"it was tested already: {row.tested_as}"))
    return faults
