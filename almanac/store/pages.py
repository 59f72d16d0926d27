"""Model pages as rows: revisions, positions, fits, and what the fleet and the log say of them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Any, NamedTuple

from sqlalchemy import delete, func, select, text
from sqlalchemy.dialects.postgresql import distinct_on
from sqlalchemy.orm import Session

from almanac.store.models import Asset, DeviceModel, Fits, ModelRevision, Part, Position, Tenure, User


@dataclass(frozen=True)
class PageHead:
    """A model and the page of it that holds, without the page: `page_key` names its content, `inherits` the sibling it states."""

    model_id: int
    maker: str
    name: str
    family: str
    form: str
    revision_id: int
    number: int
    draft: bool
    page_key: str
    inherits: str | None

    @property
    def full_name(self) -> str:
        return f"{self.maker} {self.name}"


def heads(session: Session, *, model_ids: Sequence[int] | None = None, name: str | None = None) -> list[PageHead]:
    """Heads of the pages that hold: the newest revision that is no draft, or the draft where there is no other.

    model_ids : of these models only · name : of the model with this maker and name, in small letters
    """
    model, page = DeviceModel, ModelRevision
    columns = (model.id, model.maker, model.name, model.family, model.form, page.id, page.number, page.draft, page.page_key)
    query = (
        select(*columns, page.page["inherits"].astext)
        .join(page, page.model_id == model.id)
        .order_by(model.id, page.draft, page.number.desc())
        .ext(distinct_on(model.id))
    )
    if model_ids is not None:
        query = query.where(model.id.in_(model_ids))
    if name is not None:
        query = query.where(func.lower(model.maker + " " + model.name) == name)
    return [PageHead(*row) for row in session.execute(query)]


def documents(session: Session, revision_ids: Sequence[int]) -> dict[int, Mapping[str, Any]]:
    """Pages as written, by revision."""
    if not revision_ids:
        return {}
    query = select(ModelRevision.id, ModelRevision.page).where(ModelRevision.id.in_(revision_ids))
    return {identifier: page for identifier, page in session.execute(query)}


def listed_for(session: Session) -> dict[int, list[int]]:
    """Models that list each part as fitting, by part."""
    query = (
        select(Fits.part_id, Position.model_id)
        .join(Position, Position.id == Fits.position_id)
        .where(Fits.verdict == "yes", Fits.origin == "listed")
        .group_by(Fits.part_id, Position.model_id)
        .order_by(Fits.part_id, func.min(Position.id))
    )
    found: dict[int, list[int]] = {}
    for part_id, model_id in session.execute(query):
        found.setdefault(part_id, []).append(model_id)
    return found


def draft_of(session: Session, model_id: int) -> ModelRevision | None:
    """The draft in hand: the latest revision where it is one. Older drafts are history."""
    query = select(ModelRevision).where(ModelRevision.model_id == model_id).order_by(ModelRevision.number.desc()).limit(1)
    latest = session.scalar(query)
    return latest if latest and latest.draft else None


def last_number(session: Session, model_id: int) -> int:
    """The highest revision number given out, drafts included; the model's row is locked until the end."""
    session.execute(select(DeviceModel.id).where(DeviceModel.id == model_id).with_for_update())
    return session.scalar(select(func.max(ModelRevision.number)).where(ModelRevision.model_id == model_id)) or 0


def latest_revision_id(session: Session) -> int:
    """What moves on whenever any page is written."""
    return session.scalar(select(func.max(ModelRevision.id))) or 0


def revision(session: Session, model_id: int, number: int) -> ModelRevision | None:
    return session.scalar(select(ModelRevision).where(ModelRevision.model_id == model_id, ModelRevision.number == number))


class HistoryRow(NamedTuple):
    """One revision without its page."""

    number: int
    draft: bool
    reason: str
    author: str | None
    recorded_at: object


def history(session: Session, model_id: int) -> list[HistoryRow]:
    """Who changed the page, when and why, latest first."""
    query = (
        select(ModelRevision.number, ModelRevision.draft, ModelRevision.reason, User.name, ModelRevision.recorded_at)
        .outerjoin(User, User.id == ModelRevision.author_id)
        .where(ModelRevision.model_id == model_id)
        .order_by(ModelRevision.number.desc())
    )
    return [HistoryRow(*row) for row in session.execute(query)]


def model_named(session: Session, maker: str, name: str) -> DeviceModel | None:
    """A model by maker and name, whatever the case."""
    return session.scalar(
        select(DeviceModel).where(func.lower(DeviceModel.maker) == maker.lower(), func.lower(DeviceModel.name) == name.lower())
    )


def fleet_counts(session: Session, *, as_of: date) -> dict[int, int]:
    """Machines in service on a day, by model."""
    query = (
        select(Asset.model_id, func.count())
        .where(Asset.in_service_on <= as_of, (Asset.retired_on.is_(None)) | (Asset.retired_on > as_of))
        .group_by(Asset.model_id)
    )
    return {model: count for model, count in session.execute(query)}


def ages_in_service(session: Session, model_id: int, today: date) -> list[int]:
    """Days in service of every machine of a model that is still there."""
    query = select(Asset.in_service_on).where(Asset.model_id == model_id, Asset.retired_on.is_(None), Asset.in_service_on <= today)
    return [(today - day).days for day in session.scalars(query)]


OPTION_COUNTS = """
SELECT o.key AS option, o.value #>> '{}' AS value, count(*) AS machines
FROM asset a CROSS JOIN LATERAL jsonb_each(a.options) o
WHERE a.model_id = :model AND a.in_service_on <= :as_of AND (a.retired_on IS NULL OR a.retired_on > :as_of)
GROUP BY 1, 2
"""


def option_counts(session: Session, model_id: int, *, as_of: date) -> dict[tuple[str, str], int]:
    """Machines in service by option and value; a machine without the option is not counted."""
    found = session.execute(text(OPTION_COUNTS), {"model": model_id, "as_of": as_of})
    return {(row.option, row.value): row.machines for row in found}


class PartInPosition(NamedTuple):
    """Units of a part in service in a position."""

    position_id: int
    part_id: int
    units: int


def parts_in_service(session: Session, model_id: int | None = None) -> list[PartInPosition]:
    """What is fitted now in the machines of a model or of all, by position, most first."""
    query = (
        select(Tenure.position_id, Tenure.part_id, func.count())
        .join(Asset, Asset.id == Tenure.asset_id)
        .where(Tenure.removed_on.is_(None), Asset.retired_on.is_(None))
        .group_by(Tenure.position_id, Tenure.part_id)
        .order_by(Tenure.position_id, func.count().desc())
    )
    query = query if model_id is None else query.where(Tenure.model_id == model_id)
    return [PartInPosition(*row) for row in session.execute(query)]


def positions(session: Session, model_ids: Sequence[int] | None = None) -> list[Position]:
    """Positions of some models or all, in the page's order."""
    query = select(Position).order_by(Position.model_id, Position.id)
    return list(session.scalars(query if model_ids is None else query.where(Position.model_id.in_(model_ids))))


def positions_with_tenures(session: Session, model_id: int) -> set[int]:
    """Positions some machine has or had a part in: they cannot go."""
    return set(session.scalars(select(Tenure.position_id).where(Tenure.model_id == model_id).distinct()))


def remove_positions(session: Session, position_ids: Sequence[int]) -> None:
    """Take positions and their fits away; those with tenures are refused by the database."""
    session.execute(delete(Fits).where(Fits.position_id.in_(position_ids)))
    session.execute(delete(Position).where(Position.id.in_(position_ids)))


def fits_of(session: Session, model_ids: Sequence[int] | None = None) -> list[tuple[int, int, str, str, str]]:
    """(position, part, verdict, reason, origin) of some models or all."""
    query = select(Fits.position_id, Fits.part_id, Fits.verdict, Fits.reason, Fits.origin)
    if model_ids is not None:
        query = query.join(Position, Position.id == Fits.position_id).where(Position.model_id.in_(model_ids))
    return [tuple(row) for row in session.execute(query)]  # type: ignore[misc]


def clear_computed_fits(session: Session, position_ids: Sequence[int]) -> None:
    """Forget what a rule said; what a person listed stays."""
    session.execute(delete(Fits).where(Fits.position_id.in_(position_ids), Fits.origin == "computed"))


def all_parts(session: Session) -> list[Part]:
    return list(session.scalars(select(Part).order_by(Part.kind, Part.id)))


def families(session: Session) -> dict[str, list[str]]:
    """Families of the catalog by maker."""
    found: dict[str, list[str]] = {}
    for maker, family in session.execute(select(DeviceModel.maker, DeviceModel.family).distinct().order_by(DeviceModel.maker)):
        found.setdefault(maker, []).append(family)
    return found
