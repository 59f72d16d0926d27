"""Keeping parts and suppliers up: prices, packs, shelf lives, lead times; every change stays on record with who made it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import date
from decimal import Decimal

from sqlalchemy import delete
from sqlalchemy.orm import Session

from almanac.services.change_log import in_words, note_changes
from almanac.services.clock import Clock
from almanac.services.errors import Fault, NotFound, Refused, Stale
from almanac.services.importing.cells import CellFault, lead_time
from almanac.store import assets, changes, orders
from almanac.store.changes import ChangeRow
from almanac.store.models import Part, PriceBreak, Supplier

MOST_PARTS, MOST_DAYS = 100_000, 20_000
WORDS = {
    "name": "name",
    "price": "price",
    "pack": "parts in a pack",
    "minimum_order": "fewest sold at once",
    "shelf_life_days": "days it keeps",
    "end_of_supply_on": "sold until",
    "warranty_days": "days of warranty",
}


@dataclass(frozen=True)
class PartEdit:
    """A part as it should be. lead_time : of its supplier, days with weights such as 18:0.25; 21:0.75, or days alone"""

    name: str
    price: Decimal
    pack: int
    minimum_order: int
    shelf_life_days: int | None
    end_of_supply_on: date | None
    warranty_days: int | None
    breaks: Sequence[tuple[int, Decimal]] = field(default=())
    lead_time: str = ""


@dataclass(frozen=True)
class PartPage:
    """A part as it stands, its supplier's lead time, and what was changed. number_of_changes : what an edit has to name"""

    edit: PartEdit
    supplier: str
    shared_by: int
    number_of_changes: int
    changes: list[ChangeRow]


def read_part(session: Session, number: str) -> PartPage:
    """A part to edit.

    Raises
    ------
    NotFound : no part has that number
    """
    part, supplier = _found(session, number)
    edit = PartEdit(
        **{name: getattr(part, name) for name in WORDS},
        breaks=tuple(orders.price_breaks(session, [part.id]).get(part.id, ())),
        lead_time=lead_words(supplier),
    )
    subjects = _subjects(part, supplier)
    others = len([one for one in assets.parts_of_supplier(session, supplier.id) if one != part.id])
    return PartPage(edit, supplier.name, others, changes.count_of(session, *subjects), changes.changes_of(session, *subjects))


def _found(session: Session, number: str) -> tuple[Part, Supplier]:
    part = assets.part_by_number(session, number)
    if part is None:
        raise NotFound(f"no part has the number {number}")
    return part, session.get_one(Supplier, part.supplier_id)


def _subjects(part: Part, supplier: Supplier) -> tuple[str, str]:
    return f"part {part.number}", f"supplier {supplier.name}"


def lead_words(supplier: Supplier) -> str:
    """A stated lead time as it is typed: 18:0.25; 21:0.75, or 21."""
    entries = [(int(entry["days"]), float(entry["weight"])) for entry in supplier.lead_time]
    return str(entries[0][0]) if len(entries) == 1 else "; ".join(f"{days}:{weight:g}" for days, weight in entries)


def edit_part(session: Session, number: str, wanted: PartEdit, *, expected_changes: int, clock: Clock, author_id: int) -> int:
    """Make a part what it should be; returns how many fields were changed.

    Raises
    ------
    NotFound : no such part · Stale : it was changed meanwhile · Refused : what cannot be, each with its place
    """
    part, supplier = _found(session, number)
    subject, of_supplier = _subjects(part, supplier)
    if changes.count_of(session, subject, of_supplier) != expected_changes:
        raise Stale("this part or its supplier was changed meanwhile: read it again, then decide")
    faults, lead = _faults(wanted)
    if faults or lead is None:
        raise Refused(*faults)
    found = [(subject, WORDS[name], in_words(getattr(part, name)), in_words(getattr(wanted, name))) for name in WORDS]
    before = orders.price_breaks(session, [part.id]).get(part.id, [])
    after = sorted(wanted.breaks)
    found.append((subject, "price breaks", _breaks(before), _breaks(after)))
    found.append((of_supplier, "stated lead time", lead_words(supplier), wanted.lead_time.strip()))
    changed = [one for one in found if one[2] != one[3]]
    if lead == supplier.lead_time:
        changed = [one for one in changed if one[0] != of_supplier]
    for name in WORDS:
        setattr(part, name, getattr(wanted, name).strip() if name == "name" else getattr(wanted, name))
    supplier.lead_time = lead
    if _breaks(before) != _breaks(after):
        session.execute(delete(PriceBreak).where(PriceBreak.part_id == part.id))
        session.add_all(PriceBreak(part_id=part.id, from_quantity=least, price=price) for least, price in after)
    for about in (subject, of_supplier):
        own = [(name, was, now) for named, name, was, now in changed if named == about]
        note_changes(session, about, own, clock=clock, author_id=author_id)
    return len(changed)


def _breaks(breaks: Sequence[tuple[int, Decimal]]) -> str:
    return "; ".join(f"{least}:{price}" for least, price in breaks) or "none"


def _faults(wanted: PartEdit) -> tuple[list[Fault], list[dict[str, float]] | None]:
    faults = [] if wanted.name.strip() else [Fault("name", "a name was wanted")]
    if not 0 <= wanted.price < Decimal(10) ** 10:
        faults.append(Fault("price", "an amount of at least 0 was wanted"))
    for name in ("pack", "minimum_order"):
        if not 1 <= getattr(wanted, name) <= MOST_PARTS:
            faults.append(Fault(name, f"1 to {MOST_PARTS:,} parts were wanted"))
    for name in ("shelf_life_days", "warranty_days"):
        value = getattr(wanted, name)
        if value is not None and not 1 <= value <= MOST_DAYS:
            faults.append(Fault(name, f"1 to {MOST_DAYS:,} days were wanted, or nothing"))
    faults += _break_faults(wanted.breaks)
    try:
        return faults, lead_time(wanted.lead_time)
    except CellFault as fault:
        return [*faults, Fault("lead_time", str(fault))], None


def _break_faults(breaks: Sequence[tuple[int, Decimal]]) -> list[Fault]:
    quantities = [least for least, _ in breaks]
    if len(set(quantities)) < len(quantities):
        return [Fault("breaks", "a quantity stands there twice")]
    if any(not 2 <= least <= MOST_PARTS or price < 0 for least, price in breaks):
        return [Fault("breaks", "quantities from 2 up with the price of one, such as 10:17.50; 50:16, were wanted")]
    return []
