"""Readings as a kind of list."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import date
from typing import Any

from sqlalchemy.orm import Session

from almanac.services.answers.progress import each
from almanac.services.errors import Fault, Refused
from almanac.services.intake.changes import Change, Difference, in_order
from almanac.services.intake.machines.record import names_on_record
from almanac.services.intake.readings.difference import ReadingRow, reading_changes, reading_row
from almanac.services.intake.readings.fields import FIELDS
from almanac.services.intake.settled import Settled
from almanac.services.intake.subject import READING, SHOWN, By, Found, Kept, ListDay, Subject
from almanac.services.intake.table import Table
from almanac.services.words import day as day_words
from almanac.store.bulk import add_rows, new_ids
from almanac.store.models import Intake, Reading
from almanac.store.readings import readings_held


class Readings(Subject):
    """What packs could still hold, or drives had left, as a management tool lists it."""

    kind, title, one, many = "readings", "list of readings", "reading", "readings"
    usual = "Battery reports"
    fields = FIELDS

    def known(self, session: Session) -> Mapping[str, set[str]]:
        """Tags."""
        return {"tag": names_on_record(session).known()["tag"]}

    def look(self, session: Session, table: Table, settled: Settled, when: ListDay) -> Found:  # noqa: ARG002 - nothing of it is asked
        """New and corrected readings."""
        if "full" not in table.columns and "share" not in table.columns:
            raise Refused(
                Fault("columns", f"{self.title}: no column was found for a capacity or a share that is left: say which one it is")
            )
        rows = [reading_row(line) for line in each(table.lines(), READING)]
        return Found(
            rows=rows,
            questions=[],
            taken=[],
            not_ours=0,
            difference=Difference(in_order(reading_changes(session, rows, when.on))),
            shown_fields=("tag", "position", "read_on", "full", "design"),
            shown=[(row.line, _shown(row)) for row in rows[:SHOWN]],
        )

    def write(self, session: Session, changes: Sequence[Change], by: By) -> list[Kept]:
        """Each as a reading of its day; one that is on record already is taken the place of."""
        rows = [_row(int(str(one.values["tenure"])), one.values, by) for one in changes]
        for number, row in zip(new_ids(session, Reading, len(rows)), rows, strict=True):
            row["id"] = number
        add_rows(session, Reading, rows)
        return [
            {"tenure": row["tenure_id"], "day": str(row["read_on"]), "full": row["full"], "design": row["design"], "reading": row["id"]}
            | ({"before": one.values["before"]} if "before" in one.values else {})
            for row, one in zip(rows, changes, strict=True)
        ]

    def undo(self, session: Session, row: Intake, by: By) -> list[str]:
        """What was read before holds again; what was new is withdrawn."""
        held = readings_held(session, {int(kept["tenure"]) for kept in row.changes})
        rows = []
        for kept in row.changes:
            day = date.fromisoformat(kept["day"])
            if held.get((int(kept["tenure"]), day)) != (kept["full"], kept["design"]):
                raise Refused(Fault("intake", f"a reading of {day_words(day)} was corrected since: withdraw what is wrong one by one"))
            full, design = kept.get("before", (kept["full"], kept["design"]))
            values = {"day": day, "full": full, "design": design}
            rows.append({**_row(int(kept["tenure"]), values, by), "withdrawn": "before" not in kept})
        add_rows(session, Reading, rows)
        return []

    def choices(self, session: Session) -> Mapping[str, Mapping[str, str]]:  # noqa: ARG002 - nothing is asked
        """None: nothing is asked."""
        return {}


def _row(tenure: int, values: Mapping[str, object], by: By) -> dict[str, Any]:
    return {
        "tenure_id": tenure,
        "read_on": values["day"],
        "full": values["full"],
        "design": values["design"],
        "recorded_at": by.clock.now,
        "author_id": by.author_id,
    }


def _shown(row: ReadingRow) -> tuple[str, ...]:
    numbers = ("?" if value is None else f"{value:g}" for value in (row.full, row.design))
    return row.tag, row.position or "battery", day_words(row.read_on) if row.read_on else "?", *numbers
