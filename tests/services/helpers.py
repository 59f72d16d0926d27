"""What service tests say again and again: a machine to break, a part that fits, and the count of every unit."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta

from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.core.triage.confirm import Evidence
from almanac.services.ledger.record import IncidentRequest, LineRequest

TODAY = date(2026, 11, 1)
WATCHED = TODAY - timedelta(days=14)
PROVEN = Evidence(cold_starts=5, fails_elsewhere=True)


@dataclass(frozen=True)
class Bench:
    """A machine with a part in a position, and a shelf that holds the same part."""

    tag: str
    position_id: int
    part: str
    site: str


def bench(session: Session, kind: str = "battery", *, stocked: bool = True) -> Bench:
    row = session.execute(
        text("""
        SELECT a.tag, t.position_id, p.number, s.code
        FROM tenure t JOIN asset a ON a.id = t.asset_id JOIN part p ON p.id = t.part_id
        JOIN site s ON true JOIN shelf h ON h.part_id = p.id AND h.site_id = s.id
        WHERE t.removed_on IS NULL AND a.retired_on IS NULL AND p.kind = :kind AND t.fitted_on < '2026-08-01'
          AND (COALESCE((SELECT sum(quantity) FROM stock_move m WHERE m.shelf_id = h.id AND bucket = 'on_hand'), 0) > 0) = :stocked
        ORDER BY a.id LIMIT 1"""),
        {"kind": kind, "stocked": stocked},
    ).one()
    return Bench(*row)


def incident(where: Bench, *, action: str = "replaced", **changes: object) -> IncidentRequest:
    replaced = action == "replaced"
    line = LineRequest(where.position_id, action, where.part if replaced else None, where.site if replaced else None)
    values: dict[str, object] = {
        "tag": where.tag,
        "occurred_on": TODAY,
        "reason": "will not start",
        "finding": "open",
        "lines": [line],
        "evidence": PROVEN,
    }
    return IncidentRequest(**(values | changes))  # type: ignore[arg-type]


def units(session: Session) -> int:
    """Every physical part: fitted now, and in every bucket of every shelf."""
    fitted = session.scalar(text("SELECT count(*) FROM tenure WHERE removed_on IS NULL")) or 0
    shelved = session.scalar(text("SELECT COALESCE(sum(quantity), 0) FROM stock_move")) or 0
    return int(fitted) + int(shelved)


def in_bucket(session: Session, part: str, bucket: str, *, site: str | None = None) -> int:
    query = text(
        """SELECT COALESCE(sum(m.quantity), 0) FROM stock_move m JOIN shelf h ON h.id = m.shelf_id JOIN part p ON p.id = h.part_id
           JOIN site s ON s.id = h.site_id
           WHERE p.number = :part AND m.bucket = :bucket AND (CAST(:site AS text) IS NULL OR s.code = :site)"""
    )
    return int(session.scalar(query, {"part": part, "bucket": bucket, "site": site}) or 0)


def watch_days(session: Session, days: int) -> None:
    """What the company asks a cure to hold for."""
    session.execute(
        text("""INSERT INTO setting (scope, scope_key, key, number, value, from_on, recorded_at)
                VALUES ('company', '', 'watch_days', 1, to_jsonb(CAST(:days AS integer)), '2026-01-01', now())"""),
        {"days": days},
    )


def site_of(session: Session, tag: str) -> str:
    """Code of the site where a machine stands."""
    query = "SELECT s.code FROM asset a JOIN asset_stay y ON y.asset_id = a.id AND y.until_on IS NULL JOIN site s ON s.id = y.site_id"
    return str(session.execute(text(f"{query} WHERE a.tag = :tag"), {"tag": tag}).scalar_one())
