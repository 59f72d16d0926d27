"""Sites, parts, suppliers, models and plans of the fleet as plain rows: what computations are given to read."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime, timedelta
from decimal import Decimal

from sqlalchemy.orm import Session

from almanac.core.stock.lead_time import lead_time
from almanac.core.stock.learnt import STATED_WEIGHT, Delivery, learn
from almanac.store import catalog, orders
from almanac.store.models import FleetPlan, Supplier
from almanac.store.settings import settings_on

REMEMBERED_DAYS = 1095
"""Orders placed longer ago teach nothing of a supplier any more."""


@dataclass(frozen=True)
class SiteRow:
    """A site, and the air its machines stand in."""

    id: int
    code: str
    name: str
    environment: str
    is_depot: bool


@dataclass(frozen=True)
class StockPart:
    """A part that is ordered and kept."""

    id: int
    number: str
    name: str
    kind: str
    supplier_id: int
    price: Decimal
    pack: int
    minimum_order: int
    shelf_life_days: int | None
    end_of_supply_on: date | None
    breaks: tuple[tuple[int, Decimal], ...] = ()


LeadDays = tuple[tuple[int, float], ...]


@dataclass(frozen=True)
class SupplierRow:
    """A supplier, its lead time as (days, weight): as deliveries taught it, and as stated. deliveries : that had a say · late : open
    ones past every stated day
    """

    id: int
    name: str
    lead_time: LeadDays
    stated: LeadDays
    deliveries: int
    late: int


@dataclass(frozen=True)
class ModelRow:
    """A model of the fleet."""

    id: int
    maker: str
    name: str

    @property
    def full_name(self) -> str:
        return f"{self.maker} {self.name}"


@dataclass(frozen=True)
class PlannedChange:
    """A purchase of machines, an early retirement, or a swap of the part in a position, on a day."""

    action: str
    model_id: int
    site_id: int
    duty: str
    planned_on: date
    quantity: int
    part_id: int | None


def site_rows(session: Session) -> list[SiteRow]:
    """All sites, the depot first, then by name."""
    return [SiteRow(site.id, site.code, site.name, site.environment, site.is_depot) for site in catalog.sites(session)]


def stock_part_rows(session: Session, kinds: tuple[str, ...]) -> list[StockPart]:
    """Parts of the given kinds, in catalogue order."""
    fields = [name for name in StockPart.__dataclass_fields__ if name != "breaks"]
    breaks = orders.price_breaks(session)
    return [
        StockPart(**{name: getattr(part, name) for name in fields}, breaks=tuple(breaks.get(part.id, ())))
        for part in catalog.stock_parts(session, kinds)
    ]


def supplier_rows(session: Session, today: date) -> dict[int, SupplierRow]:
    """All suppliers by id, their lead times as what arrived until a day taught them."""
    weight = float(settings_on(session, today).value("stated_weight", default=STATED_WEIGHT))
    seen: dict[int, list[Delivery]] = {}
    for row in orders.deliveries(session, since=today - timedelta(days=REMEMBERED_DAYS), today=today):
        on = row.arrived_on or today
        age = (today - on).days
        one = Delivery((on - row.placed_on).days, min(row.share, 1.0), open=row.arrived_on is None, age_days=age)
        seen.setdefault(row.supplier_id, []).append(one)
    return {one.id: _supplier(one, seen.get(one.id, []), weight) for one in catalog.suppliers(session).values()}


def _supplier(one: Supplier, seen: list[Delivery], weight: float) -> SupplierRow:
    stated = tuple((int(entry["days"]), float(entry["weight"])) for entry in one.lead_time)
    if not seen:
        return SupplierRow(one.id, one.name, stated, stated, 0, 0)
    found = learn(lead_time(*zip(*stated, strict=True)), seen, weight=weight)
    law = tuple((int(day), float(share)) for day, share in zip(found.law.days, found.law.weight, strict=True))
    return SupplierRow(one.id, one.name, law, stated, found.deliveries, found.late)


def model_rows(session: Session) -> dict[int, ModelRow]:
    """All models by id."""
    return {one.id: ModelRow(one.id, one.maker, one.name) for one in catalog.models(session).values()}


def planned_change(plan: FleetPlan) -> PlannedChange:
    """A plan of the fleet as a plain row."""
    return PlannedChange(**{name: getattr(plan, name) for name in PlannedChange.__dataclass_fields__})


def planned_changes(session: Session, *, after: date, known_at: datetime | None = None) -> list[PlannedChange]:
    """What is planned for later than a day, as the plan stands now or stood at a moment."""
    return [planned_change(plan) for plan in catalog.fleet_plans(session, after=after, known_at=known_at)]
