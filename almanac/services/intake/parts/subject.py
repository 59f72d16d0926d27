"""Parts and shelves as a kind of list."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from decimal import Decimal

from sqlalchemy.orm import Session

from almanac.core.parts.declared.kinds import kind_name
from almanac.services.answers.progress import each
from almanac.services.intake.amounts import said_amount
from almanac.services.intake.changes import Change, Difference, Group, in_order
from almanac.services.intake.columns import plain
from almanac.services.intake.machines.record import names_on_record, sites_by_code
from almanac.services.intake.meanings import Meanings
from almanac.services.intake.parts.counts import shelf_changes
from almanac.services.intake.parts.difference import by_number, leads_of, part_changes, supplier_changes, supplier_named
from almanac.services.intake.parts.fields import FIELDS
from almanac.services.intake.parts.record import Record, read_record
from almanac.services.intake.parts.rows import MOST_PAID, Names, PartRow, part_row
from almanac.services.intake.parts.write import undo_parts, write_parts
from almanac.services.intake.settled import NEW, NOT_FOR_US, Asks, Question, Settled
from almanac.services.intake.subject import READING, SHOWN, By, Found, Kept, ListDay, Subject
from almanac.services.intake.table import Table
from almanac.store import catalog
from almanac.store import intake as store
from almanac.store.models import Intake
from almanac.store.settings import settings_on

DESCRIBES = ("name", "price", "kind")
"""Columns of a list that says what its parts are, and not only how many lie somewhere."""


class Parts(Subject):
    """The company's list of its parts, or of what lies on its shelves, or both."""

    kind, title, one, many = "parts", "list of parts or shelves", "part", "parts"
    usual = "Storeroom"
    fields = FIELDS

    def known(self, session: Session) -> Mapping[str, set[str]]:
        """Part numbers, suppliers, sites and models."""
        machines = names_on_record(session).known()
        return {
            "number": {plain(part.number) for part in catalog.all_parts(session)},
            "supplier": {plain(supplier.name) for supplier in store.suppliers(session)},
            "site": machines["site"],
            "fits": machines["model"],
        }

    def look(self, session: Session, table: Table, settled: Settled, when: ListDay) -> Found:
        """New and changed parts, suppliers and counts."""
        currency = str(settings_on(session, when.on).value("currency", default="EUR"))
        record = read_record(session, when.on, currency)
        names = _Read(session, table, settled, record)
        lines = table.lines()
        rows = [row for line in each(lines, READING) if (row := part_row(line, names.names)) and NOT_FOR_US not in (row.number, row.site)]
        rows = [names.priced(row) for row in rows]
        one_each, faults = by_number(rows)
        open_new = names.open_new(one_each)
        leads = leads_of(one_each, names.said_days())
        changes = [
            *faults,
            *supplier_changes(one_each, record, leads),
            *(part_changes(one_each, record, leads, add=names.add) if names.describes else []),
        ]
        coming = {change.subject.upper() for change in changes if change.group is Group.NEW and "price" in change.values}
        counts, open_gone = shelf_changes(rows, record, coming, when) if "on_hand" in table.columns else ([], 0)
        return Found(
            rows=rows,
            questions=[*names.questions(one_each, leads), *open_new],
            taken=names.taken(),
            not_ours=len(lines) - len(rows),
            difference=Difference(in_order([*changes, *counts]), open_gone),
            shown_fields=("number", "name", "kind", "supplier", "price", "site", "on_hand"),
            shown=[(row.line, _shown(row)) for row in rows[:SHOWN]],
        )

    def write(self, session: Session, changes: Sequence[Change], by: By) -> list[Kept]:
        """Suppliers, parts, counts."""
        return write_parts(session, changes, by)

    def undo(self, session: Session, row: Intake, by: By) -> list[str]:
        """Parts as they were, shelves counted back."""
        return undo_parts(session, row.changes, by)

    def choices(self, session: Session) -> Mapping[str, Mapping[str, str]]:
        """Parts, suppliers, sites and models."""
        models = {str(number): f"{maker} {model}" for number, (maker, model) in store.models_by_id(session).items()}
        return {
            "number": {part.number: f"{part.number}, {part.name}" for part in catalog.all_parts(session)},
            "supplier": {supplier.name: supplier.name for supplier in store.suppliers(session)},
            "site": sites_by_code(session),
            "fits": models,
        }


def _shown(row: PartRow) -> tuple[str, ...]:
    kind = kind_name(row.kind.value) if row.kind else "?"
    price = f"{row.price:.2f}" if row.price is not None else "?"
    held = "?" if row.on_hand is None else str(row.on_hand)
    return row.number, row.name or "", kind, supplier_named(row) or "?", price, row.site or "?", held


class _Read:
    """Meanings of the names of one list, and what is asked of them."""

    def __init__(self, session: Session, table: Table, settled: Settled, record: Record) -> None:
        names = names_on_record(session)
        self.table, self.settled, self.record = table, settled, record
        self.describes = any(name in table.columns for name in DESCRIBES)
        self.number = Meanings("number", {plain(part.number): part.number for part in record.parts.values()}, settled)
        self.supplier = Meanings("supplier", {plain(name): name for name in record.suppliers}, settled, may_be_new=True)
        self.model = Meanings("fits", names.model_meanings(), settled)
        self.site = Meanings("site", names.site_meanings(), settled)
        self.lone_site = next(iter(names.sites)) if len(names.sites) == 1 else None
        self.names = Names(self._number, self._supplier, self.model, self._site, record.currency)
        said = settled.names.get("new", {}).get("")
        self.add = True if not record.parts else None if said is None else said == NEW

    def _number(self, line: int, text: str) -> str:
        """A list that describes its parts may bring new ones; one that only counts them speaks of those on record."""
        if self.describes:
            said = self.settled.names.get("number", {}).get(plain(text))
            return said or self.number.known.get(plain(text), text)
        return self.number.of(line, text) or text

    def _supplier(self, line: int, text: str) -> str | None:
        if not self.describes:
            return None
        return self.supplier.of(line, text) if text else self.settled.names.get("supplier", {}).get("")

    def _site(self, line: int, text: str) -> str | None:
        if not text and "site" not in self.table.columns and self.lone_site is not None:
            return self.lone_site
        return self.site.of(line, text)

    def open_new(self, rows: Sequence[PartRow]) -> list[Question]:
        """Whether parts that are not on record are ours: asked once."""
        new = [row for row in rows if row.number.upper() not in self.record.parts and row.price is not None]
        if self.add is not None or not new or not self.describes:
            return []
        lines = tuple(row.line for row in new[:3])
        return [Question("new", "", len(new), lines, None, may_be_new=True, about="parts that are not on record: are they ours?")]

    def priced(self, row: PartRow) -> PartRow:
        """A row of a part that is not on record with the price that a person said, where the list says none."""
        said = self.settled.names.get("price", {}).get(plain(row.number))
        if row.price is not None or row.wrong or said is None or row.number.upper() in self.record.parts:
            return row
        price = said_amount(said)
        return replace(row, price=price.quantize(Decimal("0.01"))) if price is not None and price < MOST_PAID else row

    def _prices(self, rows: Sequence[PartRow]) -> list[Question]:
        """What new parts cost that the list says no price of; those nobody knows are left out."""
        unpriced = [row for row in rows if row.price is None and not row.wrong and row.number.upper() not in self.record.parts]
        about = "what one costs that the list says no price of:"
        return [
            Question("price", row.number, 1, (row.line,), None, Asks.AMOUNT, optional=True, about=about, key=plain(row.number))
            for row in unpriced
        ]

    def said_days(self) -> dict[str, int]:
        """Days that a person stated for suppliers the list says none of."""
        said = self.settled.names.get("lead_time", {})
        own = [name for name in (*self.record.suppliers, *self._new_names()) if plain(name) in said]
        return {name: int(said[plain(name)]) for name in own if said[plain(name)].isdigit()}

    def _new_names(self) -> list[str]:
        return [text for text, _, meaning, _ in self.supplier.met.values() if meaning == NEW]

    def questions(self, rows: Sequence[PartRow], leads: Mapping[str, object]) -> list[Question]:
        """Names nobody explained, and days of suppliers that nobody stated."""
        found = [*self.number.questions(), *self.model.questions(), *self.site.questions()]
        if not self.add:
            return found
        new = [row for row in rows if row.number.upper() not in self.record.parts and row.price is not None]
        asked: dict[str, list[int]] = {}
        for row in new:
            supplier = supplier_named(row)
            if supplier is not None and supplier not in self.record.suppliers and supplier not in leads:
                asked.setdefault(supplier, []).append(row.line)
        proposal = str(self.record.median_lead) if self.record.median_lead else None
        days = [
            Question("lead_time", name, len(own), tuple(own[:3]), proposal, Asks.DAYS, about="days until an order comes from")
            for name, own in asked.items()
        ]
        return [*found, *self._sellers(new), *days, *self._prices(rows)]

    def _sellers(self, new: Sequence[PartRow]) -> list[Question]:
        """Who sells new parts: asked by name, and once for all that name nobody."""
        nobody = [row for row in new if row.supplier is None and not row.supplier_name]
        about = "who sells the parts that name nobody"
        silent = [Question("supplier", "", len(nobody), tuple(row.line for row in nobody[:3]), None, may_be_new=True, about=about)]
        return [*self.supplier.questions(), *(silent if nobody else [])]

    def taken(self) -> list[tuple[str, str, str]]:
        """Names taken for another without a question."""
        return [one for own in (self.number, self.supplier, self.model, self.site) for one in own.taken()]
