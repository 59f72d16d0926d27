"""What the database already knows, by the names the files use."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from sqlalchemy import select
from sqlalchemy.orm import Session

from almanac.store.models import Asset, DeviceModel, Part, Position, Site, Supplier


def upper(value: object) -> str:
    """A name as names are compared."""
    return str(value or "").upper()


@dataclass(frozen=True)
class KnownAsset:
    """What checks need of a machine: its id (0 while it is only in the files), model, and its days."""

    id: int
    model: tuple[str, str]
    site: str
    in_service_on: date
    retired_on: date | None


@dataclass
class Known:
    """Ids by name; names are compared in upper case, so that a typed name need not match in case."""

    sites: dict[str, Site]
    suppliers: dict[str, Supplier]
    parts: dict[str, Part]
    models: dict[tuple[str, str], DeviceModel]
    positions: dict[tuple[tuple[str, str], str], Position]
    assets: dict[str, KnownAsset]


def read_known(session: Session) -> Known:
    """Everything the files may refer to."""
    models = {(m.maker.upper(), m.name.upper()): m for m in session.scalars(select(DeviceModel))}
    by_id = {model.id: key for key, model in models.items()}
    return Known(
        sites={site.code.upper(): site for site in session.scalars(select(Site))},
        suppliers={supplier.name.upper(): supplier for supplier in session.scalars(select(Supplier))},
        parts={part.number.upper(): part for part in session.scalars(select(Part))},
        models=models,
        positions={(by_id[p.model_id], p.key.upper()): p for p in session.scalars(select(Position))},
        assets={
            row.tag.upper(): KnownAsset(row.id, by_id[row.model_id], "", row.in_service_on, row.retired_on)
            for row in session.execute(select(Asset.id, Asset.tag, Asset.model_id, Asset.in_service_on, Asset.retired_on))
        },
    )
