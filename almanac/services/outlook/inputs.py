"""Everything the outlook is computed from, read once."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from sqlalchemy.orm import Session

from almanac.core.demand.haste import Spell
from almanac.core.life.outcomes import Bucket
from almanac.core.parts.alternates import equivalence_groups
from almanac.core.parts.kinds import FORECAST_KINDS
from almanac.services.clock import FAR_FUTURE, Clock, clock_of
from almanac.services.errors import NotFound
from almanac.services.outlook.lived import Lived, read_lived
from almanac.store import ages as age_store
from almanac.store import catalog, evidence, shelves
from almanac.store.models import DeviceModel, FleetPlan, Part, Site, Supplier
from almanac.store.settings import Settings, settings_on


@dataclass(frozen=True)
class Weather:
    """A spell in which parts of a kind age faster."""

    kind: str
    spell: Spell


@dataclass(frozen=True)
class Inputs:
    """Rows of the store, with parts already mapped to the first of their two-way equivalents.

    logged : whether the log holds any incident at all; an empty log is silence, not years without a failure
    """

    clock: Clock
    settings: Settings
    site: Site | None
    sites: list[Site]
    lanes: dict[int, int]
    parts: list[Part]
    numbers: dict[int, str]
    group: dict[int, int]
    suppliers: dict[int, Supplier]
    models: dict[int, DeviceModel]
    lived: Lived
    assets: dict[tuple[int, str, int], int]
    plans: list[FleetPlan]
    first_parts: dict[int, dict[int, int]]
    balances: dict[tuple[int, int], dict[Bucket, int]]
    promised: dict[tuple[int, int], int]
    open_lines: list[shelves.OpenLine]
    lots: dict[tuple[int, int], list[tuple[date | None, int]]]
    weather: tuple[Weather, ...] = ()
    logged: bool = True

    @property
    def tenures(self) -> list[evidence.TenureRow]:
        return self.lived.tenures

    @property
    def service(self) -> list[evidence.ServiceRow]:
        return self.lived.service

    @property
    def ages(self) -> age_store.Ages:
        return self.lived.ages

    def members(self, part_id: int) -> list[int]:
        """A stock part and its two-way equivalents."""
        return [part for part, leader in self.group.items() if leader == part_id]

    @property
    def site_ids(self) -> set[int]:
        """The site chosen, or all of them."""
        return {self.site.id} if self.site else {site.id for site in self.sites}


def first_parts_of(session: Session, plans: list[FleetPlan], lived: Lived) -> dict[int, dict[int, int]]:
    """What a machine comes with, of each model that is planned to be bought and that nobody has yet."""
    bought = {plan.model_id for plan in plans if plan.action == "purchase"} - {row.model_id for row in lived.service}
    return {model: catalog.first_listed_parts(session, model) for model in bought}


def read_inputs(session: Session, *, site_code: str | None = None) -> Inputs:
    """Read the outlook's inputs for one site or all.

    Raises
    ------
    NotFound : no site has that code
    """
    settings = settings_on(session, FAR_FUTURE)
    clock = clock_of(settings)
    settings = settings_on(session, clock.today)
    sites = catalog.sites(session)
    site = next((site for site in sites if site.code == site_code), None)
    if site_code is not None and site is None:
        raise NotFound(f"no site has the code {site_code}: the codes are {', '.join(site.code for site in sites)}")
    depot = next((site for site in sites if site.is_depot), None)
    parts = catalog.stock_parts(session, tuple(kind.value for kind in FORECAST_KINDS))
    group = equivalence_groups((part.id for part in parts), catalog.interchange(session))
    lived = read_lived(session, clock, group)
    plans = catalog.fleet_plans(session, after=clock.today)
    return Inputs(
        clock=clock,
        settings=settings,
        site=site,
        sites=sites,
        lanes=catalog.lanes_from(session, depot.id) if depot else {},
        parts=[part for part in parts if group[part.id] == part.id],
        numbers={part.id: part.number for part in parts},
        group=group,
        suppliers=catalog.suppliers(session),
        models=catalog.models(session),
        lived=lived,
        assets=evidence.assets_in_service(session, (plan.model_id for plan in plans), as_of=clock.today),
        plans=plans,
        first_parts=first_parts_of(session, plans, lived),
        balances=shelves.balances(session, bucket=Bucket.ON_HAND),
        promised=shelves.promised(session),
        open_lines=shelves.open_lines(session),
        lots=shelves.lots(session),
        logged=evidence.any_incident(session),
    )
