"""From records and fleet to a law of demand for every stock part, and one per site."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np
from numpy.typing import NDArray

from almanac.core import checks
from almanac.core.demand.cells import cells
from almanac.core.demand.haste import own_days
from almanac.core.demand.in_service import cumulative_count, cumulative_exposure
from almanac.core.demand.law import DemandLaw, SideStream
from almanac.core.demand.life_tables import LifeTables, life_tables
from almanac.core.demand.wear_batch import draw_heads, draw_time_lines
from almanac.core.demand.wear_law import WearLaw, wear_law
from almanac.core.demand.wear_out import WearOut
from almanac.core.life.findings import dead_on_arrival_probability
from almanac.core.life.nodes import KindNodes, kind_nodes
from almanac.core.life.outcomes import Finding
from almanac.core.life.record import KindRecord, PoolRecord, Stream, TenureCount, kind_record, pool_record
from almanac.core.life.school import School
from almanac.core.life.wear_nodes import WearNodes
from almanac.services.outlook.aged import kept_law
from almanac.services.outlook.content import Content
from almanac.services.outlook.fleet_change import PlannedParts, Pool, ServiceChanges, service_changes
from almanac.services.outlook.followed import BESIDE, Unit, replaced, threshold_of, trends_of, units_of, without
from almanac.services.outlook.inputs import Inputs
from almanac.services.outlook.lives import OLDEST_YEARS, KindFit, KindLives, lives_and_fit, school_of
from almanac.services.outlook.positions import Positions, positions_of
from almanac.services.remembered import Kept, Remembered, digest
from almanac.store.evidence import TenureRow

DAYS_PER_YEAR = 365.25
HORIZON_DAYS = 366
NEAR_STEP = 60
LONG_REVIEW = 30
"""Laws reach far enough for reviews of so many days, so that shorter ones find them."""
JEFFREYS = 0.5
"""Half an event is added to the counts of a kind's side streams: none seen is not a zero rate."""


KEPT: Remembered[Kept] = Remembered(8)
remembered_nodes = lru_cache(maxsize=64)(kind_nodes)


@dataclass(frozen=True)
class KindEvidence:
    """What the pools of a kind share."""

    record: KindRecord
    nodes: KindNodes | None
    side: tuple[SideStream, ...]
    dead_on_arrival: float
    lives: KindLives
    fit: KindFit | None
    school: School


@dataclass(frozen=True)
class PartLaw:
    """A stock part's law over the chosen sites, with the pools it is made of."""

    pools: list[Pool]
    records: list[PoolRecord]
    units: checks.Floats
    law: DemandLaw


class LawBook:
    """Laws of all stock parts of one set of inputs. Building one is cheap; each law is made when asked for.

    reach : days that laws have to reach, where one look is all that is wanted; nothing is then kept for the next
    content : of the inputs, where what is worked out is kept for inputs that differ in shelves, prices or targets alone
    """

    def __init__(self, inputs: Inputs, *, reach: int | None = None, content: Content | None = None) -> None:
        self.inputs = inputs
        self.reach = reach
        self.content = content
        self.kind_of = {part.id: part.kind for part in inputs.parts}

    @cached_property
    def kept(self) -> Kept:
        """What was worked out from the same content before: tables of figures, nothing of the database."""
        if self.content is None:
            return Kept()
        return KEPT.get(self.content.laws(self.near_days, self.horizon_days), Kept)

    @property
    def changes(self) -> ServiceChanges:
        """Units in service now and how they will change."""
        return self.kept.once("changes", lambda: service_changes(self.inputs))

    @property
    def records(self) -> dict[Pool, PoolRecord]:
        """Record of every pool that has tenures or units."""
        return self.kept.once("records", self._records)

    def _records(self) -> dict[Pool, PoolRecord]:
        counts: dict[Pool, list[TenureCount]] = defaultdict(list)
        for row in self.inputs.tenures:
            counts[Pool(row.part_id, row.model_id, row.duty, row.environment)].append(_count(row))
        pools = {*counts, *(pool for pool, *_ in self.changes.changes)}
        return {pool: pool_record(counts.get(pool, [])) for pool in sorted(pools)}

    @cached_property
    def pools_of(self) -> dict[int, list[Pool]]:
        """Pools of each stock part."""
        found: dict[int, list[Pool]] = defaultdict(list)
        for pool in self.records:
            found[pool.part_id].append(pool)
        return found

    @cached_property
    def horizon_days(self) -> int:
        """Far enough for a year, the longest lead time, the review period and the longest shelf life."""
        if self.reach is not None:
            return self.reach
        return self.near_days + max((part.shelf_life_days or 0 for part in self.inputs.parts), default=0)

    @cached_property
    def near_days(self) -> int:
        """Far enough for a year, the longest lead time and the review period, in whole steps, so that laws outlive a changed setting."""
        if self.reach is not None:
            return 0
        leads = [int(entry["days"]) for supplier in self.inputs.suppliers.values() for entry in supplier.lead_time]
        review = max(int(self.inputs.settings.value("review_days", default=14)), LONG_REVIEW)
        ahead = HORIZON_DAYS + max(leads, default=0) + review
        return -(-ahead // NEAR_STEP) * NEAR_STEP

    @property
    def exposure(self) -> tuple[dict[tuple[Pool, int], int], checks.Floats]:
        """Unit-years in service by day, and the row of each (pool, site); row 0 is nobody's and stays zero."""
        return self.kept.once("exposure", self._exposure)

    def _exposure(self) -> tuple[dict[tuple[Pool, int], int], checks.Floats]:
        rows: dict[tuple[Pool, int], int] = {}
        row = [rows.setdefault((pool, site), len(rows) + 1) for pool, site, *_ in self.changes.changes]
        day = [change[2] for change in self.changes.changes]
        size = [change[3] for change in self.changes.changes]
        return rows, cumulative_exposure(row, day, size, rows=len(rows) + 1, horizon_days=self.horizon_days)

    @property
    def kinds(self) -> dict[str, KindEvidence]:
        """Evidence of each kind: shared parameters come from all its pools and all sites."""
        return self.kept.once("kinds", self._kinds)

    def _kinds(self) -> dict[str, KindEvidence]:
        return {kind: self._kind(kind) for kind in dict.fromkeys(self.kind_of.values())}

    def _kind(self, kind: str) -> KindEvidence:
        """Shared parameters of a kind; the search for them is kept while the kind's record stays the same."""
        counts = [_count(row) for row in self.inputs.tenures if self.kind_of.get(row.part_id) == kind]
        record = kind_record(counts)
        pools = [pool for pool in self.records if self.kind_of.get(pool.part_id) == kind]
        failures = [self.failures(pool, record.share.share) for pool in pools]
        exposure = [self.records[pool].exposure_years for pool in pools]
        years = record.exposure_years
        nodes = remembered_nodes(tuple(failures), tuple(exposure)) if years > 0 else None
        side = (
            SideStream("damage", record.damage + JEFFREYS, years),
            SideStream("no_fault_draw", record.no_fault_draws + JEFFREYS, years),
        )
        lives, fit = lives_and_fit(self.inputs, kind, record.share.share, self.horizon_days, keep=self.reach is None)
        return KindEvidence(
            record=record,
            nodes=nodes,
            side=side if years > 0 else (),
            dead_on_arrival=dead_on_arrival_probability(record.dead_on_arrival, record.fittings),
            lives=lives,
            fit=fit,
            school=school_of(fit, str(self.inputs.settings.value("school", kind=kind, default="auto"))),
        )

    def own_days(self, kind: str) -> checks.Floats | None:
        """(h + 1,) days of ageing of a kind's parts until each coming day; None where they age as the calendar goes."""
        spells = [weather.spell for weather in self.inputs.weather if weather.kind == kind]
        return own_days(spells, horizon_days=self.horizon_days) if spells else None

    @property
    def positions(self) -> dict[int, Positions]:
        """Ages of what is in service, of every stock part."""
        return self.kept.once("positions", lambda: positions_of(self.inputs, self.changes))

    @property
    def followed(self) -> dict[int, list[Unit]]:
        """Units whose wear is followed by readings, of every stock part that has some."""
        return self.kept.once("followed", lambda: units_of(self.inputs))

    def failures(self, pool: Pool, share: float) -> float:
        """Wear-out failures of a pool: confirmed ones, and open ones at the kind's settled share."""
        record = self.records[pool]
        return record.count(Stream.CONFIRMED) + share * record.count(Stream.OPEN)

    def part_law(self, part_id: int) -> PartLaw | None:
        """The law of a stock part over the chosen sites; None while its kind has no record at all, or the log is empty."""
        return self.kept.once(("law", part_id), lambda: self._part_law(part_id))

    def _part_law(self, part_id: int) -> PartLaw | None:
        evidence = self.kinds[self.kind_of[part_id]]
        pools = self.pools_of.get(part_id, [])
        if evidence.nodes is None or not pools or not self.inputs.logged:
            return None
        law = self._law(part_id, pools, evidence, self.inputs.site_ids, near_days=self.near_days)
        units = np.array([sum(self.changes.now.get((pool, site), 0.0) for site in self.inputs.site_ids) for pool in pools])
        return PartLaw(pools, [self.records[pool] for pool in pools], units, law)

    def constant_law(self, part_id: int) -> DemandLaw | None:
        """The part's law in the constant school, whatever its kind takes: what the schools are compared with."""
        evidence, pools = self.kinds[self.kind_of[part_id]], self.pools_of.get(part_id, [])
        if evidence.nodes is None or not pools:
            return None
        return self._level(part_id, pools, evidence, self.inputs.site_ids, near_days=self.near_days)

    def aged_law(self, part_id: int) -> DemandLaw | None:
        """The part's law in the wear-out school; None where its kind has no failure to learn from."""
        evidence, pools = self.kinds[self.kind_of[part_id]], self.pools_of.get(part_id, [])
        return self._aged(part_id, pools, evidence, self.inputs.site_ids, near_days=self.near_days) if pools else None

    def _law(self, part_id: int, pools: list[Pool], evidence: KindEvidence, sites: set[int], *, near_days: int) -> DemandLaw:
        aged = self._aged(part_id, pools, evidence, sites, near_days=near_days) if evidence.school.name == "wear-out" else None
        return aged or self._level(part_id, pools, evidence, sites, near_days=near_days)

    def _level(self, part_id: int, pools: list[Pool], evidence: KindEvidence, sites: set[int], *, near_days: int) -> DemandLaw:
        """One constant rate, whatever a unit's age, save for units that are followed by readings."""
        constant = self._constant(part_id, pools, evidence, sites)
        here = self._followed_at(part_id, sites)
        if not here or evidence.nodes is None:
            return constant
        tables, key = self.kept.once(("level", part_id), lambda: self._level_tables(constant))
        return self._with_ages(part_id, pools, constant, (tables, key, np.arange(len(pools))), sites, near_days=near_days)

    def _level_tables(self, constant: DemandLaw) -> tuple[LifeTables, bytes]:
        """A constant rate is a life of shape 1: its tables, and a key of them."""
        nodes, years = constant.nodes, constant.exposure_years
        wear = WearNodes(nodes.weight, np.ones(nodes.weight.size), nodes.shape, nodes.rate, np.tile(years, (nodes.weight.size, 1)))
        content = (*(getattr(nodes, name).tolist() for name in ("weight", "shape", "rate")), constant.failures.tolist(), years.tolist())
        key = digest((content, self.horizon_days))
        return life_tables(wear, constant.failures, oldest_years=OLDEST_YEARS, horizon_days=self.horizon_days), key

    def _followed_at(self, part_id: int, sites: set[int]) -> list[Unit]:
        """Units with a usable trend at some sites."""
        return [unit for unit in self.followed.get(part_id, []) if unit.followed.row.site_id in sites and unit.crosses is not None]

    def _constant(self, part_id: int, pools: list[Pool], evidence: KindEvidence, sites: set[int]) -> DemandLaw:
        assert evidence.nodes is not None
        rows, table = self.exposure
        return DemandLaw(
            nodes=evidence.nodes,
            failures=np.array([self.failures(pool, evidence.record.share.share) for pool in pools]),
            exposure_years=np.array([self.records[pool].exposure_years for pool in pools]),
            in_service=table[[[rows.get((pool, site), 0) for site in sites] for pool in pools]].sum(axis=1),
            side=evidence.side,
            dead_on_arrival=evidence.dead_on_arrival,
            planned_swaps=_cumulative(self._planned(self.changes.swaps, part_id, sites), self.horizon_days),
            planned_fittings=_cumulative(self._planned(self.changes.fittings, part_id, sites), self.horizon_days),
            own_days=self.own_days(self.kind_of[part_id]),
        )

    def _aged(self, part_id: int, pools: list[Pool], evidence: KindEvidence, sites: set[int], *, near_days: int) -> DemandLaw | None:
        fit = evidence.fit
        if fit is None or fit.tables is None or evidence.nodes is None:
            return None
        place = {pool: row for row, pool in enumerate(evidence.lives.pools)}
        known = np.array([place.get(pool, -1) for pool in pools], dtype=np.int64)
        constant = self._constant(part_id, pools, evidence, sites)
        return self._with_ages(part_id, pools, constant, (fit.tables, fit.key, known), sites, near_days=near_days)

    def _with_ages(
        self,
        part_id: int,
        pools: list[Pool],
        constant: DemandLaw,
        lives: tuple[LifeTables, bytes, NDArray[np.int64]],
        sites: set[int],
        *,
        near_days: int,
    ) -> DemandLaw:
        """A law by positions: tables of lives with their key and the rows of the pools in them; followed units by their readings."""
        tables, key, known = lives
        own = self.positions.get(part_id, Positions.none()).at(sites)
        here = self._followed_at(part_id, sites)
        trends = trends_of(here, pools, threshold_of(self.inputs, part_id))
        if trends is not None and self.kind_of[part_id] not in BESIDE:
            own = without(own, here).joined(replaced(trends, pools, here[0].followed.row.site_id, self.horizon_days))
        enter, leave = (_in_own_days(days, constant.own_days) for days in (own.enter_day, own.leave_day))
        rows = cells(own.row_of(pools), own.age_years, own.units, enter, leave)
        if self.reach is not None:
            return wear_law(constant, WearOut(tables, known, rows, trends), near_days=0)
        return kept_law(constant, (tables, key), known, rows, trends, near_days)

    def draw(self, until_day: Mapping[int, dict[int, int]]) -> None:
        """Work out laws by age together: of stock parts over the chosen sites, and of each of them at sites until a day."""
        found = [(part_id, law) for part_id in until_day if (law := self.part_law(part_id)) is not None]
        draw_time_lines([law.law for _, law in found if isinstance(law.law, WearLaw)])
        heads = [
            (one, day)
            for part_id, law in found
            if isinstance(law.law, WearLaw)
            for site, day in until_day[part_id].items()
            if isinstance(one := self._site_law(part_id, law.pools, self.kinds[self.kind_of[part_id]], site), WearLaw)
        ]
        draw_heads([one for one, _ in heads], [day for _, day in heads])

    def site_heads(self, part_id: int, law: PartLaw, until_day: dict[int, int], most: int) -> checks.Floats:
        """(s, most + 1) probabilities of each site's own demand until a day, in the order of `until_day`."""
        evidence = self.kinds[self.kind_of[part_id]]
        if isinstance(law.law, WearLaw) or law.law.own_days is not None:
            own = [self._site_law(part_id, law.pools, evidence, site) for site in until_day]
            return np.concatenate([one.head([0.0], [day], most) for one, day in zip(own, until_day.values(), strict=True)])
        rows, table = self.exposure
        exposure = [table[[rows.get((pool, site), 0) for pool in law.pools], day] for site, day in until_day.items()]
        swaps = [_until(self._planned(self.changes.swaps, part_id, {site}), day) for site, day in until_day.items()]
        fittings = [_until(self._planned(self.changes.fittings, part_id, {site}), day) for site, day in until_day.items()]
        return law.law.head_of(law.law.windows_of(exposure, swaps, fittings), most)

    def _site_law(self, part_id: int, pools: list[Pool], evidence: KindEvidence, site: int) -> DemandLaw:
        return self.kept.once(("site", part_id, site), lambda: self._law(part_id, pools, evidence, {site}, near_days=0))

    @staticmethod
    def _planned(planned: Sequence[PlannedParts], part_id: int, sites: set[int]) -> list[tuple[int, float]]:
        return [(parts.day, parts.quantity) for parts in planned if parts.part_id == part_id and parts.site_id in sites]


def _in_own_days(days: checks.Floats, own: checks.Floats | None) -> checks.Floats:
    """Days on which positions come and go, in days of ageing; past the horizon the calendar's pace holds."""
    if own is None:
        return days
    last = own.size - 1
    beyond = np.where(np.isfinite(days), np.maximum(days - last, 0.0), np.inf)
    return np.where(days > 0, np.interp(np.minimum(days, last), np.arange(own.size), own) + beyond, days)


def _until(dated: list[tuple[int, float]], day: int) -> float:
    return sum(quantity for due, quantity in dated if due <= day)


def _cumulative(dated: list[tuple[int, float]], horizon: int) -> checks.Floats:
    if not dated:
        return np.zeros(horizon + 1)
    days, quantities = zip(*dated, strict=True)
    return cumulative_count(days, quantities, horizon_days=horizon)


def _count(row: TenureRow) -> TenureCount:
    finding = Finding(row.finding) if row.finding else None
    return TenureCount(finding, row.early, row.exposed, row.fresh, row.tenures, row.exposure_days / DAYS_PER_YEAR)
