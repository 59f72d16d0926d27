"""Tickets as a kind of list."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from sqlalchemy.orm import Session

from almanac.core.parts.declared.kinds import kind_name
from almanac.services.intake.changes import Change, Difference, in_order
from almanac.services.intake.machines.record import names_on_record
from almanac.services.intake.settled import NOT_FOR_US, Settled
from almanac.services.intake.subject import SHOWN, By, Found, Kept, ListDay, Subject
from almanac.services.intake.table import Table
from almanac.services.intake.tickets.difference import TicketChanges
from almanac.services.intake.tickets.fields import FIELDS
from almanac.services.intake.tickets.phrases import Done
from almanac.services.intake.tickets.record import read_record
from almanac.services.intake.tickets.rows import DONE_WORDS, KINDS, TicketRow, questions_of, ticket_rows
from almanac.services.intake.tickets.write import undo_tickets, write_tickets
from almanac.services.words import day as day_words
from almanac.store.models import Intake


class Tickets(Subject):
    """The help desk's tickets: free text to what happened to which part."""

    kind, title, one, many = "tickets", "list of tickets", "ticket", "tickets"
    usual = "Help desk"
    fields = FIELDS

    def known(self, session: Session) -> Mapping[str, set[str]]:
        """Tags."""
        return {"tag": names_on_record(session).known()["tag"]}

    def look(self, session: Session, table: Table, settled: Settled, when: ListDay) -> Found:
        """Incidents that are new, and what has to be said of the others."""
        rows = ticket_rows(table.lines(), settled)
        placed = TicketChanges(read_record(session), when.on, settled.names.get("place", {}))
        placed.take(rows)
        return Found(
            rows=rows,
            questions=[*questions_of(rows), *placed.questions],
            taken=[],
            not_ours=sum(row.about == NOT_FOR_US for row in rows),
            difference=Difference(in_order(placed.changes)),
            shown_fields=("tag", "occurred_on", "text", "about", "done"),
            shown=[(row.line, _shown(row)) for row in rows[:SHOWN]],
        )

    def write(self, session: Session, changes: Sequence[Change], by: By) -> list[Kept]:
        """Incidents with open findings."""
        return write_tickets(session, changes, by)

    def undo(self, session: Session, row: Intake, by: By) -> list[str]:  # noqa: ARG002 - it leaves nothing on record
        """As if the list had never been."""
        return undo_tickets(session, row.changes)

    def choices(self, session: Session) -> Mapping[str, Mapping[str, str]]:  # noqa: ARG002 - they are the product's own
        """Kinds of parts, and what was done."""
        return {"about": KINDS, "done": DONE_WORDS}


def _shown(row: TicketRow) -> tuple[str, ...]:
    about = "no part" if row.about == NOT_FOR_US else kind_name(row.about) if row.about else "?"
    done = {Done.REPLACED: "replaced", Done.LOOKED: "looked at", None: "?"}[row.done]
    return row.tag, day_words(row.occurred_on) if row.occurred_on else "?", row.text[:60], about, done
