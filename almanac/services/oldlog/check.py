"""Checking an old log against the fleet: every row understood, or named with what is wrong and the cure."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date
from typing import Protocol, TypeVar

from sqlalchemy.orm import Session

from almanac.core.life.outcomes import Finding
from almanac.exchange.tables import Row
from almanac.services.clock import Clock
from almanac.services.oldlog.columns import FIELDS, day_of, finding_of
from almanac.services.words import day as day_words
from almanac.store import oldlog
from almanac.store.oldlog import Machine, Place, Stretch


@dataclass(frozen=True)
class RowFault:
    """What is wrong with a row: its line in the file, the field, and the cure."""

    line: int
    field: str
    message: str


@dataclass(frozen=True)
class OldIncident:
    """A row that was understood: the machine, the position, and the stretch of a part's life that it ends. kept : or does not end"""

    line: int
    machine: Machine
    place: Place
    occurred_on: date
    finding: Finding
    reason: str
    part_id: int | None
    serial: str | None
    minutes: int | None
    note: str
    last_good_on: date | None = None
    kept: bool = False


@dataclass
class Checked:
    """Rows that were understood, what is wrong with the others, and words for findings that nobody explained yet."""

    incidents: list[OldIncident] = field(default_factory=list)
    faults: list[RowFault] = field(default_factory=list)
    unexplained: Counter[str] = field(default_factory=Counter)

    def fault(self, line: int, name: str, message: str) -> None:
        self.faults.append(RowFault(line, name, message))


@dataclass(frozen=True)
class Reading:
    """How a file is read: columns by field, findings by the words used, whether the day comes first."""

    columns: Mapping[str, str]
    findings: Mapping[str, str] = field(default_factory=dict)
    day_first: bool = True


def check_rows(session: Session, rows: Sequence[Row], reading: Reading, *, clock: Clock) -> Checked:
    """Every row of an old log against machines, positions and what is already recorded.

    Parameters
    ----------
    rows : of the file · reading : how its columns are meant · clock : today bounds its days

    Returns
    -------
    Checked
    """
    checked = Checked()
    missing = [item.name for item in FIELDS if item.required and not reading.columns.get(item.name)]
    for name in missing:
        checked.fault(1, name, "no column is chosen for this: choose one")
    if missing:
        return checked
    fleet = oldlog.read_fleet(session)
    for row in rows:
        found = _understood(row, reading, fleet, checked, clock)
        if found is not None:
            checked.incidents.append(found)
    _check_lives(checked, fleet)
    return checked


def _cell(row: Row, reading: Reading, name: str) -> str:
    column = reading.columns.get(name)
    return row.cells.get(column, "").strip() if column else ""


def _understood(row: Row, reading: Reading, fleet: oldlog.Fleet, checked: Checked, clock: Clock) -> OldIncident | None:
    """One row, or None with its faults written down."""
    before = len(checked.faults)
    machine = fleet.machines.get(_cell(row, reading, "tag").upper())
    if machine is None:
        checked.fault(row.line, "tag", f"no asset has the tag {_cell(row, reading, 'tag') or '(empty)'}: import the asset first")
    occurred = _day(row, reading, machine, checked, clock)
    place = _place(row, reading, machine, fleet, checked)
    finding = _finding(row, reading, checked)
    part_id = _part(row, reading, fleet, checked)
    minutes = _minutes(row, reading, checked)
    last_good = _last_good(row, reading, occurred, checked)
    if len(checked.faults) > before or machine is None or occurred is None or place is None or finding is None:
        return None
    return OldIncident(
        line=row.line,
        machine=machine,
        place=place,
        occurred_on=occurred,
        finding=finding,
        reason=_cell(row, reading, "reason")[:300] or "from the old log",
        part_id=part_id,
        serial=_cell(row, reading, "serial")[:60] or None,
        minutes=minutes,
        note=_cell(row, reading, "note")[:2000],
        last_good_on=last_good,
    )


def _day(row: Row, reading: Reading, machine: Machine | None, checked: Checked, clock: Clock) -> date | None:
    text = _cell(row, reading, "occurred_on")
    day = day_of(text, day_first=reading.day_first)
    if day is None:
        order = "day first" if reading.day_first else "month first"
        checked.fault(row.line, "occurred_on", f"a day such as 2026-12-04 or 4.12.2026 ({order}) was wanted, got {text or '(empty)'}")
        return None
    wrong = ""
    if day > clock.today:
        wrong = f"{day_words(day)} is in the future"
    elif machine and day < machine.in_service_on:
        wrong = f"{machine.tag} went into service on {day_words(machine.in_service_on)}, after {day_words(day)}"
    elif machine and machine.retired_on and day > machine.retired_on:
        wrong = f"{machine.tag} was retired on {day_words(machine.retired_on)}, before {day_words(day)}"
    elif machine and day < machine.log_began_on:
        began = day_words(machine.log_began_on)
        wrong = f"the log of {machine.site_name} began on {began}: an earlier incident would make old parts look worse; leave it out"
    if wrong:
        checked.fault(row.line, "occurred_on", wrong)
    return None if wrong else day


def _place(row: Row, reading: Reading, machine: Machine | None, fleet: oldlog.Fleet, checked: Checked) -> Place | None:
    if machine is None:
        return None
    text = _cell(row, reading, "position").lower()
    places = fleet.places.get(machine.model_id, [])
    exact = [place for place in places if text in (place.key.lower(), place.label.lower())]
    kind = [place for place in places if text == place.kind and (place.id in fleet.lives.get(machine.id, {}))]
    found = exact or kind
    if len(found) == 1:
        return found[0]
    names = ", ".join(place.label for place in (found or places))
    what = "it has several" if found else "it has no such position"
    checked.fault(row.line, "position", f"{machine.tag}: {what} ({text or 'empty'}); its positions are {names}")
    return None


def _finding(row: Row, reading: Reading, checked: Checked) -> Finding | None:
    text = _cell(row, reading, "finding")
    finding = finding_of(text, reading.findings)
    if finding is None:
        checked.unexplained[" ".join(text.lower().replace("_", " ").split())] += 1
        checked.fault(row.line, "finding", f"what does {text!r} mean? say it once for all rows")
    return finding


def _part(row: Row, reading: Reading, fleet: oldlog.Fleet, checked: Checked) -> int | None:
    number = _cell(row, reading, "part_number")
    if not number:
        return None
    part = fleet.parts.get(number.upper())
    if part is None:
        checked.fault(row.line, "part_number", f"no part has the number {number}: add the part, or leave the cell empty for the same part")
    return part


def _minutes(row: Row, reading: Reading, checked: Checked) -> int | None:
    text = _cell(row, reading, "minutes")
    if not text:
        return None
    if not text.isdigit() or int(text) > 10_000:
        checked.fault(row.line, "minutes", f"a whole number of minutes was wanted, got {text}")
        return None
    return int(text)


def _last_good(row: Row, reading: Reading, occurred: date | None, checked: Checked) -> date | None:
    text = _cell(row, reading, "last_good_on")
    day = day_of(text, day_first=reading.day_first) if text else None
    if text and day is None:
        checked.fault(row.line, "last_good_on", f"a day such as 2026-12-04 was wanted, got {text}")
    if day and occurred and day >= occurred:
        checked.fault(row.line, "last_good_on", f"{day_words(day)} is not before it was found on {day_words(occurred)}")
    return day


def _check_lives(checked: Checked, fleet: oldlog.Fleet) -> None:
    """Each row must fall inside the life of a part whose ends nobody has recorded, and no two rows on one day."""
    seen: dict[tuple[int, int, date], int] = {}
    for item in list(checked.incidents):
        where = (item.machine.id, item.place.id, item.occurred_on)
        if where in seen:
            checked.fault(item.line, "occurred_on", f"the same machine, position and day as line {seen[where]}")
        seen.setdefault(where, item.line)
        stretch = covering(fleet.lives.get(item.machine.id, {}).get(item.place.id, []), item.occurred_on)
        words = _outside(item, stretch)
        if words:
            checked.fault(item.line, "occurred_on", words)


class Spanning(Protocol):
    """Something fitted on one day and taken out on another, or still in."""

    @property
    def fitted_on(self) -> date: ...
    @property
    def removed_on(self) -> date | None: ...


Span = TypeVar("Span", bound=Spanning)


def covering(stretches: Sequence[Span], day: date) -> Span | None:
    """The stretch of life a day falls into, its first day left out."""
    return next((item for item in stretches if item.fitted_on < day and (item.removed_on is None or day < item.removed_on)), None)


def _outside(item: OldIncident, stretch: Stretch | None) -> str | None:
    what = f"{item.machine.tag}, {item.place.label}"
    if stretch is None:
        return f"{what}: nothing was in it on {day_words(item.occurred_on)}, or that day is recorded already: leave the row out"
    if stretch.fitted_by_log and stretch.removed_by_log:
        between = f"{day_words(stretch.fitted_on)} and {day_words(stretch.removed_on)}" if stretch.removed_on else "two days"
        return f"{what}: both {between} are recorded incidents; record this one by hand"
    return None
