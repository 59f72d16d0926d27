"""A list of parts held against the record: new and changed ones, and what their suppliers say of days."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import replace
from datetime import date
from decimal import Decimal
from typing import Any

from almanac.core.parts.kinds import Kind
from almanac.services.catalog_edit import WORDS, lead_words
from almanac.services.intake.changes import Change, Group
from almanac.services.intake.parts.record import LeadTime, Record
from almanac.services.intake.parts.rows import PartRow
from almanac.services.intake.settled import NEW
from almanac.services.words import day as day_words
from almanac.store.models import Part, Supplier

UNKNOWN_SUPPLIER = "Supplier not known"
COMPARED = ("name", "price", "pack", "minimum_order", "shelf_life_days", "end_of_supply_on", "warranty_days")


def supplier_named(row: PartRow) -> str | None:
    """Who sells a row's part, a new one by the name the list gives; None where it is asked."""
    return (row.supplier_name or UNKNOWN_SUPPLIER) if row.supplier == NEW else row.supplier


def by_number(rows: Sequence[PartRow]) -> tuple[list[PartRow], list[Change]]:
    """One row a part: the last says what it is, and earlier ones what that leaves out; rows that cannot be used are told."""
    found: dict[str, PartRow] = {}
    changes = []
    for row in rows:
        if not row.number:
            changes.append(Change(Group.UNUSABLE, row.name or "", row.line, "it has no part number: give it one"))
            continue
        if row.wrong:
            changes.append(Change(Group.UNUSABLE, row.number, row.line, row.wrong))
            continue
        before = found.get(row.number.upper())
        if before is not None and (said := _otherwise(before, row)):
            changes.append(Change(Group.TWICE, row.number, before.line, f"line {row.line} says {said} otherwise: the later one counts"))
        found[row.number.upper()] = _over(before, row)
    return list(found.values()), changes


def _over(before: PartRow | None, row: PartRow) -> PartRow:
    if before is None:
        return row
    lacking: dict[str, Any] = {name: getattr(before, name) for name in (*COMPARED, "kind", "lead") if getattr(row, name) is None}
    seller: dict[str, Any] = {} if row.supplier_name else {"supplier": before.supplier, "supplier_name": before.supplier_name}
    return replace(row, **lacking, **seller, fits=tuple(dict.fromkeys((*before.fits, *row.fits))))


def _otherwise(before: PartRow, row: PartRow) -> str:
    other = [
        WORDS[name]
        for name in COMPARED
        if getattr(row, name) is not None and getattr(before, name) is not None and getattr(row, name) != getattr(before, name)
    ]
    return " and ".join(other)


def part_changes(rows: Sequence[PartRow], record: Record, leads: Mapping[str, LeadTime], *, add: bool | None) -> list[Change]:
    """New, changed and unchanged parts.

    Parameters
    ----------
    rows : one a part · leads : of suppliers, as the list or a person says
    add : whether parts that are not on record are ours, None while nobody said
    """
    found = []
    for row in rows:
        part = record.parts.get(row.number.upper())
        if part is not None:
            found.append(_changed(row, part, record))
        elif add is None and row.price is not None:
            found.append(Change(Group.WAITS, row.number, row.line, "not on record: say whether such parts are ours"))
        elif add is not False:
            found.append(_new(row, record, leads))
    return found


def _new(row: PartRow, record: Record, leads: Mapping[str, LeadTime]) -> Change:
    supplier = supplier_named(row)
    if row.price is None:
        return Change(Group.UNUSABLE, row.number, row.line, "no price: say what one costs, or what it costs to keep could not be said")
    if supplier is None or (supplier not in record.suppliers and supplier not in leads):
        lacks = "who sells it is" if supplier is None else f"how long {supplier} takes is"
        return Change(Group.WAITS, row.number, row.line, f"{lacks} not known yet")
    values: dict[str, object] = {
        "number": row.number,
        "kind": (row.kind or Kind.OTHER).value,
        "supplier": supplier,
        **{name: getattr(row, name) for name in COMPARED},
        "name": row.name or row.number,
        "pack": row.pack or 1,
        "minimum_order": row.minimum_order or 1,
        "fits": [position for model in row.fits for position in record.positions.get((int(model), (row.kind or Kind.OTHER).value), [])],
    }
    kind = row.kind.value.replace("_", " ") if row.kind else "other, for nothing tells its kind"
    words = f"{row.name or 'no name'}; {kind}; {row.price} from {supplier}"
    return Change(Group.NEW, row.number, row.line, words, values=values)


def _changed(row: PartRow, part: Part, record: Record) -> Change:
    values: dict[str, object] = {}
    words = []
    for name in COMPARED:
        said, was = getattr(row, name), getattr(part, name)
        if said is not None and said != was and not (name == "name" and str(said).strip() == str(was).strip()):
            values[name] = said
            words.append(f"{WORDS[name]} {_said(said)}, was {_said(was)}")
    supplier = supplier_named(row) if row.supplier_name else None
    if supplier is not None and supplier != record.supplier_of(part) and supplier in record.suppliers:
        values["supplier"] = supplier
        words.append(f"sold by {supplier}, was {record.supplier_of(part)}")
    places = [position for model in row.fits for position in record.positions.get((int(model), part.kind), [])]
    fits = [position for position in places if (part.id, position) not in record.fits]
    if fits:
        values["fits"] = fits
        words.append(f"fits {len(fits)} position{'s' if len(fits) > 1 else ''} more")
    if not values:
        return Change(Group.UNCHANGED, part.number, row.line, "as on record", part.id)
    return Change(Group.CHANGED, part.number, row.line, "; ".join(words), part.id, values=values)


def _said(value: object) -> str:
    if value is None:
        return "not known"
    return day_words(value) if isinstance(value, date) else f"{value:.2f}" if isinstance(value, Decimal) else str(value)


def leads_of(rows: Sequence[PartRow], said: Mapping[str, int]) -> dict[str, LeadTime]:
    """Lead times by supplier: days its rows say, each as often as they do, both ends of a span alike; else as a person said."""
    counts: dict[str, Counter[int]] = defaultdict(Counter)
    for row in rows:
        supplier = supplier_named(row)
        if supplier is not None and row.lead is not None:
            for days in row.lead:
                counts[supplier][days] += 1
    found: dict[str, LeadTime] = {supplier: [{"days": days, "weight": 1.0}] for supplier, days in said.items()}
    for supplier, own in counts.items():
        found[supplier] = [{"days": days, "weight": round(count / own.total(), 6)} for days, count in sorted(own.items())]
    return found


def supplier_changes(rows: Sequence[PartRow], record: Record, leads: Mapping[str, LeadTime]) -> list[Change]:
    """Suppliers whose days the list says otherwise than the record, and new ones."""
    found = []
    named = {supplier_named(row) for row in rows if row.supplier_name or row.supplier == NEW}
    for supplier, lead in sorted(leads.items()):
        if supplier not in named:
            continue
        words = lead_words(Supplier(name=supplier, lead_time=lead))
        values: dict[str, object] = {"supplier": supplier, "lead_time": lead}
        own = record.suppliers.get(supplier)
        if own is None:
            found.append(Change(Group.NEW, supplier, None, f"supplier; days until it comes: {words}", values=values))
        elif lead_words(own) != words:
            text = f"days until it comes: {words}, was {lead_words(own)}"
            found.append(Change(Group.CHANGED, supplier, None, text, own.id, values=values))
    return found
