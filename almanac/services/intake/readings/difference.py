"""A list of readings held against the record."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from almanac.services.intake.changes import Change, Group
from almanac.services.intake.columns import plain
from almanac.services.intake.readings.fields import FIELDS
from almanac.services.intake.table import Line
from almanac.services.readings import MOST_SHARE
from almanac.services.words import day as day_words
from almanac.services.words import percent
from almanac.store.bulk import among
from almanac.store.models import Asset, Position, Tenure
from almanac.store.readings import readings_held

WHOLE = 100.0
SAME = 1e-6
USUAL = "battery"
"""What a list reads that does not say of which part."""


@dataclass(frozen=True)
class ReadingRow:
    """A row as it was understood. full, design : in one unit, of which only the ratio counts"""

    line: int
    tag: str
    position: str
    read_on: date | None
    full: float | None
    design: float | None
    wrong: str = ""


@dataclass(frozen=True)
class Stretch:
    """A part in a position of a machine for a time."""

    tenure_id: int
    key: str
    label: str
    kind: str
    fitted_on: date
    removed_on: date | None

    def covers(self, day: date) -> bool:
        """Whether it was in on a day."""
        return self.fitted_on <= day and (self.removed_on is None or day < self.removed_on)


def reading_row(line: Line) -> ReadingRow:
    """One row; a share alone is read as of a hundred."""
    full, design, share = line.amount("full"), line.amount("design"), line.amount("share")
    wrong = line.unread(FIELDS)
    if full is None and share is not None:
        full, design = share, None
    numbers = (float(full) if full is not None else None, float(design) if design is not None else WHOLE)
    if full is not None and design is None and share is None:
        wrong = wrong or "nothing says what it was made for: a full capacity alone tells no wear"
    return ReadingRow(line.number, line.text("tag"), line.text("position"), line.day("read_on"), *numbers, wrong)


def stretches(session: Session, rows: Sequence[ReadingRow]) -> dict[str, list[Stretch]]:
    """What the machines of a list held, by upper-case tag; an empty list where nothing is on record."""
    tags = sorted({row.tag.upper() for row in rows})
    known = {tag.upper() for tag in session.scalars(select(Asset.tag).where(among(func.upper(Asset.tag), tags)))}
    found: dict[str, list[Stretch]] = defaultdict(list, {tag: [] for tag in known})
    query = (
        select(Asset.tag, Tenure.id, Position.key, Position.label, Position.kind, Tenure.fitted_on, Tenure.removed_on)
        .join(Asset, Asset.id == Tenure.asset_id)
        .join(Position, Position.id == Tenure.position_id)
        .where(among(func.upper(Asset.tag), tags))
    )
    for row in session.execute(query):
        found[row.tag.upper()].append(Stretch(row.id, row.key, row.label, row.kind, row.fitted_on, row.removed_on))
    return dict(found)


def reading_changes(session: Session, rows: Sequence[ReadingRow], on: date) -> list[Change]:
    """New, corrected and known readings.

    Parameters
    ----------
    rows : as they were understood · on : the list's day
    """
    held = stretches(session, rows)
    places = [_place(row, held, on) for row in rows]
    known = readings_held(session, {place.tenure_id for place in places if isinstance(place, Stretch)})
    found: dict[tuple[int, date], Change] = {}
    changes = []
    for row, place in zip(rows, places, strict=True):
        if isinstance(place, str):
            changes.append(Change(Group.UNUSABLE, row.tag, row.line, place))
            continue
        assert row.read_on is not None
        key = place.tenure_id, row.read_on
        if key in found:
            changes.append(Change(Group.TWICE, row.tag, found[key].line, f"line {row.line} reads the same day: the later one counts"))
        found[key] = _change(row, place, known.get(key))
    return [*changes, *found.values()]


def _place(row: ReadingRow, held: Mapping[str, list[Stretch]], on: date) -> Stretch | str:
    """What a row reads, or why it cannot be used."""
    if row.wrong:
        return row.wrong
    if not row.tag or row.tag.upper() not in held:
        return f"no machine has the tag {row.tag}" if row.tag else "it has no asset tag"
    if row.read_on is None or row.full is None or row.design is None:
        return "it has no day" if row.read_on is None else "it has no capacity"
    if row.read_on > on:
        return f"read on {day_words(row.read_on)}, after the list's day"
    if row.design <= 0 or not 0 <= row.full <= MOST_SHARE * row.design:
        return f"{row.full:g} of {row.design:g}: more than twice what it was made for, or nothing it was made for"
    return _stretch(row, held[row.tag.upper()], row.read_on)


def _stretch(row: ReadingRow, held: Sequence[Stretch], day: date) -> Stretch | str:
    said = plain(row.position) or USUAL
    exact = [one for one in held if said in (plain(one.key), plain(one.label))]
    there = [one for one in (exact or [one for one in held if said == one.kind]) if one.covers(day)]
    if len(there) == 1:
        return there[0]
    if there:
        return f"{', '.join(one.label for one in there)} were in it on {day_words(day)}: say which"
    return f"nothing is on record as its {said} on {day_words(day)}: a reading of it would belong to nobody"


def _change(row: ReadingRow, place: Stretch, known: tuple[float, float] | None) -> Change:
    assert row.full is not None
    assert row.design is not None
    assert row.read_on is not None
    share = percent(row.full / row.design)
    values: dict[str, object] = {"tenure": place.tenure_id, "day": row.read_on, "full": row.full, "design": row.design}
    told = f"{place.label}, {day_words(row.read_on)}: {share}"
    if known is None:
        return Change(Group.NEW, row.tag, row.line, told, None, row.read_on, values)
    if abs(known[0] / known[1] - row.full / row.design) < SAME:
        return Change(Group.UNCHANGED, row.tag, row.line, f"{told}, as on record")
    values["before"] = list(known)
    return Change(Group.CHANGED, row.tag, row.line, f"{told}, was {percent(known[0] / known[1])}", place.tenure_id, row.read_on, values)
