"""Parts, models, sites and suppliers as other queries need them: small tables, read whole."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, datetime
from typing import NamedTuple

from sqlalchemy import func, or_, select, text
from sqlalchemy.dialects.postgresql import distinct_on
from sqlalchemy.orm import Session

from almanac.core.stock.timetable import Timetable
from almanac.store.models import DeviceModel, Fits, FleetPlan, Interchange, Lane, Part, Position, Site, Supplier, User


def sites(session: Session) -> list[Site]:
    """All sites, the depot first, then by name."""
    return list(session.scalars(select(Site).order_by(Site.is_depot.desc(), Site.name)))


def lanes_from(session: Session, site_id: int) -> dict[int, int]:
    """Days from one site to each other."""
    return {lane.to_site_id: lane.days for lane in session.scalars(select(Lane).where(Lane.from_site_id == site_id))}


def timetables_from(session: Session, site_id: int) -> dict[int, Timetable]:
    """When lanes leave one site for each other."""
    rows = session.scalars(select(Lane).where(Lane.from_site_id == site_id))
    return {lane.to_site_id: Timetable(lane.days, lane.every_days, tuple(lane.weekdays), lane.carrier) for lane in rows}


def suppliers(session: Session) -> dict[int, Supplier]:
    return {supplier.id: supplier for supplier in session.scalars(select(Supplier))}


def models(session: Session) -> dict[int, DeviceModel]:
    return {model.id: model for model in session.scalars(select(DeviceModel))}


def interchange(session: Session) -> list[tuple[int, int]]:
    """Directed pairs (part, stands in for)."""
    return [(row.part_id, row.serves_as_id) for row in session.scalars(select(Interchange))]


def fleet_plans(session: Session, *, after: date, known_at: datetime | None = None) -> list[FleetPlan]:
    """Purchases, early retirements and swaps planned for later than a day, as the plan stands now or stood at a moment."""
    query = select(FleetPlan).where(FleetPlan.planned_on > after).order_by(FleetPlan.planned_on, FleetPlan.id)
    if known_at is None:
        return list(session.scalars(query.where(FleetPlan.withdrawn_at.is_(None))))
    held = or_(FleetPlan.withdrawn_at.is_(None), FleetPlan.withdrawn_at > known_at)
    return list(session.scalars(query.where(FleetPlan.recorded_at <= known_at, held)))


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


class PlanRow(NamedTuple):
    """Something planned for the fleet, in names."""

    id: int
    action: str
    model: str
    site: str
    duty: str
    planned_on: date
    quantity: int
    position: str | None
    part_number: str | None
    note: str
    recorded_at: datetime | None
    author: str | None


def plan_rows(session: Session, *, after: date) -> list[PlanRow]:
    """What is planned for later than a day and was not withdrawn, the next first."""
    query = (
        select(
            FleetPlan.id,
            FleetPlan.action,
            DeviceModel.name,
            Site.name,
            FleetPlan.duty,
            FleetPlan.planned_on,
            FleetPlan.quantity,
            Position.label,
            Part.number,
            FleetPlan.note,
            FleetPlan.recorded_at,
            User.name,
        )
        .join(DeviceModel, DeviceModel.id == FleetPlan.model_id)
        .join(Site, Site.id == FleetPlan.site_id)
        .outerjoin(Position, Position.id == FleetPlan.position_id)
        .outerjoin(Part, Part.id == FleetPlan.part_id)
        .outerjoin(User, User.id == FleetPlan.author_id)
        .where(FleetPlan.planned_on > after, FleetPlan.withdrawn_at.is_(None))
        .order_by(FleetPlan.planned_on, FleetPlan.id)
    )
    return [PlanRow._make(row) for row in session.execute(query)]


def positions_of(session: Session, model_id: int) -> dict[str, int]:
    """Positions of a model by key."""
    return {key: number for key, number in session.execute(select(Position.key, Position.id).where(Position.model_id == model_id))}


def parts_that_fit(session: Session, position_id: int) -> dict[str, int]:
    """Parts that fit a position, by number."""
    query = select(Part.number, Part.id).join(Fits, Fits.part_id == Part.id).where(Fits.position_id == position_id, Fits.verdict == "yes")
    return {number: part_id for number, part_id in session.execute(query)}


def all_parts(session: Session) -> list[Part]:
    """Every part that can be ordered, of whatever kind, by kind and number."""
    return list(session.scalars(select(Part).order_by(Part.kind, Part.id)))


def known_numbers(session: Session, texts: Sequence[str]) -> set[str]:
    """Those of some strings that are part numbers, in small letters."""
    wanted = [text.strip().lower() for text in texts]
    return {number.lower() for number in session.scalars(select(Part.number).where(func.lower(Part.number).in_(wanted)))}


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


def find_orders(session: Session, words: str) -> list[tuple[str, str]]:
    """Orders whose number holds some words, the latest first, each with its supplier."""
    escaped = words.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_")
    query = """SELECT o.number, s.name FROM purchase_order o JOIN supplier s ON s.id = o.supplier_id
               WHERE o.number ILIKE :like ORDER BY o.id DESC LIMIT 6"""
    return [(row[0], row[1]) for row in session.execute(text(query), {"like": f"%{escaped}%"})]
