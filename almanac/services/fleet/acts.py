"""What happens to a machine as a whole: it moves, it leaves with what it holds, it is brought back."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from sqlalchemy import delete, select, update
from sqlalchemy.orm import Session

from almanac.services.clock import Clock
from almanac.store.bulk import among
from almanac.store.models import Asset, AssetStay, Tenure


@dataclass(frozen=True)
class Left:
    """What a retirement ended: the stay, and the tenures of what was in the machine."""

    stay_id: int | None
    tenures: list[int]


def move_machine(session: Session, asset: Asset, stay: AssetStay | None, site_id: int, on: date) -> AssetStay:
    """A machine stands at another site from a day on; returns the new stay. stay : the one that ends, locked with the machine"""
    if stay is not None:
        stay.until_on = on
        session.flush()
    to = AssetStay(asset_id=asset.id, site_id=site_id, from_on=on, until_on=None)
    session.add(to)
    session.flush()
    return to


def move_back(session: Session, stay_id: int, left_id: int | None) -> None:
    """As if it had not moved."""
    session.execute(delete(AssetStay).where(AssetStay.id == stay_id))
    session.execute(update(AssetStay).where(AssetStay.id == left_id).values(until_on=None))


def retire_machine(session: Session, asset: Asset, stay: AssetStay | None, on: date, clock: Clock) -> Left:
    """A machine leaves with what it holds: its parts' lives end with it, and nothing failed."""
    asset.retired_on = on
    if stay is not None:
        stay.until_on = on
    held = session.scalars(select(Tenure).where(Tenure.asset_id == asset.id, Tenure.removed_on.is_(None), Tenure.fitted_on <= on))
    ended = list(held)
    for tenure in ended:
        tenure.removed_on, tenure.removal_recorded_at = on, clock.now
    return Left(stay.id if stay else None, [tenure.id for tenure in ended])


def bring_back(session: Session, asset: Asset, stay_id: int | None, tenures: Sequence[int]) -> None:
    """As if it had never left."""
    asset.retired_on = None
    session.execute(update(AssetStay).where(AssetStay.id == stay_id).values(until_on=None))
    session.execute(update(Tenure).where(among(Tenure.id, tenures)).values(removed_on=None, removal_recorded_at=None))
