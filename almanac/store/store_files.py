"""The stores as tables to take away: moves, balances, orders and counts, row by row."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from sqlalchemy import text
from sqlalchemy.orm import Session

MOVES = """
SELECT m.moved_on, p.number AS part_number, s.code AS site, m.bucket, m.quantity, m.cause, COALESCE(a.reason, '') AS reason,
       COALESCE(m.lot, '') AS lot, m.made_on, COALESCE(o.number, '') AS order_number, COALESCE(x.tag, '') AS tag,
       COALESCE(u.name, '') AS author,
       m.id AS move, a.id AS act, a.undoes_id AS undoes
FROM stock_move m JOIN shelf h ON h.id = m.shelf_id JOIN part p ON p.id = h.part_id JOIN site s ON s.id = h.site_id
LEFT JOIN stock_act a ON a.id = m.act_id LEFT JOIN "user" u ON u.id = m.author_id
LEFT JOIN receipt r ON r.id = m.receipt_id LEFT JOIN purchase_line l ON l.id = r.line_id LEFT JOIN purchase_order o ON o.id = l.order_id
LEFT JOIN incident i ON i.id = m.incident_id LEFT JOIN asset x ON x.id = i.asset_id
ORDER BY m.id
"""
BALANCES = """
SELECT p.number AS part_number, p.name AS part_name, p.kind, s.code AS site, COALESCE(h.place, '') AS place, b.bucket, b.quantity
FROM shelf_balance b JOIN shelf h ON h.id = b.shelf_id JOIN part p ON p.id = h.part_id JOIN site s ON s.id = h.site_id
WHERE b.quantity <> 0 ORDER BY p.number, s.code, b.bucket
"""
ORDERS = """
SELECT o.number AS order_number, q.name AS supplier, o.placed_on, p.number AS part_number, p.name AS part_name, l.quantity, l.cancelled,
       COALESCE((SELECT sum(r.quantity) FROM receipt r WHERE r.line_id = l.id), 0)::integer AS arrived, l.price, l.expected_on,
       l.confirmed_on, COALESCE(u.name, '') AS asked_by, COALESCE(v.name, '') AS approved_by
FROM purchase_line l JOIN purchase_order o ON o.id = l.order_id JOIN part p ON p.id = l.part_id JOIN supplier q ON q.id = o.supplier_id
LEFT JOIN "user" u ON u.id = o.author_id LEFT JOIN "user" v ON v.id = o.approved_by_id
ORDER BY o.placed_on, o.id, l.id
"""
COUNTS = """
SELECT c.counted_on, p.number AS part_number, s.code AS site, COALESCE(h.place, '') AS place, c.booked, c.counted,
       c.counted - c.booked AS difference, c.state, c.reason, COALESCE(u.name, '') AS counted_by, COALESCE(v.name, '') AS settled_by
FROM stock_count c JOIN shelf h ON h.id = c.shelf_id JOIN part p ON p.id = h.part_id JOIN site s ON s.id = h.site_id
LEFT JOIN "user" u ON u.id = c.author_id LEFT JOIN "user" v ON v.id = c.approved_by_id ORDER BY c.id
"""
TABLES = {"moves": MOVES, "balances": BALANCES, "orders": ORDERS, "counts": COUNTS}


def columns_of(session: Session, name: str) -> list[str]:
    """Columns of one of the tables."""
    return list(session.execute(text(f"SELECT * FROM ({TABLES[name]}) t LIMIT 0")).keys())


def rows_of(session: Session, name: str) -> Iterator[Sequence[object]]:
    """Rows of one of the tables, fetched as they are taken."""
    yield from session.execute(text(TABLES[name]), execution_options={"yield_per": 5000})
