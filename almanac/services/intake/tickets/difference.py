"""Tickets held against the record: incidents that are new, and rows that are none or that nobody can place."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import date

from almanac.core.life.outcomes import Finding
from almanac.core.parts.declared.kinds import kind_name
from almanac.services.answers.progress import each
from almanac.services.intake.changes import Change, Group
from almanac.services.intake.settled import NOT_FOR_US, Question
from almanac.services.intake.subject import HOLDING
from almanac.services.intake.tickets.phrases import Done
from almanac.services.intake.tickets.record import Record
from almanac.services.intake.tickets.rows import TicketRow
from almanac.services.oldlog.check import covering
from almanac.services.words import day as day_words
from almanac.store.oldlog import Machine, Place, Stretch

NEAR_DAYS = 3
"""A ticket of a machine's part within so many days of an incident on record is that incident."""
FINDING_WORDS = {
    Finding.DAMAGE: "damage",
    Finding.DEAD_ON_ARRIVAL: "dead on arrival",
    Finding.NO_FAULT_FOUND: "no fault",
    Finding.UPGRADE: "an upgrade",
    Finding.PREVENTIVE: "a preventive swap",
    Finding.CONFIRMED: "a failure",
}
LONGEST_REASON, LONGEST_NOTE = 300, 2000


class TicketChanges:
    """The changes of a list, and the questions that come up while its rows are placed."""

    def __init__(self, record: Record, on: date, said: Mapping[str, str]) -> None:
        self.record, self.on, self.said = record, on, said
        self.changes: list[Change] = []
        self.questions: list[Question] = []
        self.seen: dict[tuple[int, str], list[tuple[date, int]]] = {}
        self.tickets: dict[str, int] = {}

    def take(self, rows: Sequence[TicketRow]) -> None:
        """Place rows, in the order of their days: an earlier swap decides what a later one took out."""
        for row in each(sorted(rows, key=lambda one: (one.occurred_on or date.max, one.line)), HOLDING):
            if row.about == NOT_FOR_US and not row.told.merged:
                continue
            self.changes.append(self._of(row))

    def _of(self, row: TicketRow) -> Change:
        subject = " ".join(part for part in (row.ticket, row.tag) if part)
        aside = self._aside(row)
        if aside is not None:
            group, words = aside
            return Change(group, subject, row.line, words)
        placed = self._placed(row)
        if isinstance(placed, str):
            return Change(Group.UNUSABLE, subject, row.line, placed)
        machine, places = placed
        told = self._told(row, machine, places)
        if told is not None:
            return Change(told[0], subject, row.line, told[1])
        place = self._place(row, machine, places)
        if place is None:
            return Change(Group.WAITS, subject, row.line, f"which of its {kind_name(str(row.about))} positions is not known yet")
        return self._incident(subject, row, machine, place)

    def _told(self, row: TicketRow, machine: Machine, places: Sequence[Place]) -> tuple[Group, str] | None:
        """Whether the same was told already: on record, or by another row of the same days."""
        day = row.occurred_on or self.on
        for place in places:
            near = next((one for one in self.record.recorded.get((machine.id, place.id), []) if abs((one - day).days) <= NEAR_DAYS), None)
            if near is not None:
                return Group.UNCHANGED, f"{place.label}: on record since {day_words(near)}"
        seen = self.seen.get((machine.id, str(row.about)), [])
        twice = next((line for other, line in seen if abs((other - day).days) <= NEAR_DAYS), None)
        return (Group.TWICE, f"{places[0].label}: line {twice} is of the same days") if twice is not None else None

    def _aside(self, row: TicketRow) -> tuple[Group, str] | None:
        """What a row is that is no incident of its own, or not yet."""
        if row.told.merged:
            return Group.TWICE, "another ticket's, by its words"
        if row.ticket and row.ticket.upper() in self.tickets:
            return Group.TWICE, f"ticket {row.ticket} stands in line {self.tickets[row.ticket.upper()]} already"
        if row.ticket:
            self.tickets[row.ticket.upper()] = row.line
        if row.still_open:
            return Group.UNCHANGED, "still open: it comes with a later list"
        return (Group.WAITS, f"not known which part: {row.text[:80]}") if row.about is None else None

    def _placed(self, row: TicketRow) -> tuple[Machine, list[Place]] | str:
        """The machine and its positions of the kind; or why there is none."""
        if row.wrong:
            return row.wrong
        machine = self.record.fleet.machines.get(row.tag.upper())
        if machine is None:
            return f"no machine has the tag {row.tag}" if row.tag else "it has no asset tag"
        wrong = self._day(row, machine)
        if wrong:
            return wrong
        places = [place for place in self.record.fleet.places.get(machine.model_id, []) if place.kind == row.about]
        if not places:
            return f"its model has no {kind_name(str(row.about))} among its positions: describe it first"
        return machine, places

    def _day(self, row: TicketRow, machine: Machine) -> str:
        day = row.occurred_on
        if day is None:
            return "it has no day"
        if day > self.on:
            return f"{day_words(day)} is after the list's day"
        if day < machine.log_began_on:
            return (
                f"the log of {machine.site_name} began on {day_words(machine.log_began_on)}: an earlier one would make old parts look worse"
            )
        if day <= machine.in_service_on:
            return f"{machine.tag} went into service on {day_words(machine.in_service_on)}, not before {day_words(day)}"
        if machine.retired_on is not None and day > machine.retired_on:
            return f"{machine.tag} was retired on {day_words(machine.retired_on)}, before {day_words(day)}"
        return ""

    def _place(self, row: TicketRow, machine: Machine, places: Sequence[Place]) -> Place | None:
        """The only position, or any of those that hold the same since the same day; else it is asked."""
        if len(places) == 1:
            return places[0]
        said = self.said.get(row.key)
        chosen = next((place for place in places if str(place.id) == said), None)
        if chosen is not None:
            return chosen
        lives = {place.id: self._stretch(machine, place, row.occurred_on) for place in places}
        held = [place for place in places if lives[place.id] is not None]
        kinds = {(one.part_id, one.fitted_on) for one in lives.values() if one is not None}
        if len(held) <= 1 or len(kinds) == 1:
            return held[0] if held else places[0]
        names = ", ".join(place.label for place in held)
        options = tuple((str(place.id), place.label) for place in held)
        about = f"which of {names} of {machine.tag} was it on {day_words(row.occurred_on or self.on)}:"
        self.questions.append(Question("place", row.text, 1, (row.line,), str(held[0].id), about=about, key=row.key, options=options))
        return None

    def _stretch(self, machine: Machine, place: Place, day: date | None) -> Stretch | None:
        if day is None:
            return None
        own: Stretch | None = covering(self.record.fleet.lives.get(machine.id, {}).get(place.id, []), day)
        return own

    def _incident(self, subject: str, row: TicketRow, machine: Machine, place: Place) -> Change:
        assert row.occurred_on is not None
        day = row.occurred_on
        stretch = self._stretch(machine, place, day)
        if stretch is None:
            words = f"{place.label}: nothing is on record in it on {day_words(day)}: say what new machines hold, or list its parts first"
            return Change(Group.UNUSABLE, subject, row.line, words)
        if stretch.fitted_by_log and stretch.removed_by_log:
            return Change(
                Group.UNUSABLE, subject, row.line, f"{place.label}: it lies between two recorded incidents; record this one by hand"
            )
        if row.done is None:
            return Change(Group.WAITS, subject, row.line, f"{place.label}: not known what was done")
        self.seen.setdefault((machine.id, str(row.about)), []).append((day, row.line))
        return self._new(subject, row, machine, place)

    def _new(self, subject: str, row: TicketRow, machine: Machine, place: Place) -> Change:
        kept = row.done is Done.LOOKED
        proposed = row.told.finding
        guess = f"; perhaps {FINDING_WORDS[proposed]}, for “{row.told.because}”" if proposed in FINDING_WORDS else ""
        values: dict[str, object] = {
            "asset": machine.id,
            "place": place.id,
            "kept": kept,
            "minutes": row.minutes,
            "reason": row.text[:LONGEST_REASON],
            "note": _note(row, guess)[:LONGEST_NOTE],
        }
        words = f"{place.label}: {'looked at' if kept else 'replaced'}{guess}; {row.text[:80]}"
        return Change(Group.NEW, subject, row.line, words, None, row.occurred_on, values)


def _note(row: TicketRow, guess: str) -> str:
    """The ticket's own words and number are kept; what they may mean is told as a guess."""
    said = [f"Ticket {row.ticket}" if row.ticket else "", row.done_text, guess.removeprefix("; ").capitalize()]
    return ". ".join(part.rstrip(".") for part in said if part)
