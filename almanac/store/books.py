"""Whether the stores' books add up: what no constraint can hold, looked for in SQL.

That no unit serves in two places and no balance falls below nothing is held by the database itself.
"""

from __future__ import annotations

from typing import NamedTuple

from sqlalchemy import text
from sqlalchemy.orm import Session

WHERE = "JOIN part p ON p.id = h.part_id JOIN site s ON s.id = h.site_id"
CHECKS = {
    "balance": f"""
        SELECT p.number, s.code,
               bucket || ': ' || COALESCE(b.quantity, 0) || ' kept, ' || COALESCE(m.quantity, 0) || ' by its moves' AS words
        FROM shelf_balance b
        FULL JOIN (SELECT shelf_id, bucket, sum(quantity) AS quantity FROM stock_move GROUP BY 1, 2) m USING (shelf_id, bucket)
        JOIN shelf h ON h.id = shelf_id {WHERE} WHERE COALESCE(b.quantity, 0) <> COALESCE(m.quantity, 0)""",
    "under_way": f"""
        SELECT p.number, s.code,
               COALESCE(b.quantity, 0) || ' under way by the books, ' || COALESCE(t.quantity, 0) || ' in open transfers' AS words
        FROM shelf h {WHERE}
        LEFT JOIN shelf_balance b ON b.shelf_id = h.id AND b.bucket = 'under_way'
        LEFT JOIN (SELECT part_id, to_site_id, sum(quantity) AS quantity FROM transfer
                   WHERE arrived_on IS NULL AND cancelled_on IS NULL GROUP BY 1, 2) t ON t.part_id = h.part_id AND t.to_site_id = h.site_id
        WHERE COALESCE(b.quantity, 0) <> COALESCE(t.quantity, 0)""",
    "issued": f"""
        SELECT p.number, s.code,
               COALESCE(b.quantity, 0) || ' in the hands of jobs, ' || COALESCE(o.quantity, 0) || ' of jobs that are open' AS words
        FROM shelf h {WHERE} LEFT JOIN shelf_balance b ON b.shelf_id = h.id AND b.bucket = 'issued'
        LEFT JOIN (SELECT m.shelf_id, sum(m.quantity) AS quantity FROM stock_move m JOIN stock_act a ON a.id = m.act_id
                   JOIN job j ON j.id = a.job_id AND j.state NOT IN ('closed', 'abandoned', 'watching')
                   WHERE m.bucket = 'issued' GROUP BY 1) o ON o.shelf_id = h.id
        WHERE COALESCE(b.quantity, 0) <> COALESCE(o.quantity, 0)""",
    "promised": f"""
        SELECT p.number, s.code, r.quantity || ' kept for somebody, ' || COALESCE(b.quantity, 0) || ' on the shelf' AS words
        FROM (SELECT shelf_id, sum(quantity) AS quantity FROM reservation WHERE released_on IS NULL GROUP BY 1) r
        JOIN shelf h ON h.id = r.shelf_id {WHERE}
        LEFT JOIN shelf_balance b ON b.shelf_id = h.id AND b.bucket = 'on_hand'
        WHERE r.quantity > COALESCE(b.quantity, 0)""",
    "received": """
        SELECT p.number, o.number,
               l.quantity || ' ordered, ' || COALESCE(r.quantity, 0) || ' received, ' || l.cancelled || ' cancelled' AS words
        FROM purchase_line l JOIN purchase_order o ON o.id = l.order_id JOIN part p ON p.id = l.part_id
        LEFT JOIN (SELECT line_id, sum(quantity) AS quantity FROM receipt GROUP BY 1) r ON r.line_id = l.id
        LEFT JOIN (SELECT line_id, sum(quantity) AS quantity FROM cancellation GROUP BY 1) c ON c.line_id = l.id
        WHERE COALESCE(r.quantity, 0) NOT BETWEEN 0 AND l.quantity - l.cancelled OR COALESCE(c.quantity, 0) <> l.cancelled""",
    "on_the_shelf": """
        SELECT p.number, o.number, r.quantity || ' received, ' || COALESCE(m.quantity, 0) || ' put on a shelf' AS words
        FROM receipt r JOIN purchase_line l ON l.id = r.line_id JOIN purchase_order o ON o.id = l.order_id JOIN part p ON p.id = l.part_id
        LEFT JOIN (SELECT receipt_id, sum(quantity) AS quantity FROM stock_move WHERE receipt_id IS NOT NULL GROUP BY 1) m
            ON m.receipt_id = r.id
        WHERE r.quantity <> COALESCE(m.quantity, 0)""",
    "fitted": """
        SELECT p.number, s.code, f.quantity || ' fitted by the log, ' || COALESCE(-m.quantity, 0) || ' taken from the shelf' AS words
        FROM (SELECT l.fitted_part_id AS part_id, l.shelf_site_id AS site_id, count(*) AS quantity
              FROM event_line l JOIN event_revision r ON r.id = l.revision_id AND r.number = 1
              WHERE l.fitted_part_id IS NOT NULL AND l.shelf_site_id IS NOT NULL GROUP BY 1, 2) f
        JOIN part p ON p.id = f.part_id JOIN site s ON s.id = f.site_id
        LEFT JOIN shelf h ON h.part_id = f.part_id AND h.site_id = f.site_id
        LEFT JOIN (SELECT shelf_id, sum(quantity) AS quantity FROM stock_move WHERE cause = 'fitted' GROUP BY 1) m ON m.shelf_id = h.id
        WHERE f.quantity > COALESCE(-m.quantity, 0)""",
}
"""What has to hold, each as a query for what breaks it: (part, place, words)."""
MOST = 200


class Break(NamedTuple):
    """One place where the books do not add up. check : which rule · part, place : where"""

    check: str
    part: str
    place: str
    words: str


def breaks(session: Session, *, checks: dict[str, str] | None = None) -> list[Break]:
    """Everything that does not add up, of each rule the first ones."""
    found = []
    for name, query in (checks or CHECKS).items():
        rows = session.execute(text(f"SELECT * FROM ({query}) q ORDER BY 1, 2 LIMIT :most"), {"most": MOST})
        found += [Break(name, *row) for row in rows]
    return found
