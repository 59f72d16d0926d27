"""What is on record of parts and shelves, as lists are held against it."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass
from datetime import date

from sqlalchemy import select, text
from sqlalchemy.orm import Session

from almanac.core.life.outcomes import Bucket
from almanac.services.catalog_edit import lead_words
from almanac.store import catalog
from almanac.store.models import Fits, Part, Position, Shelf, StockCount, StockMove, Supplier
from almanac.store.shelves import balances

LeadTime = list[dict[str, float]]

SINCE = """
SELECT m.shelf_id, sum(m.quantity) FROM stock_move m
LEFT JOIN stock_act a ON a.id = m.act_id LEFT JOIN receipt r ON r.id = m.receipt_id
WHERE m.moved_on > :on AND m.bucket = :bucket AND a.undoes_id IS NULL AND r.undoes_id IS NULL
  AND NOT EXISTS (SELECT 1 FROM stock_act u WHERE u.undoes_id = m.act_id)
  AND NOT EXISTS (SELECT 1 FROM receipt u WHERE u.undoes_id = m.receipt_id)
GROUP BY 1
"""
"""What moved after a day; what was undone never did, on whichever day that was."""


@dataclass(frozen=True)
class ShelfOnRecord:
    """A shelf. on_hand : now · moved_since : in and out after the list's day · counted : whether anybody ever booked anything on it"""

    on_hand: int
    moved_since: int
    counted: bool
    waits: bool


@dataclass(frozen=True)
class Record:
    """Parts by upper-case number, suppliers by name, positions by model and kind, shelves by part and site."""

    parts: dict[str, Part]
    suppliers: dict[str, Supplier]
    positions: dict[tuple[int, str], list[int]]
    fits: set[tuple[int, int]]
    shelves: dict[tuple[str, str], ShelfOnRecord]
    currency: str
    median_lead: int | None

    def supplier_of(self, part: Part) -> str:
        """Name of who sells a part."""
        return next(name for name, supplier in self.suppliers.items() if supplier.id == part.supplier_id)

    def lead_of(self, supplier: str) -> str:
        """The lead time a supplier states, as it is typed."""
        return lead_words(self.suppliers[supplier])


def read_record(session: Session, on: date, currency: str) -> Record:
    """Everything a list of parts or shelves is held against."""
    parts = {part.number.upper(): part for part in catalog.all_parts(session)}
    suppliers = {supplier.name: supplier for supplier in session.scalars(select(Supplier))}
    positions: dict[tuple[int, str], list[int]] = defaultdict(list)
    for number, model, kind in session.execute(select(Position.id, Position.model_id, Position.kind)):
        positions[model, kind].append(number)
    fits = {(part, position) for part, position in session.execute(select(Fits.part_id, Fits.position_id))}
    days = sorted(int(entry["days"]) for supplier in suppliers.values() for entry in supplier.lead_time)
    median = days[len(days) // 2] if days else None
    return Record(parts, suppliers, positions, fits, _shelves(session, on), currency, median)


def _shelves(session: Session, on: date) -> dict[tuple[str, str], ShelfOnRecord]:
    held = balances(session, Bucket.ON_HAND)
    sites = {site.id: site.code for site in catalog.sites(session)}
    since: dict[int, int] = defaultdict(int)
    for shelf, quantity in session.execute(text(SINCE), {"on": on, "bucket": Bucket.ON_HAND.value}):
        since[shelf] += int(quantity)
    moved = set(session.scalars(select(StockMove.shelf_id).distinct()))
    states = [(shelf, state) for shelf, state in session.execute(select(StockCount.shelf_id, StockCount.state))]
    counted, waiting = {shelf for shelf, _ in states}, {shelf for shelf, state in states if state == "waits"}
    rows = session.execute(select(Shelf.id, Part.number, Shelf.part_id, Shelf.site_id).join(Part, Part.id == Shelf.part_id)).all()
    return {
        (number.upper(), sites[site]): ShelfOnRecord(
            held.get((part, site), {}).get(Bucket.ON_HAND, 0), since[shelf], shelf in moved or shelf in counted, shelf in waiting
        )
        for shelf, number, part, site in rows
    }
