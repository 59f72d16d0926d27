"""What lists are held against, and what was applied of them."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from datetime import date, datetime
from typing import Any

from sqlalchemy import delete, func, select, text
from sqlalchemy.orm import Session

from almanac.store.bulk import among
from almanac.store.models import (
    Asset,
    AssetStay,
    DeviceModel,
    Fits,
    Intake,
    ListSource,
    Part,
    PriceBreak,
    Shelf,
    StockAct,
    StockCount,
    StockMove,
    Supplier,
    Tenure,
    Unit,
    User,
)

MACHINES = """
SELECT a.id, a.tag, a.serial, a.model_id, s.code AS site, a.duty, a.in_service_on, a.retire_planned_on, a.retired_on,
       y.from_on AS stay_from, EXISTS (SELECT 1 FROM job j WHERE j.asset_id = a.id AND j.ended_at IS NULL) AS busy
FROM asset a
JOIN LATERAL (SELECT site_id, from_on FROM asset_stay WHERE asset_id = a.id ORDER BY from_on DESC LIMIT 1) y ON true
JOIN site s ON s.id = y.site_id
ORDER BY a.tag
"""
SOLE = """
WITH sole AS (
  SELECT p.model_id, p.id AS position_id, min(f.part_id) AS part_id
  FROM position p JOIN fits f ON f.position_id = p.id AND f.verdict = 'yes' JOIN part q ON q.id = f.part_id
  WHERE p.kind = ANY(:kinds) AND q.kind = p.kind
  GROUP BY p.model_id, p.id HAVING count(*) = 1
), seen AS (
  SELECT t.model_id, count(DISTINCT t.asset_id) AS machines FROM tenure t JOIN asset a ON a.id = t.asset_id
  WHERE t.removed_on IS NULL AND a.retired_on IS NULL GROUP BY t.model_id
), filled AS (
  SELECT t.position_id, count(DISTINCT t.asset_id) AS machines FROM tenure t JOIN asset a ON a.id = t.asset_id
  WHERE t.removed_on IS NULL AND a.retired_on IS NULL GROUP BY t.position_id
)
SELECT s.model_id, s.position_id, s.part_id FROM sole s
LEFT JOIN seen e ON e.model_id = s.model_id LEFT JOIN filled l ON l.position_id = s.position_id
WHERE e.machines IS NULL OR COALESCE(l.machines, 0) = e.machines
ORDER BY s.model_id, s.position_id
"""
"""Positions that take one part alone, and that no machine of the model on record has empty."""
USED = """
SELECT DISTINCT a.tag FROM asset a WHERE a.id = ANY(:assets) AND (
  EXISTS (SELECT 1 FROM incident i JOIN event_revision r ON r.incident_id = i.id WHERE i.asset_id = a.id AND r.recorded_at > :since)
  OR EXISTS (SELECT 1 FROM tenure t WHERE t.asset_id = a.id AND (t.recorded_at > :since OR t.removal_recorded_at > :since))
  OR EXISTS (SELECT 1 FROM job j WHERE j.asset_id = a.id AND j.opened_at > :since))
ORDER BY a.tag
"""


def source_named(session: Session, kind: str, name: str) -> ListSource | None:
    """A source of a kind of lists by its name, small and capital letters alike."""
    query = select(ListSource).where(ListSource.kind == kind, func.lower(ListSource.name) == name.strip().lower())
    return session.scalar(query)


def last_source(session: Session, kind: str) -> ListSource | None:
    """The source of the list of a kind that was applied last."""
    query = select(ListSource).join(Intake, Intake.source_id == ListSource.id).where(ListSource.kind == kind)
    return session.scalar(query.order_by(Intake.id.desc()).limit(1))


def sources(session: Session) -> list[ListSource]:
    """All sources by name."""
    return list(session.scalars(select(ListSource).order_by(ListSource.name)))


def intakes(session: Session, limit: int) -> list[tuple[Intake, ListSource, str | None]]:
    """Lists that were applied, the latest first, with their source and who applied them."""
    query = select(Intake, ListSource, User.name).join(ListSource, ListSource.id == Intake.source_id)
    query = query.outerjoin(User, User.id == Intake.author_id).order_by(Intake.id.desc()).limit(limit)
    return [(row, source, author) for row, source, author in session.execute(query)]


def models_by_id(session: Session) -> dict[int, tuple[str, str]]:
    """Maker and name of models."""
    return {number: (maker, name) for number, maker, name in session.execute(select(DeviceModel.id, DeviceModel.maker, DeviceModel.name))}


def tags(session: Session) -> frozenset[str]:
    """All asset tags."""
    return frozenset(session.scalars(select(Asset.tag)))


def machines(session: Session) -> Sequence[Any]:
    """All machines with where they stand or stood last."""
    return session.execute(text(MACHINES)).all()


def sole_parts(session: Session, kinds: Sequence[str]) -> Sequence[Any]:
    """(model, position, part) of positions of some kinds that take one part alone, and are filled wherever anybody looked."""
    return session.execute(text(SOLE), {"kinds": list(kinds)}).all()


PARTS_USED = """
SELECT p.id FROM part p WHERE p.id = ANY(:parts) AND (
  EXISTS (SELECT 1 FROM tenure t WHERE t.part_id = p.id) OR EXISTS (SELECT 1 FROM unit u WHERE u.part_id = p.id)
  OR EXISTS (SELECT 1 FROM purchase_line l WHERE l.part_id = p.id)
  OR EXISTS (SELECT 1 FROM event_line e WHERE p.id IN (e.removed_part_id, e.fitted_part_id))
  OR EXISTS (SELECT 1 FROM shelf s JOIN reservation r ON r.shelf_id = s.id WHERE s.part_id = p.id)
  OR EXISTS (SELECT 1 FROM shelf s JOIN backorder b ON b.shelf_id = s.id WHERE s.part_id = p.id)
  OR EXISTS (SELECT 1 FROM shelf s JOIN shelf_balance h ON h.shelf_id = s.id WHERE s.part_id = p.id AND h.quantity <> 0))
"""


SITES_USED = """
SELECT s.code FROM site s WHERE s.id = ANY(:sites) AND (
  EXISTS (SELECT 1 FROM asset_stay y WHERE y.site_id = s.id) OR EXISTS (SELECT 1 FROM shelf h WHERE h.site_id = s.id)
  OR EXISTS (SELECT 1 FROM incident i WHERE i.site_id = s.id) OR EXISTS (SELECT 1 FROM purchase_order o WHERE o.site_id = s.id)
  OR EXISTS (SELECT 1 FROM lane l WHERE s.id IN (l.from_site_id, l.to_site_id)))
ORDER BY s.code
"""


def sites_used(session: Session, ids: Sequence[int]) -> list[str]:
    """Codes of some sites at which something is on record."""
    return list(session.scalars(text(SITES_USED), {"sites": list(ids)}))


def parts_used(session: Session, ids: Sequence[int]) -> set[int]:
    """Parts of some that were fitted, ordered or promised, or lie somewhere."""
    return set(session.scalars(text(PARTS_USED), {"parts": list(ids)}))


def parts_with_moves(session: Session, ids: Sequence[int]) -> set[int]:
    """Parts of some that were ever booked on a shelf, or counted there."""
    moved = select(Shelf.part_id).join(StockMove, StockMove.shelf_id == Shelf.id).where(among(Shelf.part_id, ids))
    counted = select(Shelf.part_id).join(StockCount, StockCount.shelf_id == Shelf.id).where(among(Shelf.part_id, ids))
    return set(session.scalars(moved.union(counted)))


def forget_parts(session: Session, ids: Sequence[int]) -> None:
    """Take parts off the record that a list put on it by mistake."""
    for table in (Fits, PriceBreak, Shelf):
        session.execute(delete(table).where(among(table.part_id, ids)))
    session.execute(delete(Part).where(among(Part.id, ids)))


def act_of_count(session: Session, count_id: int) -> int | None:
    """The act that booked a count's difference; None where there was none."""
    return session.scalar(select(StockAct.id).where(StockAct.count_id == count_id))


def suppliers(session: Session) -> list[Supplier]:
    """All suppliers by name."""
    return list(session.scalars(select(Supplier).order_by(Supplier.name)))


def places_told(session: Session) -> dict[int, frozenset[int]]:
    """Positions by machine of which anything was ever on record."""
    rows = session.execute(text("SELECT asset_id, array_agg(DISTINCT position_id) FROM tenure GROUP BY asset_id"))
    return {asset: frozenset(places) for asset, places in rows}


def assets_locked(session: Session, ids: Collection[int]) -> dict[int, Asset]:
    """Machines, locked until the transaction ends."""
    query = select(Asset).where(among(Asset.id, set(ids))).order_by(Asset.id).with_for_update()
    return {asset.id: asset for asset in session.scalars(query)}


def open_stays(session: Session, ids: Collection[int]) -> dict[int, AssetStay]:
    """Where machines stand, by machine."""
    query = select(AssetStay).where(among(AssetStay.asset_id, ids), AssetStay.until_on.is_(None))
    return {stay.asset_id: stay for stay in session.scalars(query)}


def later_standing(session: Session, row: Intake) -> bool:
    """Whether a later list of the same source was applied and not undone."""
    query = select(Intake.id).where(Intake.source_id == row.source_id, Intake.id > row.id, Intake.undone_at.is_(None))
    return session.scalar(query.limit(1)) is not None


def last_standing_day(session: Session, source_id: int) -> date | None:
    """Day of the latest list of a source that stands."""
    return session.scalar(select(func.max(Intake.list_on)).where(Intake.source_id == source_id, Intake.undone_at.is_(None)))


def used_since(session: Session, assets: Sequence[int], since: datetime) -> list[str]:
    """Tags of some machines of which something was recorded after a moment."""
    return list(session.scalars(text(USED), {"assets": list(assets), "since": since}))


def incidents_revised(session: Session, ids: Sequence[int]) -> bool:
    """Whether any of some incidents has a later revision."""
    query = text("SELECT EXISTS (SELECT 1 FROM event_revision WHERE incident_id = ANY(:ids) AND number > 1)")
    return bool(session.scalar(query, {"ids": list(ids)}))


def forget_incidents(session: Session, ids: Sequence[int]) -> None:
    """Take incidents off the record that a list put on it by mistake; the list's own row keeps that it did."""
    session.execute(text("SET LOCAL almanac.taken_back = 'list'"))
    bound = {"ids": list(ids)}
    lines = "DELETE FROM event_line WHERE revision_id IN (SELECT id FROM event_revision WHERE incident_id = ANY(:ids))"
    for statement in (lines, "DELETE FROM event_revision WHERE incident_id = ANY(:ids)", "DELETE FROM incident WHERE id = ANY(:ids)"):
        session.execute(text(statement), bound)
    session.execute(text("SET LOCAL almanac.taken_back = ''"))


def forget_tenures(session: Session, ids: Sequence[int], units: Sequence[int]) -> None:
    """Take lives of parts off the record that a list put on it, with units that have no other."""
    session.execute(delete(Tenure).where(among(Tenure.id, ids)))
    session.execute(delete(Unit).where(among(Unit.id, units)))


def forget_assets(session: Session, ids: Sequence[int], units: Sequence[int]) -> None:
    """Take machines off the record that a list put on it by mistake, and the parts they were taken to be delivered with."""
    if units:
        session.execute(delete(Tenure).where(among(Tenure.unit_id, units)))
        session.execute(delete(Unit).where(among(Unit.id, units)))
    if ids:
        session.execute(delete(AssetStay).where(among(AssetStay.asset_id, ids)))
        session.execute(delete(Asset).where(among(Asset.id, ids)))
