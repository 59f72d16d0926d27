"""Everything the outlook is computed from, read once, as plain rows; and the part of it that demand rests on."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import date
from functools import cached_property

import numpy as np
from sqlalchemy.orm import Session

from almanac.core.answers.question import Named
from almanac.core.demand.ageing import Spell
from almanac.core.life.outcomes import Bucket
from almanac.core.parts.alternates import equivalence_groups
from almanac.core.parts.declared.kinds import FORECAST_KINDS, WORN, BenchRole, Worn, kinds_of_role
from almanac.services.answers.ask import answer_of
from almanac.services.clock import FAR_FUTURE, Clock, clock_of
from almanac.services.errors import NotFound
from almanac.services.outlook.fade import FadedPart, FadeOfKind, LearntFade
from almanac.services.outlook.fitted import FitOfKind
from almanac.services.outlook.life import PartFleet, PartLife, read_life
from almanac.services.outlook.pools import DAYS_PER_YEAR, Grouping
from almanac.services.starting_points import stated_of
from almanac.store import catalog, evidence, orders, planning, shelves, units
from almanac.store.planning import ModelRow, PlannedChange, SiteRow, StockPart, SupplierRow
from almanac.store.settings import Settings, settings_on

HORIZON_DAYS = 366
NEAR_STEP = 60
USUAL_DEPARTURE_DAYS = 7
USUAL_LANE_DAYS = 14
"""Of a site whose lane nobody knows, where no other is known either."""
UNFADED = Named("unfaded", {})
LONG_REVIEW = 30
"""Laws reach far enough for reviews of so many days, so that shorter ones find them."""


@dataclass(frozen=True)
class Weather:
    """A spell in which parts of a kind age faster."""

    kind: str
    spell: Spell


@dataclass(frozen=True)
class DemandInputs:
    """All that the demand of some stock parts of a kind rests on beside its fitted model: fleet, what is planned, a few settings.

    parts : stock parts in catalogue order, each the first of its equivalents · group : part number to it
    fleet : PartFleet by part number · oldest_years : whole years that reach past the oldest unit of the kind in service
    plans : those that concern the parts, by day · assets, first_parts : of the models planned for
    chosen : ids of the sites looked at · worn : share at which a part followed by readings is worn, by stock part
    faded : FadedPart by stock part, of those with units that are followed by readings
    near_days : how far laws reach from today · horizon_days : how far they reach at all · one_look : nothing is asked twice
    """

    kind: str
    today: date
    logged: bool
    sites: tuple[SiteRow, ...]
    chosen: tuple[int, ...]
    parts: tuple[int, ...]
    group: Mapping[int, int]
    fleet: Named
    oldest_years: int
    plans: tuple[PlannedChange, ...]
    assets: Mapping[tuple[int, str, int], int]
    first_parts: Mapping[int, Mapping[int, int]]
    spells: tuple[Spell, ...]
    school: str
    worn: Mapping[int, float]
    near_days: int
    horizon_days: int
    faded: Named = UNFADED
    one_look: bool = False

    @property
    def fleets(self) -> Mapping[int, PartFleet]:
        """Units in service by part number."""
        found: Mapping[int, PartFleet] = self.fleet.content
        return found

    @property
    def grouping(self) -> Grouping:
        """How part numbers and sites make pools."""
        return Grouping(self.group, {site.id: site.environment for site in self.sites})

    @property
    def shared(self) -> DemandInputs:
        """What parts have in common that can be computed together."""
        return replace(self, parts=(), group={}, fleet=Named("none"), plans=(), assets={}, first_parts={}, worn={}, faded=UNFADED)


def merged(several: Sequence[DemandInputs]) -> DemandInputs:
    """Inputs of parts that have the rest in common, as one: a plan that does not concern a part changes nothing of it."""
    first = several[0]
    fleet: dict[int, PartFleet] = {}
    plans: Counter[PlannedChange] = Counter()
    faded: dict[int, FadedPart] = {}
    for one in several:
        fleet.update(one.fleets)
        faded.update(one.faded.content)
        plans |= Counter(one.plans)  # what is planned twice counts twice, what concerns two parts once
    return replace(
        first,
        parts=tuple(part for one in several for part in one.parts),
        group={number: part for one in several for number, part in one.group.items()},
        fleet=Named("merged", fleet),
        plans=tuple(sorted(plans.elements(), key=order_of_plans)),
        assets={key: count for one in several for key, count in one.assets.items()},
        first_parts={model: parts for one in several for model, parts in one.first_parts.items()},
        worn={part: share for one in several for part, share in one.worn.items()},
        faded=Named("merged", faded),
    )


def order_of_plans(plan: PlannedChange) -> tuple[object, ...]:
    """Plans by day, those of a day in an order of their own."""
    return plan.planned_on, plan.action, plan.model_id, plan.site_id, plan.duty, plan.part_id or 0, plan.quantity


@dataclass(frozen=True)
class Inputs:
    """Rows of the store; parts are the first of their two-way equivalents.

    lanes, gaps : days under way from the depot, and the longest between departures, by site · no_lane : sites whose lane nobody knows: they
    are worked out as for the slowest there is · leaves : the next departure for a site, where its days are known
    life : life data by part number · logged : whether the log holds any incident at all; an empty log is silence, not years without
    a failure · drafted : parts in drafts of orders, on nobody's way yet
    faded : FadedPart by stock part, of each kind with units followed by readings
    recovered : parts out of machines that passed their test, by (part, site)
    """

    clock: Clock
    settings: Settings
    site: SiteRow | None
    sites: tuple[SiteRow, ...]
    lanes: dict[int, int]
    gaps: dict[int, int]
    no_lane: tuple[SiteRow, ...]
    leaves: dict[int, date]
    parts: list[StockPart]
    numbers: dict[int, str]
    group: dict[int, int]
    suppliers: dict[int, SupplierRow]
    models: dict[int, ModelRow]
    life: dict[int, PartLife]
    assets: dict[tuple[int, str, int], int]
    plans: list[PlannedChange]
    first_parts: dict[int, dict[int, int]]
    balances: dict[tuple[int, int], dict[Bucket, int]]
    promised: dict[tuple[int, int], int]
    open_lines: list[shelves.OpenLine]
    lots: dict[tuple[int, int], list[tuple[date | None, int]]]
    weather: tuple[Weather, ...] = ()
    logged: bool = True
    drafted: Mapping[int, int] = field(default_factory=dict)
    faded: Mapping[str, Named] = field(default_factory=dict)
    recovered: Mapping[tuple[int, int], int] = field(default_factory=dict)

    def members(self, part_id: int) -> list[int]:
        """A stock part and its two-way equivalents."""
        return self._members.get(part_id, [])

    @cached_property
    def _members(self) -> dict[int, list[int]]:
        found: dict[int, list[int]] = {}
        for part, leader in self.group.items():
            found.setdefault(leader, []).append(part)
        return found

    @property
    def site_ids(self) -> set[int]:
        """The site chosen, or all of them."""
        return {self.site.id} if self.site else {site.id for site in self.sites}

    def part(self, number: str) -> StockPart:
        """A stock part by its number.

        Raises
        ------
        NotFound : no stock part has that number
        """
        found = next((part for part in self.parts if part.number == number), None)
        if found is None:
            raise NotFound(f"no stock part has the number {number}")
        return found

    @property
    def near_days(self) -> int:
        """Far enough for a year, the longest lead time and the review period, in whole steps, so that laws outlive a changed setting."""
        leads = [days for supplier in self.suppliers.values() for days, _ in supplier.lead_time]
        review = max(int(self.settings.value("review_days", default=14)), LONG_REVIEW)
        return -(-(HORIZON_DAYS + max(leads, default=0) + review) // NEAR_STEP) * NEAR_STEP

    @property
    def horizon_days(self) -> int:
        """Far enough for all that, and the longest shelf life."""
        return self.near_days + max((part.shelf_life_days or 0 for part in self.parts), default=0)

    def kinds(self) -> list[str]:
        """Kinds of the stock parts, in catalogue order."""
        return list(dict.fromkeys(part.kind for part in self.parts))

    def units_on_record(self) -> int:
        """Units in service of all parts."""
        return sum(int(own.fleet.content.serving.units.sum()) for own in self.life.values())

    def of_kind(self, kind: str, *, reach: int | None = None) -> DemandInputs:
        """What the demand of a kind's parts rests on. reach : days laws have to reach where one look is all that is wanted."""
        return self._of([part for part in self.parts if part.kind == kind], kind, reach)

    def of_part(self, part: StockPart) -> DemandInputs:
        """What the demand of one part rests on."""
        return self._of([part], part.kind, None)

    def fit_of(self, kind: str) -> FitOfKind:
        """The question for a kind's fitted model."""
        ids = {part.id for part in self.parts if part.kind == kind}
        group = {number: leader for number, leader in self.group.items() if leader in ids and number in self.life}
        log = together({number: self.life[number].log for number in group})
        return FitOfKind(kind, group, {site.id: site.environment for site in self.sites}, log, stated_of(self.settings, kind))

    def fade_of(self, session: Session, kind: str, worn: Mapping[int, float] | None = None) -> FadeOfKind | None:
        """The question of how a kind fades; None where nothing of it is followed by readings. worn : by part, by default as it is set"""
        lives: dict[int, list[PartLife]] = {}
        for number, leader in self.group.items():
            if kind in WORN and number in self.life and self.life[number].followed is not None:
                lives.setdefault(leader, []).append(self.life[number])
        parts = {part.id: part for part in self.parts if part.kind == kind and part.id in lives}
        if not parts:
            return None
        shares = {part: worn[part] if worn else self._share(WORN[kind], parts[part]) for part in parts}
        followed = {part: tuple(life.followed for life in lives[part] if life.followed) for part in parts}
        settled = {part: tuple(life.settled for life in lives[part] if life.settled) for part in parts}
        return FadeOfKind(followed, shares, answer_of(session, LearntFade(settled, shares)))

    def _share(self, follow: Worn, part: StockPart) -> float:
        return float(self.settings.value(follow.setting, kind=part.kind, part_number=part.number, default=follow.share))

    def _of(self, parts: list[StockPart], kind: str, reach: int | None) -> DemandInputs:
        ids = {part.id for part in parts}
        group = {number: leader for number, leader in self.group.items() if leader in ids}
        follow = WORN.get(kind)
        worn = {part.id: self._share(follow, part) for part in parts} if follow else {}
        life = {number: self.life[number] for number in group if number in self.life}
        plans = self._plans_of(group, {model for own in life.values() for model in own.models})
        models = {plan.model_id for plan in plans}
        return DemandInputs(
            kind=kind,
            today=self.clock.today,
            logged=self.logged,
            sites=self.sites,
            chosen=tuple(sorted(self.site_ids)),
            parts=tuple(part.id for part in parts),
            group=group,
            fleet=together({number: own.fleet for number, own in life.items()}),
            oldest_years=self._oldest_years(kind),
            plans=plans,
            assets={key: count for key, count in self.assets.items() if key[0] in models},
            first_parts={
                model: {part: units for part, units in listed.items() if part in group}
                for model, listed in self.first_parts.items()
                if model in models
            },
            faded=self.faded.get(kind, UNFADED) if any(own.followed for own in life.values()) else UNFADED,
            spells=tuple(weather.spell for weather in self.weather if weather.kind == kind),
            school=str(self.settings.value("school", kind=kind, default="auto")),
            worn=worn,
            near_days=0 if reach is not None else self.near_days,
            horizon_days=self.horizon_days if reach is None else reach,
            one_look=reach is not None,
        )

    def _plans_of(self, group: Mapping[int, int], models: set[int]) -> tuple[PlannedChange, ...]:
        """Plans that concern some part numbers, which machines of some models hold."""
        new = {model for model, listed in self.first_parts.items() if any(part in group for part in listed)}
        own = [plan for plan in self.plans if (plan.part_id in group if plan.action == "swap" else plan.model_id in models | new)]
        return tuple(sorted(own, key=order_of_plans))

    def _oldest_years(self, kind: str) -> int:
        kinds = {part.id: part.kind for part in self.parts}
        days = (own.oldest_days for number, own in self.life.items() if kinds.get(self.group.get(number, -1)) == kind)
        return int(np.ceil(max(days, default=0.0) / DAYS_PER_YEAR))


def together(pieces: Mapping[int, Named]) -> Named:
    """Named pieces by number as one."""
    return Named(Named.of(dict(pieces)).key, fetch=lambda: {number: one.content for number, one in pieces.items()})


def with_fade(session: Session, inputs: Inputs) -> Inputs:
    """Inputs whose followed units are known by how they fade, worked out where somebody wants to know."""
    asked = {kind: question for kind in inputs.kinds() if (question := inputs.fade_of(session, kind)) is not None}
    return replace(inputs, faded={kind: answer_of(session, question) for kind, question in asked.items()})


def new_models(plans: Iterable[PlannedChange], assets: Mapping[tuple[int, str, int], int]) -> set[int]:
    """Models that are planned to be bought and that nobody has yet."""
    return {plan.model_id for plan in plans if plan.action == "purchase"} - {model for (model, _, _), count in assets.items() if count}


def read_inputs(session: Session, *, site_code: str | None = None, kind: str | None = None) -> Inputs:
    """Read the outlook's inputs for one site or all.

    Parameters
    ----------
    kind : lives and lots are read of parts of this kind alone, for who computes no other; all kinds by default

    Raises
    ------
    NotFound : no site has that code
    """
    settings = settings_on(session, FAR_FUTURE)
    clock = clock_of(settings)
    settings = settings_on(session, clock.today)
    sites = tuple(planning.site_rows(session))
    site = next((site for site in sites if site.code == site_code), None)
    if site_code is not None and site is None:
        raise NotFound(f"no site has the code {site_code}: the codes are {', '.join(site.code for site in sites)}")
    depot = next((site for site in sites if site.is_depot), None)
    timetables = catalog.timetables_from(session, depot.id) if depot else {}
    lanes = {site: one.days for site, one in timetables.items()}
    no_lane = tuple(one for one in sites if depot is not None and not one.is_depot and one.id not in lanes)
    lanes |= dict.fromkeys((one.id for one in no_lane), max(lanes.values(), default=USUAL_LANE_DAYS))
    usual = int(settings.value("departure_days", default=USUAL_DEPARTURE_DAYS))
    parts = planning.stock_part_rows(session, tuple(kind.value for kind in FORECAST_KINDS))
    group = equivalence_groups((part.id for part in parts), catalog.interchange(session))
    plans = planning.planned_changes(session, after=clock.today)
    assets = evidence.assets_in_service(session, (plan.model_id for plan in plans), as_of=clock.today)
    found = Inputs(
        clock=clock,
        settings=settings,
        site=site,
        sites=sites,
        lanes=lanes,
        no_lane=no_lane,
        leaves={site: day for site, one in timetables.items() if (day := one.next_on(clock.today)) is not None},
        gaps={site: one.gap(usual) for site, one in timetables.items()},
        parts=[part for part in parts if group[part.id] == part.id],
        numbers={part.id: part.number for part in parts},
        group=group,
        suppliers=planning.supplier_rows(session, clock.today),
        models=planning.model_rows(session),
        life=read_life(session, [part.id for part in parts if kind in (None, part.kind)], as_of=clock.today),
        assets=assets,
        plans=plans,
        first_parts={model: catalog.first_listed_parts(session, model) for model in new_models(plans, assets)},
        balances=shelves.balances(session, Bucket.ON_HAND, Bucket.UNDER_WAY, Bucket.HARVESTED),
        promised=shelves.promised(session, clock.today),
        open_lines=shelves.open_lines(session),
        lots=shelves.lots(session, kind=kind),
        logged=evidence.any_incident(session),
        drafted=orders.in_drafts(session),
        recovered=units.tested_good(session, sorted(kinds_of_role(BenchRole.PACK))),
    )
    return with_fade(session, found)
