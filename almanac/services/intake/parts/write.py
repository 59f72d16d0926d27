"""Writing what a list of parts or shelves says, and taking it back."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from datetime import date
from decimal import Decimal
from typing import Any

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from almanac.core.life.outcomes import Bucket
from almanac.core.parts.kinds import Verdict
from almanac.services.catalog_edit import WORDS, lead_words
from almanac.services.change_log import in_words, note_changes
from almanac.services.errors import Fault, Refused
from almanac.services.intake.changes import Change, Group
from almanac.services.intake.subject import By, Kept
from almanac.services.stores.acts import Recorded, add_moves, record_act, shelf_of, undo
from almanac.services.stores.counts import CountRequest, count_shelf, refuse
from almanac.services.stores.fill import fill_waiting
from almanac.services.words import day as day_words
from almanac.store import assets, catalog
from almanac.store import intake as store
from almanac.store.bulk import add_rows, new_ids
from almanac.store.models import Fits, Part, StockCount, Supplier

FIELDS = (*WORDS, "supplier_id")


def write_parts(session: Session, changes: Sequence[Change], by: By) -> list[Kept]:
    """Suppliers, then parts, then what lies on the shelves."""
    suppliers = [one for one in changes if "lead_time" in one.values]
    shelves = [one for one in changes if "counted" in one.values]
    parts = [one for one in changes if one not in suppliers and one not in shelves]
    kept = [_supplier(session, one, by) for one in suppliers]
    session.flush()
    ids = {supplier.name: supplier.id for supplier in session.scalars(select(Supplier))}
    kept += _new_parts(session, [one for one in parts if one.group is Group.NEW], ids)
    known = {part.id: part for part in catalog.all_parts(session)}
    kept += [_changed(session, known[one.record_id or 0], one, ids, by) for one in parts if one.group is Group.CHANGED]
    session.flush()
    return kept + [_count(session, one, by) for one in shelves]


def _supplier(session: Session, change: Change, by: By) -> Kept:
    name, lead = str(change.values["supplier"]), change.values["lead_time"]
    supplier = session.scalar(select(Supplier).where(Supplier.name == name))
    if supplier is None:
        supplier = Supplier(name=name, lead_time=lead)
        session.add(supplier)
        session.flush()
        return {"what": "supplier", "id": supplier.id, "group": "new"}
    kept: Kept = {"what": "supplier", "id": supplier.id, "group": "changed", "lead_time": supplier.lead_time}
    _lead(session, supplier, list(lead), by)  # type: ignore[call-overload]
    return kept


def _lead(session: Session, supplier: Supplier, lead: list[dict[str, Any]], by: By) -> None:
    before = lead_words(supplier)
    supplier.lead_time = lead
    fields = [("stated lead time", before, lead_words(supplier))]
    note_changes(session, f"supplier {supplier.name}", fields, clock=by.clock, author_id=by.author_id)


def _new_parts(session: Session, changes: Sequence[Change], suppliers: Mapping[str, int]) -> list[Kept]:
    ids = new_ids(session, Part, len(changes))
    rows = []
    for number, change in zip(ids, changes, strict=True):
        values = {name: value for name, value in change.values.items() if name not in ("supplier", "fits")}
        rows.append({**values, "id": number, "facts": {}, "supplier_id": suppliers[str(change.values["supplier"])]})
    add_rows(session, Part, rows)
    pairs = [(number, place) for number, change in zip(ids, changes, strict=True) for place in _places(change)]
    _fits(session, pairs)
    return [{"what": "part", "id": number, "group": "new", "number": change.subject} for number, change in zip(ids, changes, strict=True)]


def _places(change: Change) -> list[int]:
    return list(change.values.get("fits", ()))  # type: ignore[call-overload, no-any-return]


def _fits(session: Session, pairs: Sequence[tuple[int, int]]) -> None:
    listed = {"verdict": Verdict.YES.value, "reason": "listed by the company", "origin": "listed"}
    add_rows(session, Fits, [{"part_id": part, "position_id": position, **listed} for part, position in dict.fromkeys(pairs)])


def _changed(session: Session, part: Part, change: Change, suppliers: Mapping[str, int], by: By) -> Kept:
    values = {name: value for name, value in change.values.items() if name in WORDS}
    if "supplier" in change.values:
        values["supplier_id"] = suppliers[str(change.values["supplier"])]
    before = {name: getattr(part, name) for name in values}
    _set(session, part, values, by)
    fits = _places(change)
    _fits(session, [(part.id, place) for place in fits])
    return {"what": "part", "id": part.id, "group": "changed", "before": {name: _plain(was) for name, was in before.items()}, "fits": fits}


def _set(session: Session, part: Part, values: Mapping[str, object], by: By) -> None:
    names = {supplier.id: supplier.name for supplier in session.scalars(select(Supplier))}
    before = {name: getattr(part, name) for name in values}
    for name, value in values.items():
        setattr(part, name, value)
    words = [
        (
            WORDS.get(name, "supplier"),
            names[was] if name == "supplier_id" else in_words(was),
            names[int(str(values[name]))] if name == "supplier_id" else in_words(values[name]),
        )
        for name, was in before.items()
    ]
    note_changes(session, f"part {part.number}", words, clock=by.clock, author_id=by.author_id)


def _plain(value: object) -> object:
    return str(value) if isinstance(value, Decimal | date) else value


def _back(name: str, value: Any) -> object:
    if value is None or name not in ("price", "end_of_supply_on"):
        return value
    return Decimal(value) if name == "price" else date.fromisoformat(value)


def _recorded(by: By, on: date | None = None) -> Recorded:
    """Who counts, on the list's day where that is given. A list is applied by leads alone; from the command line nobody signs."""
    clock = replace(by.clock, today=on) if on is not None else by.clock
    return Recorded(clock, by.author_id, is_lead=True)  # type: ignore[arg-type]


def _count(session: Session, change: Change, by: By) -> Kept:
    """A shelf nobody had booked is opened with its lots; another is counted, with all that holds of counts."""
    part, site, counted = str(change.values["part"]), str(change.values["site"]), int(str(change.values["counted"]))
    told = f"{'Shelf list' if change.line else 'Not on the shelf list'} of {day_words(change.on or by.clock.today)}"
    recorded = _recorded(by, change.on)
    if change.group is Group.NEW and counted > 0:
        _, _, shelf = shelf_of(session, part, site)
        act = record_act(session, "counted", told, recorded)
        made: list[tuple[date | None, int]] = list(change.values["made"])  # type: ignore[call-overload]
        add_moves(session, (shelf, Bucket.ON_HAND, 1), _lots(made, counted), "opening", act, recorded)
        fill_waiting(session, shelf, by.clock)
        return {"what": "shelf", "act": act.id}
    found = count_shelf(session, CountRequest(part, site, counted, told), recorded)
    return {"what": "shelf", "count": found.id}


def _lots(made: Sequence[tuple[date | None, int]], counted: int) -> list[tuple[date | None, int]]:
    """Lots as they were counted, where nothing moved since; else nobody knows which are left."""
    return list(made) if sum(number for _, number in made) == counted else [(None, counted)]


def undo_parts(session: Session, rows: Sequence[Kept], by: By) -> list[str]:
    """Take back what a list wrote; returns what stays, in words: a part whose shelf was opened stays with nothing on it.

    Raises
    ------
    Refused : parts it brought that were used since, or stock that has gone on
    """
    for row in reversed(rows):
        if row["what"] == "shelf":
            _uncount(session, row, by)
    parts = [row for row in rows if row["what"] == "part"]
    for row in parts:
        if row["group"] == "changed":
            _restore(session, row, by)
    new = {int(row["id"]): str(row["number"]) for row in parts if row["group"] == "new"}
    used = store.parts_used(session, list(new))
    if used:
        names = ", ".join(sorted(new[number] for number in used)[:5])
        raise Refused(Fault("intake", f"{names}: fitted, ordered or promised since: correct these parts one by one"))
    opened = store.parts_with_moves(session, list(new))
    store.forget_parts(session, [number for number in new if number not in opened])
    for row in [row for row in rows if row["what"] == "supplier"]:
        _unsupply(session, row, by)
    session.flush()
    return [new[number] for number in sorted(opened)]


def _uncount(session: Session, row: Kept, by: By) -> None:
    act = row.get("act")
    if act is None:
        found = session.get_one(StockCount, int(row["count"]))
        if found.state == "waits":
            refuse(session, found.id, _recorded(by))
            return
        act = store.act_of_count(session, found.id)
    if act is not None:
        undo(session, int(act), "the list that said so was undone", _recorded(by))


def _restore(session: Session, row: Kept, by: By) -> None:
    part = session.get_one(Part, int(row["id"]))
    _set(session, part, {name: _back(name, value) for name, value in row["before"].items()}, by)
    if row["fits"]:
        session.execute(delete(Fits).where(Fits.part_id == part.id, Fits.position_id.in_(row["fits"])))


def _unsupply(session: Session, row: Kept, by: By) -> None:
    supplier = session.get_one(Supplier, int(row["id"]))
    if row["group"] == "changed":
        _lead(session, supplier, row["lead_time"], by)
    elif not assets.parts_of_supplier(session, supplier.id):
        session.delete(supplier)
