"""What stands where, what is under way, what was done and by whom: plain rows for the stores."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from sqlalchemy import select, text
from sqlalchemy.orm import Session

from almanac.store.models import Backorder, Reservation, Shelf

WAITS = """
SELECT h.part_id, h.site_id, sum(w.quantity)::integer AS quantity
FROM backorder w JOIN shelf h ON h.id = w.shelf_id LEFT JOIN fleet_plan f ON f.id = w.plan_id
WHERE w.filled_on IS NULL AND (f.id IS NULL OR f.planned_on <= :today) GROUP BY 1, 2
"""
TRANSFERS = """
SELECT t.id, p.number AS part_number, p.name AS part_name, f.code AS from_site, g.code AS to_site, t.quantity, t.packed_on, t.left_on,
       t.due_on, t.version
FROM transfer t JOIN part p ON p.id = t.part_id JOIN site f ON f.id = t.from_site_id JOIN site g ON g.id = t.to_site_id
WHERE t.arrived_on IS NULL AND t.cancelled_on IS NULL ORDER BY t.packed_on, t.id
"""
COUNTS = """
SELECT c.id, p.number AS part_number, p.name AS part_name, s.code AS site, c.booked, c.counted, c.reason, c.counted_on, u.name AS author
FROM stock_count c JOIN shelf h ON h.id = c.shelf_id JOIN part p ON p.id = h.part_id JOIN site s ON s.id = h.site_id
LEFT JOIN "user" u ON u.id = c.author_id WHERE c.state = 'waits' ORDER BY c.id
"""
MOVES = """
SELECT m.id, m.moved_on, m.bucket, m.quantity, m.cause, m.lot, a.id AS act_id, a.act, a.reason, u.name AS author, m.incident_id,
       o.number AS order_number, x.tag,
       a.id IS NOT NULL AND a.undoes_id IS NULL AND a.transfer_id IS NULL AND a.job_id IS NULL AND a.act NOT LIKE 'tested%'
         AND NOT EXISTS (SELECT 1 FROM stock_act b WHERE b.undoes_id = a.id) AS can_undo
FROM stock_move m JOIN shelf h ON h.id = m.shelf_id
LEFT JOIN stock_act a ON a.id = m.act_id LEFT JOIN "user" u ON u.id = m.author_id
LEFT JOIN receipt r ON r.id = m.receipt_id LEFT JOIN purchase_line l ON l.id = r.line_id LEFT JOIN purchase_order o ON o.id = l.order_id
LEFT JOIN incident i ON i.id = m.incident_id LEFT JOIN asset x ON x.id = i.asset_id
WHERE h.part_id = :part AND h.site_id = :site ORDER BY m.moved_on DESC, m.id DESC LIMIT :most
"""
PROMISED = """
SELECT r.id, r.quantity, r.reserved_on AS since, a.tag, true AS reserved, f.planned_on
FROM reservation r JOIN shelf h ON h.id = r.shelf_id LEFT JOIN asset a ON a.id = r.asset_id LEFT JOIN fleet_plan f ON f.id = r.plan_id
WHERE h.part_id = :part AND h.site_id = :site AND r.released_on IS NULL
UNION ALL
SELECT w.id, w.quantity, w.asked_on, a.tag, false, f.planned_on
FROM backorder w JOIN shelf h ON h.id = w.shelf_id LEFT JOIN asset a ON a.id = w.asset_id LEFT JOIN fleet_plan f ON f.id = w.plan_id
WHERE h.part_id = :part AND h.site_id = :site AND w.filled_on IS NULL
ORDER BY since, id
"""
SWAPS = """
SELECT f.id, f.planned_on, f.quantity, m.maker || ' ' || m.name AS model,
       (COALESCE((SELECT sum(r.quantity) FROM reservation r WHERE r.plan_id = f.id AND r.released_on IS NULL), 0)
        + COALESCE((SELECT sum(w.quantity) FROM backorder w WHERE w.plan_id = f.id AND w.filled_on IS NULL), 0))::integer AS kept
FROM fleet_plan f JOIN device_model m ON m.id = f.model_id
WHERE f.action = 'swap' AND f.part_id = :part AND f.site_id = :site AND f.withdrawn_at IS NULL AND f.planned_on > :today
ORDER BY f.planned_on, f.id
"""
ISSUED = """
SELECT p.number AS part_number, p.name AS part_name, s.code AS site, sum(q.quantity)::integer AS quantity
FROM (SELECT m.shelf_id, m.quantity FROM stock_move m JOIN stock_act a ON a.id = m.act_id WHERE a.job_id = :job AND m.bucket = 'issued'
      UNION ALL
      SELECT m.shelf_id, m.quantity FROM stock_move m JOIN job j ON j.incident_id = m.incident_id
      WHERE j.id = :job AND m.bucket = 'issued') q
JOIN shelf h ON h.id = q.shelf_id JOIN part p ON p.id = h.part_id JOIN site s ON s.id = h.site_id
GROUP BY 1, 2, 3 HAVING sum(q.quantity) > 0 ORDER BY 1, 3
"""
COUNTED = """
SELECT GREATEST((SELECT max(c.counted_on) FROM stock_count c WHERE c.shelf_id = h.id),
                (SELECT max(m.moved_on) FROM stock_move m WHERE m.shelf_id = h.id AND m.cause = 'counted'))
FROM shelf h WHERE h.part_id = :part AND h.site_id = :site
"""

FROM_SHELF = """
SELECT sum(m.quantity) FROM stock_move m WHERE m.shelf_id = :shelf AND m.bucket = 'quarantine' AND m.act_id IS NOT NULL
"""
PACKED = """
SELECT m.made_on, sum(m.quantity) FROM stock_move m JOIN stock_act a ON a.id = m.act_id
WHERE a.transfer_id = :transfer AND a.act = 'packed' AND m.bucket = 'under_way' GROUP BY m.made_on
"""
TO_COUNT = """
SELECT h.place, p.number AS part_number, p.name AS part_name, COALESCE(b.quantity, 0) AS booked,
       GREATEST((SELECT max(c.counted_on) FROM stock_count c WHERE c.shelf_id = h.id),
                (SELECT max(m.moved_on) FROM stock_move m WHERE m.shelf_id = h.id AND m.cause = 'counted')) AS last_counted,
       (SELECT count(*) FROM stock_move m WHERE m.shelf_id = h.id AND m.bucket = 'on_hand' AND m.moved_on > :since)::integer AS moves
FROM shelf h JOIN part p ON p.id = h.part_id LEFT JOIN shelf_balance b ON b.shelf_id = h.id AND b.bucket = 'on_hand'
WHERE h.site_id = :site AND EXISTS (SELECT 1 FROM stock_move m WHERE m.shelf_id = h.id)
ORDER BY h.place NULLS LAST, p.number
"""


@dataclass(frozen=True)
class ToCount:
    """A shelf of a site that holds or held something. moves : on and off it since a day"""

    place: str | None
    part_number: str
    part_name: str
    booked: int
    last_counted: date | None
    moves: int


@dataclass(frozen=True)
class Under:
    """A transfer that has not arrived."""

    id: int
    part_number: str
    part_name: str
    from_site: str
    to_site: str
    quantity: int
    packed_on: date
    left_on: date | None
    due_on: date | None
    version: int


@dataclass(frozen=True)
class WaitingCount:
    """A count whose difference waits for a lead."""

    id: int
    part_number: str
    part_name: str
    site: str
    booked: int
    counted: int
    reason: str
    counted_on: date
    author: str | None


@dataclass(frozen=True)
class MoveRow:
    """One side of what was done with a shelf."""

    id: int
    moved_on: date
    bucket: str
    quantity: int
    cause: str
    lot: str | None
    act_id: int | None
    act: str | None
    reason: str | None
    author: str | None
    incident_id: int | None
    order_number: str | None
    tag: str | None
    can_undo: bool


@dataclass(frozen=True)
class PromisedRow:
    """Parts kept for a machine, or that one waits for. planned_on : day of the planned swap they are for"""

    id: int
    quantity: int
    since: date
    tag: str | None
    reserved: bool
    planned_on: date | None


@dataclass(frozen=True)
class SwapRow:
    """A planned swap. kept : parts reserved for it or waited for"""

    id: int
    planned_on: date
    quantity: int
    model: str
    kept: int


@dataclass(frozen=True)
class IssuedRow:
    """Parts of a shelf that a job has in its hands."""

    part_number: str
    part_name: str
    site: str
    quantity: int


def waits(session: Session, today: date) -> dict[tuple[int, int], int]:
    """Parts that machines wait for, by (part, site); those for a swap planned for later are waited for by nobody yet."""
    return {(part, site): int(quantity) for part, site, quantity in session.execute(text(WAITS), {"today": today})}


def waiting_at(session: Session, shelf_id: int) -> list[Backorder]:
    """Who waits at a shelf, the first come first; locked until the transaction ends."""
    query = select(Backorder).where(Backorder.shelf_id == shelf_id, Backorder.filled_on.is_(None))
    return list(session.scalars(query.order_by(Backorder.asked_on, Backorder.id).with_for_update()))


def topped_up(session: Session, parts: list[int]) -> dict[tuple[int, int], date]:
    """When the packs of shelves were charged last, by (part, site), where somebody said so."""
    query = select(Shelf.part_id, Shelf.site_id, Shelf.topped_up_on).where(Shelf.part_id.in_(parts), Shelf.topped_up_on.is_not(None))
    return {(part, site): day for part, site, day in session.execute(query) if day is not None}


def promised_to_plan(session: Session, plan_id: int) -> tuple[list[Reservation], list[Backorder]]:
    """What is kept for a plan and what is waited for; locked until the transaction ends."""
    kept = select(Reservation).where(Reservation.plan_id == plan_id, Reservation.released_on.is_(None)).with_for_update()
    waiting = select(Backorder).where(Backorder.plan_id == plan_id, Backorder.filled_on.is_(None)).with_for_update()
    return list(session.scalars(kept)), list(session.scalars(waiting))


def swaps_planned(session: Session, part_id: int, site_id: int, today: date) -> list[SwapRow]:
    """Swaps planned for later that take a part at a site, the first to come first."""
    return [SwapRow(*row) for row in session.execute(text(SWAPS), {"part": part_id, "site": site_id, "today": today})]


def promised_at(session: Session, shelf_id: int, asset_id: int) -> bool:
    """Whether parts of a shelf are kept for a machine."""
    query = select(Reservation.id).where(Reservation.shelf_id == shelf_id, Reservation.asset_id == asset_id)
    return session.scalar(query.where(Reservation.released_on.is_(None)).limit(1)) is not None


def promising(session: Session, asset_id: int) -> list[int]:
    """Shelves where something is kept for a machine, or where it waits."""
    kept = select(Reservation.shelf_id).where(Reservation.asset_id == asset_id, Reservation.released_on.is_(None))
    waiting = select(Backorder.shelf_id).where(Backorder.asset_id == asset_id, Backorder.filled_on.is_(None))
    return sorted(set(session.scalars(kept)) | set(session.scalars(waiting)))


def issued_to(session: Session, job_id: int) -> list[IssuedRow]:
    """Parts in a job's hands, neither fitted nor back."""
    return [IssuedRow(*row) for row in session.execute(text(ISSUED), {"job": job_id})]


def kept_at(session: Session, shelf_id: int) -> list[Reservation]:
    """Who parts of a shelf are kept for, the last come first; locked until the transaction ends."""
    query = select(Reservation).where(Reservation.shelf_id == shelf_id, Reservation.released_on.is_(None))
    return list(session.scalars(query.order_by(Reservation.reserved_on.desc(), Reservation.id.desc()).with_for_update()))


def set_aside_from_shelf(session: Session, shelf_id: int) -> int:
    """Parts in quarantine that came from the shelf itself, less all that left quarantine by an act since."""
    return max(int(session.scalar(text(FROM_SHELF), {"shelf": shelf_id}) or 0), 0)


def ages_packed(session: Session, transfer_id: int) -> list[tuple[date | None, int]]:
    """Days the parts of a transfer were made on, None where nobody knows, and how many of each."""
    return [(made_on, int(quantity)) for made_on, quantity in session.execute(text(PACKED), {"transfer": transfer_id})]


def under_way(session: Session) -> list[Under]:
    """Transfers that have not arrived, the oldest first."""
    return [Under(*row) for row in session.execute(text(TRANSFERS))]


def counts_that_wait(session: Session) -> list[WaitingCount]:
    """Counts whose difference waits for a lead."""
    return [WaitingCount(*row) for row in session.execute(text(COUNTS))]


def to_count(session: Session, site_id: int, since: date) -> list[ToCount]:
    """Shelves of a site in the order of their places."""
    return [ToCount(*row) for row in session.execute(text(TO_COUNT), {"site": site_id, "since": since})]


def moves_of(session: Session, part_id: int, site_id: int, *, most: int = 60) -> list[MoveRow]:
    """What was done with a shelf, the latest first."""
    return [MoveRow(*row) for row in session.execute(text(MOVES), {"part": part_id, "site": site_id, "most": most})]


def promised_of(session: Session, part_id: int, site_id: int) -> list[PromisedRow]:
    """Who parts of a shelf are kept for, and who waits for them."""
    return [PromisedRow(*row) for row in session.execute(text(PROMISED), {"part": part_id, "site": site_id})]


def last_counted(session: Session, part_id: int, site_id: int) -> date | None:
    """The day a shelf was last counted; None where it never was."""
    found: date | None = session.scalar(text(COUNTED), {"part": part_id, "site": site_id})
    return found
