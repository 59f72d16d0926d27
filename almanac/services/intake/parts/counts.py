"""Counts of a shelf list held against what is booked."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date

from almanac.services.intake.changes import Change, Gone, Group
from almanac.services.intake.parts.record import Record, ShelfOnRecord
from almanac.services.intake.parts.rows import PartRow
from almanac.services.intake.subject import ListDay
from almanac.services.words import count

Place = tuple[str, str]


def shelf_changes(rows: Sequence[PartRow], record: Record, coming: set[str], when: ListDay) -> tuple[list[Change], int]:
    """Shelves that hold another number than is booked, and how many with stock the list does not name while nobody said what that means.

    Parameters
    ----------
    rows : all that say a count · coming : upper-case numbers of parts the list brings itself · when : the list's day
    """
    counted: dict[Place, list[PartRow]] = {}
    changes = []
    for row in rows:
        if row.wrong or not row.number or row.on_hand is None:
            continue
        if row.site is None:
            changes.append(Change(Group.WAITS, row.number, row.line, "where it was counted is not known yet"))
        elif row.number.upper() in record.parts or row.number.upper() in coming:
            counted.setdefault((row.number.upper(), row.site), []).append(row)
    changes.extend(_counted(place, own, record, when) for place, own in counted.items())
    sites = {site for _, site in counted}
    missing = [place for place, shelf in record.shelves.items() if place[1] in sites and place not in counted and shelf.on_hand > 0]
    if when.gone is None:
        words = "stock is booked, and the list does not name it: say what that means"
        changes.extend(Change(Group.WAITS, _words(place), None, words, site=place[1]) for place in sorted(missing))
        return changes, len(missing)
    if when.gone is not Gone.LEAVE:
        changes.extend(_none_there(place, record.shelves[place], when.on) for place in sorted(missing))
    return changes, 0


def _words(place: Place) -> str:
    return f"{place[0]} at {place[1]}"


def _counted(place: Place, rows: list[PartRow], record: Record, when: ListDay) -> Change:
    """Lines of one shelf add up: a list has one a lot, or one a bin."""
    total = sum(row.on_hand or 0 for row in rows)
    shelf = record.shelves.get(place, ShelfOnRecord(0, 0, counted=False, waits=False))
    number, site = rows[-1].number, place[1]
    now = total + shelf.moved_since
    if shelf.waits:
        words = "another count of this shelf waits for a lead: settle that one first"
        return Change(Group.UNUSABLE, _words(place), rows[-1].line, words)
    if now < 0:
        words = f"{total} counted, and {-shelf.moved_since} went out since: one of the two is wrong"
        return Change(Group.UNUSABLE, _words(place), rows[-1].line, words)
    made: list[tuple[date | None, int]] = [(row.made_on, row.on_hand or 0) for row in rows if row.on_hand]
    values: dict[str, object] = {"part": number, "site": site, "counted": now, "booked": shelf.on_hand, "made": made}
    if not shelf.counted:
        return Change(
            Group.NEW, _words(place), rows[-1].line, f"{count(total, 'part')} there; nobody had booked any", None, when.on, values
        )
    if now == shelf.on_hand:
        return Change(Group.UNCHANGED, _words(place), rows[-1].line, f"{count(total, 'part')} there, as booked")
    since = f" ({shelf.moved_since:+d} since)" if shelf.moved_since else ""
    words = f"{count(total, 'part')} there{since}, {shelf.on_hand} booked"
    return Change(Group.CHANGED, _words(place), rows[-1].line, words, None, when.on, values)


def _none_there(place: Place, shelf: ShelfOnRecord, on: date) -> Change:
    words = f"not on the list: none there, {shelf.on_hand} booked"
    if shelf.waits:
        return Change(Group.UNUSABLE, _words(place), None, "another count of this shelf waits for a lead: settle that one first")
    now = max(shelf.moved_since, 0)
    values: dict[str, object] = {"part": place[0], "site": place[1], "counted": now, "booked": shelf.on_hand, "made": []}
    return Change(Group.CHANGED, _words(place), None, words, None, on, values)
