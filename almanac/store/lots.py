"""Lots of parts: with which order one came, and where the units of one are."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date
from typing import NamedTuple

from sqlalchemy import text
from sqlalchemy.orm import Session

BY_SERIAL = """
SELECT m.made_on FROM receipt r JOIN purchase_line l ON l.id = r.line_id JOIN stock_move m ON m.receipt_id = r.id
WHERE l.part_id = :part AND r.quantity > 0 AND r.serials ? :serial AND m.made_on IS NOT NULL
  AND NOT EXISTS (SELECT 1 FROM receipt u WHERE u.undoes_id = r.id)
ORDER BY r.id DESC LIMIT 1
"""
UNITS = """
SELECT a.tag, s.code AS site, s.name AS site_name, p.label AS position, u.serial, u.lot_known_by, t.fitted_on, t.removed_on,
       e.finding, e.incident_id
FROM unit u JOIN tenure t ON t.unit_id = u.id JOIN asset a ON a.id = t.asset_id JOIN position p ON p.id = t.position_id
LEFT JOIN LATERAL (
    SELECT y.site_id FROM asset_stay y WHERE y.asset_id = a.id ORDER BY y.from_on DESC LIMIT 1
) y ON true LEFT JOIN site s ON s.id = y.site_id
LEFT JOIN LATERAL (
    SELECT l.finding, r.incident_id FROM event_line l JOIN event_revision r ON r.id = l.revision_id
    JOIN incident i ON i.id = r.incident_id AND i.latest_number = r.number
    WHERE l.removed_tenure_id = t.id AND l.action <> 'kept' LIMIT 1
) e ON true
WHERE u.part_id = :part AND u.made_on = :made
ORDER BY t.removed_on NULLS LAST, s.code, a.tag LIMIT :most
"""
RECEIPTS = """
SELECT DISTINCT o.number, m.lot, r.received_on FROM stock_move m JOIN receipt r ON r.id = m.receipt_id
JOIN purchase_line l ON l.id = r.line_id JOIN purchase_order o ON o.id = l.order_id JOIN shelf h ON h.id = m.shelf_id
WHERE h.part_id = :part AND m.made_on = :made AND NOT EXISTS (SELECT 1 FROM receipt u WHERE u.undoes_id = r.id)
ORDER BY r.received_on, o.number
"""


class LotUnit(NamedTuple):
    """A unit of a lot in a machine: in service where removed_on is None. lot_known_by : None where it came with its machine or by hand"""

    tag: str
    site: str | None
    site_name: str | None
    position: str
    serial: str | None
    lot_known_by: str | None
    fitted_on: date
    removed_on: date | None
    finding: str | None
    incident_id: int | None


class LotReceipt(NamedTuple):
    """An order with which parts of a lot came."""

    order_number: str
    lot: str | None
    received_on: date


def made_by_serial(session: Session, part_id: int, serial: str) -> date | None:
    """The day a part was made by the receipt its serial arrived with."""
    found: date | None = session.scalar(text(BY_SERIAL), {"part": part_id, "serial": serial.strip()})
    return found


def units_of_lot(session: Session, part_id: int, made_on: date, *, most: int) -> Sequence[LotUnit]:
    """Units of a lot, those that came out first."""
    rows = session.execute(text(UNITS), {"part": part_id, "made": made_on, "most": most})
    return [LotUnit(*row) for row in rows]


def receipts_of_lot(session: Session, part_id: int, made_on: date) -> Sequence[LotReceipt]:
    """Orders with which parts of a lot came."""
    return [LotReceipt(*row) for row in session.execute(text(RECEIPTS), {"part": part_id, "made": made_on})]
