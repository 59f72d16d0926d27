"""A list of purchases held against the record: orders that are new, and those that arrived."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date

from almanac.services.intake.changes import Change, Group
from almanac.services.intake.purchases.rows import LineOnRecord, PurchaseRow
from almanac.services.intake.subject import ListDay
from almanac.services.words import count
from almanac.services.words import day as day_words
from almanac.store.models import Part, PurchaseOrder

FORGOTTEN_DAYS = 90
"""An order so long past its day has come, or never will: nobody wrote down which."""


@dataclass(frozen=True)
class OnRecord:
    """What purchases are held against. parts : by number · sites : ids by code · counted : last day by part and site
    median : days a supplier usually takes, by id
    """

    parts: Mapping[str, Part]
    sites: Mapping[str, int]
    depot: str | None
    orders: Mapping[str, PurchaseOrder]
    lines: Mapping[tuple[int, int], list[LineOnRecord]]
    counted: Mapping[tuple[int, int], date]
    median: Mapping[int, int]


def purchase_changes(rows: Sequence[PurchaseRow], record: OnRecord, when: ListDay) -> list[Change]:
    """New orders, arrivals, and what is on record as the list says.

    Parameters
    ----------
    rows : as they were understood · when : the list's day, and that of the one before
    """
    changes: list[Change] = []
    met: dict[tuple[str, str, int], int] = {}
    for row in rows:
        wrong = _wrong(row, when.on)
        if wrong:
            changes.append(Change(Group.UNUSABLE, row.order, row.line, wrong))
            continue
        if row.number is None:
            changes.append(Change(Group.WAITS, row.order, row.line, "its part is not known yet"))
            continue
        key = row.order.upper(), row.number, row.quantity or 0
        if key in met and _same(row, rows, met[key]):
            changes.append(Change(Group.TWICE, row.order, row.line, f"the same as line {met[key]}"))
            continue
        met[key] = row.line
        changes.append(_change(row, record, when))
    return changes


def _same(row: PurchaseRow, rows: Sequence[PurchaseRow], line: int) -> bool:
    other = next(one for one in rows if one.line == line)
    return (row.ordered_on, row.received_on) == (other.ordered_on, other.received_on)


def _wrong(row: PurchaseRow, on: date) -> str:
    """What makes a row of no use."""
    if row.wrong:
        return row.wrong
    if not row.order or row.quantity is None or row.ordered_on is None:
        lacking = [words for words, value in (("number", row.order), ("quantity", row.quantity), ("day", row.ordered_on)) if not value]
        return f"it has no {' and no '.join(lacking)}"
    if row.ordered_on > on:
        return f"ordered on {day_words(row.ordered_on)}, after the list's day"
    if row.received_on is not None and not row.ordered_on <= row.received_on <= on:
        return f"arrived on {day_words(row.received_on)}: not between {day_words(row.ordered_on)} and the list's day"
    return ""


def _change(row: PurchaseRow, record: OnRecord, when: ListDay) -> Change:
    assert row.number is not None
    assert row.ordered_on is not None
    part, order = record.parts[row.number.upper()], record.orders.get(row.order.upper())
    own = record.lines.get((order.id, part.id), []) if order else []
    if not own:
        return _new(row, part, record, when)
    line = next((one for one in own if one.quantity == row.quantity), None)
    subject = f"{row.order}, {part.number}"
    if line is None:
        return Change(Group.UNUSABLE, subject, row.line, f"{row.quantity} by the list, {own[0].quantity} by the record: correct the order")
    if row.received_on is not None and line.left > 0:
        return _arrived(row, line, part, record, order)
    if row.expected_on is not None and line.left > 0 and row.expected_on != line.expected_on:
        words = f"expected on {day_words(row.expected_on)}, was {day_words(line.expected_on)}"
        values: dict[str, object] = {"expected_on": row.expected_on, "before": line.expected_on}
        return Change(Group.CHANGED, subject, row.line, words, line.id, when.on, values)
    return Change(Group.UNCHANGED, subject, row.line, "as on record")


def _arrived(row: PurchaseRow, line: LineOnRecord, part: Part, record: OnRecord, order: PurchaseOrder | None) -> Change:
    assert order is not None
    assert row.received_on is not None
    books = _books(record.counted.get((part.id, order.site_id)), row.received_on)
    words = f"{count(line.left, 'part')} arrived on {day_words(row.received_on)}{_counted_words(books)}"
    values: dict[str, object] = {"received_on": row.received_on, "quantity": line.left, "version": line.version, "books": books}
    return Change(Group.CHANGED, f"{row.order}, {part.number}", row.line, words, line.id, row.received_on, values)


def _books(counted: date | None, received: date) -> bool:
    """Whether an arrival adds to a shelf: not where it was counted afterwards, nor where nobody ever said what lies there."""
    return counted is not None and received > counted


def _counted_words(books: bool) -> str:
    return ", and are booked on the shelf" if books else "; not booked on the shelf: its count has them, or will"


def _new(row: PurchaseRow, part: Part, record: OnRecord, when: ListDay) -> Change:
    subject = f"{row.order}, {part.number}"
    code = row.site or record.depot
    if code is None:
        return Change(Group.UNUSABLE, subject, row.line, "no site is the depot, and it says none: name where it was delivered to")
    assert row.ordered_on is not None
    site = record.sites[code]
    usual = date.fromordinal(row.ordered_on.toordinal() + record.median.get(part.supplier_id, 0))
    expected = row.expected_on or row.received_on or max(usual, when.on)
    if row.received_on is None and (when.on - (row.expected_on or usual)).days > FORGOTTEN_DAYS:
        due = day_words(row.expected_on or usual)
        words = f"due by {due}, and no arrival is said: give the day it came; what never came is no part under way"
        return Change(Group.UNUSABLE, subject, row.line, words)
    # What came before the last list and was never on record is in the shelf's number, or was used: nobody can tell now.
    fresh = row.received_on is not None and when.before is not None and row.received_on > when.before
    books = fresh and row.received_on is not None and _books(record.counted.get((part.id, site)), row.received_on)
    values: dict[str, object] = {
        "order": row.order,
        "part": part.id,
        "supplier": part.supplier_id,
        "site": site,
        "quantity": row.quantity,
        "price": row.price if row.price is not None else part.price,
        "ordered_on": row.ordered_on,
        "expected_on": expected,
        "received_on": row.received_on,
        "books": books,
    }
    fate = (
        f"arrived on {day_words(row.received_on)}{_counted_words(books)}"
        if row.received_on
        else f"under way, expected on {day_words(expected)}"
    )
    words = f"{count(row.quantity or 0, 'part')} ordered on {day_words(row.ordered_on)}, {fate}"
    return Change(Group.NEW, subject, row.line, words, None, row.ordered_on, values, site=code)
