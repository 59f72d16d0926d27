"""Rows of a list of tickets as they are understood, and what is asked of them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date

from almanac.core.parts.declared.kinds import kind_name
from almanac.core.parts.kinds import Kind
from almanac.services.answers.progress import each
from almanac.services.intake.columns import plain
from almanac.services.intake.settled import NOT_FOR_US, Question, Settled
from almanac.services.intake.subject import READING
from almanac.services.intake.table import Line
from almanac.services.intake.tickets.fields import FIELDS
from almanac.services.intake.tickets.groups import essence, grouped
from almanac.services.intake.tickets.phrases import Done
from almanac.services.intake.tickets.reading import TicketReader, Told

OPEN_WORDS = (
    "open",
    "new",
    "in progress",
    "waiting",
    "pending",
    "offen",
    "neu",
    "in arbeit",
    "in bearbeitung",
    "wartet",
    "ouvert",
    "en cours",
)
KINDS = {kind.value: kind_name(kind.value) for kind in Kind}
DONE_WORDS = {Done.REPLACED.value: "the part was replaced", Done.LOOKED.value: "it was looked at only"}


@dataclass(frozen=True)
class TicketRow:
    """A row as it was understood. about : "-" where it concerns no part, None while that is asked · group : its key among the answers"""

    line: int
    tag: str
    ticket: str
    occurred_on: date | None
    text: str
    done_text: str
    minutes: int | None
    told: Told
    group: str
    about: str | None
    done: Done | None
    still_open: bool
    wrong: str = ""

    @property
    def key(self) -> str:
        """By which an answer of this row alone is remembered."""
        return plain(f"{self.ticket or self.tag} {self.occurred_on}")


def ticket_rows(lines: Sequence[Line], settled: Settled) -> list[TicketRow]:
    """All rows, with the answers that are there."""
    said = settled.names.get("about", {})
    usual = settled.names.get("done", {}).get("")
    read = [(line, line.text("text"), line.text("done")) for line in lines]
    reader = TicketReader()
    told = [reader.read(text, done) for _, text, done in each(read, READING)]
    essences = [essence(f"{text} {done}") for _, text, done in read]
    asks = [key for key, one in zip(essences, told, strict=True) if one.asks or key in said]
    groups = grouped(asks, tuple(said))
    return [_row(line, one, groups.get(key, key), said, usual) for (line, _, _), one, key in zip(read, told, essences, strict=True)]


def _row(line: Line, told: Told, group: str, said: Mapping[str, str], usual: str | None) -> TicketRow:
    minutes = line.amount("minutes")
    about = said.get(group) or (told.kind.value if told.kind else NOT_FOR_US if told.nothing or told.merged else None)
    done = told.done or (Done(usual) if usual in set(Done) else None)
    status = plain(line.text("status"))
    return TicketRow(
        line=line.number,
        tag=line.text("tag"),
        ticket=line.text("ticket"),
        occurred_on=line.day("occurred_on"),
        text=line.text("text"),
        done_text=line.text("done"),
        minutes=int(minutes) if minutes is not None and 0 <= minutes <= 10_000 else None,
        told=told,
        group=group,
        about=about,
        done=done,
        still_open=status in OPEN_WORDS and not line.text("done"),
        wrong=line.unread(FIELDS),
    )


def questions_of(rows: Sequence[TicketRow]) -> list[Question]:
    """What groups of rows are about, the largest first, and once what was done where nothing says so."""
    open_: dict[str, list[TicketRow]] = {}
    for row in rows:
        if row.about is None and not row.still_open:
            open_.setdefault(row.group, []).append(row)
    found = []
    for key, own in sorted(open_.items(), key=lambda item: -len(item[1])):
        kinds = own[0].told.kinds
        lines = tuple(row.line for row in own[:3])
        proposal = kinds[0].value if kinds else None
        text = f"{own[0].text} / {own[0].done_text}" if own[0].done_text else own[0].text
        found.append(Question("about", text, len(own), lines, proposal, about="which part is this about:", key=key))
    silent = [row for row in rows if row.about not in (None, NOT_FOR_US) and row.done is None and not row.still_open]
    if silent:
        lines = tuple(row.line for row in silent[:3])
        about = "where nothing says what was done, such as " + f"“{silent[0].text[:60]}”:"
        found.append(Question("done", "", len(silent), lines, None, about=about))
    return found
