"""One machine: where it stands, what it holds now, and what fits where."""

from __future__ import annotations

from datetime import date
from typing import NamedTuple

from sqlalchemy import func, or_, select, text
from sqlalchemy.orm import Session

from almanac.store.models import Asset, AssetStay, DeviceModel, EventLine, EventRevision, Fits, Part, Position, Site, Tenure, Unit


def asset_by_tag(session: Session, tag: str, *, lock: bool = False) -> Asset | None:
    """The asset with a tag, upper and lower case alike; locked until the transaction ends if asked."""
    query = select(Asset).where(func.upper(Asset.tag) == tag.strip().upper())
    return session.scalar(query.with_for_update() if lock else query)


def model_of(session: Session, asset: Asset) -> DeviceModel:
    """The model of an asset."""
    return session.scalars(select(DeviceModel).where(DeviceModel.id == asset.model_id)).one()


def site_on(session: Session, asset_id: int, day: date) -> Site | None:
    """Where an asset stood on a day."""
    query = (
        select(Site)
        .join(AssetStay, AssetStay.site_id == Site.id)
        .where(AssetStay.asset_id == asset_id, AssetStay.from_on <= day, or_(AssetStay.until_on.is_(None), AssetStay.until_on > day))
    )
    return session.scalar(query)


def positions_of_model(session: Session, model_id: int) -> list[Position]:
    """Positions of a model in page order."""
    return list(session.scalars(select(Position).where(Position.model_id == model_id).order_by(Position.id)))


def open_tenures(session: Session, asset_id: int) -> dict[int, tuple[Tenure, Part, Unit]]:
    """What is in each position now, by position."""
    query = (
        select(Tenure, Part, Unit)
        .join(Part, Part.id == Tenure.part_id)
        .join(Unit, Unit.id == Tenure.unit_id)
        .where(Tenure.asset_id == asset_id, Tenure.removed_on.is_(None))
    )
    return {tenure.position_id: (tenure, part, unit) for tenure, part, unit in session.execute(query)}


def tenure_ending_after(session: Session, asset_id: int, position_id: int, day: date) -> Tenure | None:
    """A tenure of a position that ended after a day: something was already recorded as taken out later."""
    query = select(Tenure).where(Tenure.asset_id == asset_id, Tenure.position_id == position_id, Tenure.removed_on > day).limit(1)
    return session.scalar(query)


def parts_of_supplier(session: Session, supplier_id: int) -> list[int]:
    """Parts that a supplier sells."""
    return list(session.scalars(select(Part.id).where(Part.supplier_id == supplier_id)))


def fits_of(session: Session, position_ids: list[int]) -> dict[int, list[tuple[Fits, Part]]]:
    """Listed and computed verdicts by position, those that fit first."""
    query = (
        select(Fits, Part)
        .join(Part, Part.id == Fits.part_id)
        .where(Fits.position_id.in_(position_ids))
        .order_by(Fits.position_id, (Fits.verdict == "yes").desc(), (Fits.origin == "listed").desc(), Part.number)
    )
    found: dict[int, list[tuple[Fits, Part]]] = {}
    for fits, part in session.execute(query):
        found.setdefault(fits.position_id, []).append((fits, part))
    return found


def part_by_number(session: Session, number: str) -> Part | None:
    """The part with a number, upper and lower case alike."""
    return session.scalar(select(Part).where(func.upper(Part.number) == number.strip().upper()))


def units_removed_by(session: Session, incident_id: int) -> dict[int, int]:
    """Units an incident's first revision took out, by position."""
    query = (
        select(EventLine.position_id, Tenure.unit_id)
        .join(EventRevision, EventRevision.id == EventLine.revision_id)
        .join(Tenure, Tenure.id == EventLine.removed_tenure_id)
        .where(EventRevision.incident_id == incident_id, EventRevision.number == 1, EventLine.action != "kept")
    )
    return {position: unit for position, unit in session.execute(query)}


SOME_MACHINES = """
SELECT tag, model FROM (
  SELECT a.tag, m.maker || ' ' || m.name AS model, row_number() OVER (PARTITION BY a.model_id ORDER BY a.id) AS place, a.id
  FROM asset a JOIN device_model m ON m.id = a.model_id WHERE a.retired_on IS NULL
) spread WHERE place = 3 ORDER BY id LIMIT :most
"""


class MachineName(NamedTuple):
    """A machine's tag and model."""

    tag: str
    model: str


def some_machines(session: Session, most: int) -> list[MachineName]:
    """A few machines in service, of different models."""
    return [MachineName(*row) for row in session.execute(text(SOME_MACHINES), {"most": most})]
