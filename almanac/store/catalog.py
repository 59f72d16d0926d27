"""Parts, models, sites and suppliers as other queries need them: small tables, read whole."""

from __future__ import annotations

from datetime import date

from sqlalchemy import or_, select, text
from sqlalchemy.dialects.postgresql import distinct_on
from sqlalchemy.orm import Session

from almanac.store.models import DeviceModel, Fits, FleetPlan, Interchange, Lane, Part, Position, Site, Supplier


def sites(session: Session) -> list[Site]:
    """All sites, the depot first, then by name."""
    return list(session.scalars(select(Site).order_by(Site.is_depot.desc(), Site.name)))


def lanes_from(session: Session, site_id: int) -> dict[int, int]:
    """Days from one site to each other."""
    return {lane.to_site_id: lane.days for lane in session.scalars(select(Lane).where(Lane.from_site_id == site_id))}


def suppliers(session: Session) -> dict[int, Supplier]:
    return {supplier.id: supplier for supplier in session.scalars(select(Supplier))}


def models(session: Session) -> dict[int, DeviceModel]:
    return {model.id: model for model in session.scalars(select(DeviceModel))}


def interchange(session: Session) -> list[tuple[int, int]]:
    """Directed pairs (part, stands in for)."""
    return [(row.part_id, row.serves_as_id) for row in session.scalars(select(Interchange))]


def fleet_plans(session: Session, *, after: date) -> list[FleetPlan]:
    """Purchases, early retirements and swaps planned for later than a day."""
    return list(session.scalars(select(FleetPlan).where(FleetPlan.planned_on > after).order_by(FleetPlan.planned_on, FleetPlan.id)))


def first_listed_parts(session: Session, model_id: int) -> dict[int, int]:
    """Units of each part a machine of a model is delivered with when none is in service yet: the first part listed."""
    query = (
        select(Position.id, Fits.part_id)
        .join(Fits, Fits.position_id == Position.id)
        .where(Position.model_id == model_id, Fits.verdict == "yes", Fits.origin == "listed")
        .order_by(Position.id, Fits.part_id)
        .ext(distinct_on(Position.id))
    )
    found: dict[int, int] = {}
    for _, part_id in session.execute(query):
        found[part_id] = found.get(part_id, 0) + 1
    return found


def stock_parts(session: Session, kinds: tuple[str, ...]) -> list[Part]:
    """Parts of the given kinds, in catalogue order."""
    return list(session.scalars(select(Part).where(or_(*[Part.kind == kind for kind in kinds])).order_by(Part.kind, Part.id)))


FIND = """
SELECT kind, key, label, detail FROM (
    SELECT 'asset' AS kind, a.tag AS key, a.tag AS label, m.maker || ' ' || m.name AS detail, 1 AS rank, a.serial AS called
    FROM asset a JOIN device_model m ON m.id = a.model_id
    WHERE a.tag ILIKE :like OR a.serial ILIKE :like
    UNION ALL
    SELECT 'part', p.number, p.number, p.name, 0, p.name FROM part p
    WHERE p.number ILIKE :like OR p.name ILIKE :like
    UNION ALL
    SELECT 'model', m.id::text, m.maker || ' ' || m.name, m.family, 2, m.name FROM device_model m
    WHERE m.maker || ' ' || m.name ILIKE :like
) found
ORDER BY lower(:exact) NOT IN (lower(key), lower(label), lower(COALESCE(called, ''))), rank, label
LIMIT 12
"""


def find(session: Session, words: str) -> list[tuple[str, str, str, str]]:
    """What a tag, serial, part number or name could mean: (kind, key, label, detail), exact matches first."""
    escaped = words.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_")
    return [(row[0], row[1], row[2], row[3]) for row in session.execute(text(FIND), {"like": f"%{escaped}%", "exact": words})]
