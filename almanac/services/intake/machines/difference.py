"""A list held against what is on record: new, moved, changed, gone, unchanged, said twice, and what cannot be used and why."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta

from almanac.services.answers.progress import each
from almanac.services.intake.changes import Change, Difference, Gone, Group, in_order
from almanac.services.intake.columns import plain
from almanac.services.intake.machines.rows import USUAL_DUTY, MachineRow
from almanac.services.intake.subject import HOLDING, ListDay
from almanac.services.words import count
from almanac.services.words import day as day_words


@dataclass(frozen=True)
class OnRecord:
    """A machine as it is on record. stay_from : since when it stands where it stands · busy : a job is open on it"""

    id: int
    tag: str
    serial: str | None
    model_id: int
    site: str
    duty: str
    in_service_on: date
    retire_planned_on: date | None
    retired_on: date | None
    stay_from: date
    busy: bool


@dataclass(frozen=True)
class Delivered:
    """What machines were delivered with. parts : (position, part) of a model, where one part alone fits a position
    log_began : by site; an older machine may hold others of the same kind than it was delivered with, and nobody knows since when
    told : positions by machine of which anything was ever on record
    """

    parts: Mapping[int, tuple[tuple[int, int], ...]]
    log_began: Mapping[str, date]
    told: Mapping[int, frozenset[int]]

    def of(self, model: int, site: str) -> tuple[tuple[int, int], ...]:
        """What a machine at a site holds beyond doubt; nothing where nobody knows since when its repairs are written down."""
        return self.parts.get(model, ()) if site in self.log_began else ()

    def lacking(self, machine: OnRecord) -> tuple[tuple[int, int], ...]:
        """What a machine on record was delivered with in positions nobody ever told of, beyond doubt."""
        told = self.told.get(machine.id, frozenset())
        return tuple(pair for pair in self.of(machine.model_id, machine.site) if pair[0] not in told)

    def words(self, holds: tuple[tuple[int, int], ...], site: str, since: date) -> str:
        """What a machine in service since a day holds, and since when."""
        began = self.log_began[site]
        if since >= began:
            return f"{count(len(holds), 'part')} in it as delivered on {day_words(since)}"
        return f"{count(len(holds), 'part')} in it, fitted between {day_words(since)} and {day_words(began)}: nobody knows when"


def difference(rows: Sequence[MachineRow], machines: Sequence[OnRecord], when: ListDay, delivered: Delivered | None = None) -> Difference:
    """Hold a list against the record.

    Parameters
    ----------
    rows : of machines that are ours · machines : all on record · when : the list's day
    delivered : what new machines hold, None where that is not taken
    """
    known = {machine.tag.upper(): machine for machine in machines}
    serials: dict[str, list[OnRecord]] = defaultdict(list)
    for machine in machines:
        if machine.serial:
            serials[machine.serial.upper()].append(machine)
    changes: list[Change] = []
    named: set[str] = set()
    for tag, own in each(list(_by_tag(rows).items()), HOLDING):
        row, twice = own[-1], own[:-1]
        changes.extend(_twice(row, one) for one in twice)
        named.add(tag)
        own_record = known.get(tag) or _by_serial(row, serials)
        if own_record is not None:
            named.add(own_record.tag.upper())
        changes.extend(_of_row(row, own_record, when, delivered))
    changes.extend(_nameless(rows))
    missing = [machine for machine in machines if machine.tag.upper() not in named and machine.retired_on is None]
    changes.extend(_gone(missing, rows, when))
    return Difference(in_order(changes), len(_of_sites(missing, rows)) if when.gone is None else 0)


def _by_serial(row: MachineRow, serials: Mapping[str, list[OnRecord]]) -> OnRecord | None:
    """The machine with a row's serial, where one alone has it: it got another tag."""
    found = serials.get(row.serial.upper(), []) if row.serial else []
    return found[0] if len(found) == 1 else None


def _by_tag(rows: Sequence[MachineRow]) -> dict[str, list[MachineRow]]:
    found: dict[str, list[MachineRow]] = {}
    for row in rows:
        if row.tag:
            found.setdefault(row.tag.upper(), []).append(row)
    return found


def _twice(kept: MachineRow, row: MachineRow) -> Change:
    same = replace(row, line=0) == replace(kept, line=0)
    words = f"the same as line {kept.line}" if same else f"line {kept.line} says otherwise: the later one counts"
    return Change(Group.TWICE, row.tag, row.line, words)


def _nameless(rows: Sequence[MachineRow]) -> list[Change]:
    return [Change(Group.UNUSABLE, "", row.line, "it has no asset tag: give it one") for row in rows if not row.tag]


def _of_row(row: MachineRow, machine: OnRecord | None, when: ListDay, delivered: Delivered | None) -> list[Change]:
    if row.wrong:
        return [_cannot(row, row.wrong)]
    if row.gone:
        return _said_gone(row, machine, when)
    if machine is None:
        return [_new(row, when, delivered)]
    return _known(row, machine, when, delivered)


def _cannot(row: MachineRow, why: str) -> Change:
    return Change(Group.UNUSABLE, row.tag, row.line, why)


def _said_gone(row: MachineRow, machine: OnRecord | None, when: ListDay) -> list[Change]:
    if machine is None:
        return [Change(Group.UNCHANGED, row.tag, row.line, f"{row.status}, and never on record")]
    if machine.retired_on is not None:
        return [Change(Group.UNCHANGED, row.tag, row.line, f"{row.status}, retired on {day_words(machine.retired_on)}")]
    return [_retired(machine, when.on, row.line, row.status)]


def _retired(machine: OnRecord, on: date, line: int | None, why: str) -> Change:
    if machine.busy:
        return Change(Group.UNUSABLE, machine.tag, line, f"{why}, but a job is open on it: close that first")
    if on <= max(machine.in_service_on, machine.stay_from):
        since = day_words(max(machine.in_service_on, machine.stay_from))
        return Change(
            Group.UNUSABLE, machine.tag, line, f"{why}, but it stands where it stands since {since} only: the list's day is wrong"
        )
    values = {"retired_on": on}
    return Change(Group.GONE, machine.tag, line, f"{why}: retired on {day_words(on)}", machine.id, on, values, site=machine.site)


def _new(row: MachineRow, when: ListDay, delivered: Delivered | None) -> Change:
    lacking = [words for words, value in (("model", row.model), ("site", row.site)) if value is None]
    if lacking:
        return Change(Group.WAITS, row.tag, row.line, f"its {' and '.join(lacking)} {'is' if len(lacking) == 1 else 'are'} not known yet")
    if row.in_service_on is None:
        return _cannot(row, "no first day of use: how old its parts are could not be said")
    if row.in_service_on > when.on:
        return _cannot(row, f"in service from {day_words(row.in_service_on)}, after the list's day")
    if row.retire_planned_on is not None and row.retire_planned_on < row.in_service_on:
        return _cannot(row, f"to be retired on {day_words(row.retire_planned_on)}, before its first day of use")
    model, site = _model(row), row.site or ""
    values = {
        "tag": row.tag,
        "serial": row.serial,
        "model_id": model,
        "duty": row.duty or USUAL_DUTY,
        "in_service_on": row.in_service_on,
        "retire_planned_on": row.retire_planned_on,
    }
    holds = delivered.of(model, site) if delivered and isinstance(model, int) else ()
    used = "" if row.duty else f"; how it is used is not said, taken for {USUAL_DUTY.replace('_', ' ')}"
    words = f"in service since {day_words(row.in_service_on)}{used}{_held_words(holds, site, row.in_service_on, delivered)}"
    return Change(Group.NEW, row.tag, row.line, words, None, row.in_service_on, values, row.model, row.site, holds)


def _model(row: MachineRow) -> int | str:
    """Id of a model, or the name of a new one."""
    said = row.model or "0"
    return int(said) if said.isdigit() else said


def _held_words(holds: tuple[tuple[int, int], ...], site: str, since: date, delivered: Delivered | None) -> str:
    if delivered is None:
        return ""
    return f"; {delivered.words(holds, site, since)}" if holds else "; what it holds is not beyond doubt"


def _known(row: MachineRow, machine: OnRecord, when: ListDay, delivered: Delivered | None) -> list[Change]:
    if machine.retired_on is not None:
        return [_cannot(row, f"on the list as in use, but retired on {day_words(machine.retired_on)} by the record")]
    if row.model is not None and _model(row) != machine.model_id:
        return [_cannot(row, "another model than on record: a tag is one machine for good; give the new one a tag of its own")]
    moved = row.site is not None and row.site != machine.site
    if moved and when.on <= machine.stay_from:
        return [_cannot(row, f"at {machine.site} since {day_words(machine.stay_from)} by the record, which is not before the list's day")]
    values, words = _changed(row, machine)
    found = []
    if moved:
        text = f"from {machine.site} to {row.site}"
        found.append(Change(Group.MOVED, machine.tag, row.line, text, machine.id, when.on, {"site": row.site}, site=row.site))
    holds = delivered.lacking(machine) if delivered else ()
    if holds and delivered:
        words.append(delivered.words(holds, machine.site, machine.in_service_on))
    if values or holds:
        text = "; ".join(words)
        found.append(Change(Group.CHANGED, machine.tag, row.line, text, machine.id, when.on, values, site=row.site, holds=holds))
    return found or [Change(Group.UNCHANGED, machine.tag, row.line, "as on record")]


def _changed(row: MachineRow, machine: OnRecord) -> tuple[dict[str, object], list[str]]:
    """What a list says otherwise; what it does not say stays."""
    values: dict[str, object] = {}
    words = []
    if row.serial and plain(row.serial) != plain(machine.serial or ""):
        values["serial"] = row.serial
        words.append(f"serial {row.serial}, {f'was {machine.serial}' if machine.serial else 'none was on record'}")
    if row.tag.upper() != machine.tag.upper():
        values["tag"] = row.tag
        words.append(f"tag {row.tag}, was {machine.tag}")
    if row.duty and row.duty != machine.duty:
        values["duty"] = row.duty
        words.append(f"{row.duty.replace('_', ' ')}, was {machine.duty.replace('_', ' ')}")
    planned = row.retire_planned_on
    if planned is not None and planned != machine.retire_planned_on and planned >= machine.in_service_on:
        values["retire_planned_on"] = planned
        before = f"was {day_words(machine.retire_planned_on)}" if machine.retire_planned_on else "no day was on record"
        words.append(f"to be retired on {day_words(planned)}, {before}")
    return values, words


def _of_sites(missing: Sequence[OnRecord], rows: Sequence[MachineRow]) -> list[OnRecord]:
    """Of machines that a list does not name those at sites it speaks of: a list of one harbour says nothing of the others."""
    sites = {row.site for row in rows if row.site is not None}
    return [machine for machine in missing if machine.site in sites]


def _gone(missing: Sequence[OnRecord], rows: Sequence[MachineRow], when: ListDay) -> list[Change]:
    here = sorted(_of_sites(missing, rows), key=lambda machine: machine.tag)
    if when.gone is None:
        return [
            Change(Group.WAITS, one.tag, None, "on record, and not on the list: say what became of such machines", one.id) for one in here
        ]
    if when.gone is Gone.LEAVE:
        return []
    days = _spread(len(here), when) if when.gone is Gone.SPREAD else [when.on] * len(here)
    return [_retired(machine, on, None, "not on the list any more") for machine, on in zip(here, days, strict=True)]


def _spread(count: int, when: ListDay) -> list[date]:
    """Days between the last list and this, evenly: nobody knows which machine left on which of them."""
    if when.before is None or when.before >= when.on:
        return [when.on] * count
    span = (when.on - when.before).days
    return [when.before + timedelta(days=max(1, round((place + 0.5) * span / count))) for place in range(count)]
