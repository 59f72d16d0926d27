"""Stock as a test looks at it: what lies where, and who waits."""

from __future__ import annotations

from sqlalchemy import select, text
from sqlalchemy.orm import Session

from almanac.store.models import Backorder, Part, Shelf

PART = "OF-P14"
PACK = "OB-P14-60"
OLD = "QB-D15-90"


def buckets(session: Session, part: str = PART) -> dict[tuple[str, str], int]:
    query = text(
        """SELECT s.code, m.bucket, sum(m.quantity) FROM stock_move m JOIN shelf h ON h.id = m.shelf_id
           JOIN part p ON p.id = h.part_id JOIN site s ON s.id = h.site_id WHERE p.number = :part GROUP BY 1, 2"""
    )
    return {(site, bucket): int(total) for site, bucket, total in session.execute(query, {"part": part}) if total}


def shelf_at(session: Session, site: str, part: str = PART) -> int:
    return buckets(session, part).get((site, "on_hand"), 0)


def waiting(session: Session, part: str = PART) -> list[Backorder]:
    query = select(Backorder).join(Shelf, Shelf.id == Backorder.shelf_id).join(Part, Part.id == Shelf.part_id)
    return list(session.scalars(query.where(Part.number == part, Backorder.filled_on.is_(None)).order_by(Backorder.id)))
