"""Purchases as a kind of list."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from sqlalchemy.orm import Session

from almanac.core.stock.lead_time import lead_time
from almanac.services.answers.progress import each
from almanac.services.intake.changes import Change, Difference, in_order
from almanac.services.intake.columns import plain
from almanac.services.intake.machines.record import names_on_record, sites_by_code
from almanac.services.intake.meanings import Meanings
from almanac.services.intake.purchases.difference import OnRecord, purchase_changes
from almanac.services.intake.purchases.fields import FIELDS
from almanac.services.intake.purchases.rows import PurchaseRow, last_counted, lines_on_record, orders_on_record, purchase_row
from almanac.services.intake.purchases.write import undo_purchases, write_purchases
from almanac.services.intake.settled import NOT_FOR_US, Settled
from almanac.services.intake.subject import READING, SHOWN, By, Found, Kept, ListDay, Subject
from almanac.services.intake.table import Table
from almanac.services.words import day as day_words
from almanac.store import catalog, planning
from almanac.store.models import Intake


class Purchases(Subject):
    """What the company bought, as its purchasing lists it: lead times are learned from it, and what is open is under way."""

    kind, title, one, many = "purchases", "list of purchases", "purchase", "purchases"
    usual = "Purchasing"
    fields = FIELDS

    def known(self, session: Session) -> Mapping[str, set[str]]:
        """Part numbers and sites."""
        return {"number": {plain(part.number) for part in catalog.all_parts(session)}, "site": names_on_record(session).known()["site"]}

    def look(self, session: Session, table: Table, settled: Settled, when: ListDay) -> Found:
        """New orders and arrivals."""
        parts = {part.number.upper(): part for part in catalog.all_parts(session)}
        numbers = Meanings("number", {plain(part.number): part.number for part in parts.values()}, settled)
        sites = Meanings("site", names_on_record(session).site_meanings(), settled)
        lines = table.lines()
        rows = [row for line in each(lines, READING) if NOT_FOR_US not in ((row := purchase_row(line, numbers, sites)).number, row.site)]
        every = catalog.sites(session)
        record = OnRecord(
            parts=parts,
            sites={site.code: site.id for site in every},
            depot=next((site.code for site in every if site.is_depot), None),
            orders=orders_on_record(session),
            lines=lines_on_record(session),
            counted=last_counted(session),
            median={
                number: lead_time(*zip(*row.lead_time, strict=True)).median_days
                for number, row in planning.supplier_rows(session, when.on).items()
            },
        )
        return Found(
            rows=rows,
            questions=[*numbers.questions(), *sites.questions()],
            taken=[*numbers.taken(), *sites.taken()],
            not_ours=len(lines) - len(rows),
            difference=Difference(in_order(purchase_changes(rows, record, when))),
            shown_fields=("order", "number", "quantity", "ordered_on", "received_on"),
            shown=[(row.line, _shown(row)) for row in rows[:SHOWN]],
        )

    def write(self, session: Session, changes: Sequence[Change], by: By) -> list[Kept]:
        """Orders, arrivals, days."""
        return write_purchases(session, changes, by)

    def undo(self, session: Session, row: Intake, by: By) -> list[str]:
        """Orders that are taken back; those that had arrived stay, cancelled."""
        return undo_purchases(session, row.changes, by)

    def choices(self, session: Session) -> Mapping[str, Mapping[str, str]]:
        """Parts and sites."""
        return {
            "number": {part.number: f"{part.number}, {part.name}" for part in catalog.all_parts(session)},
            "site": sites_by_code(session),
        }


def _shown(row: PurchaseRow) -> tuple[str, ...]:
    days = (day_words(day) if day else "–" for day in (row.ordered_on, row.received_on))
    return row.order, row.number or "?", str(row.quantity or "?"), *days
