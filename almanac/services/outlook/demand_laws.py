"""From a kind's fitted model and its fleet to a law of demand for every stock part of it, and one per site."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from almanac.core import checks
from almanac.core.demand.age_groups import age_groups
from almanac.core.demand.ageing import own_days
from almanac.core.demand.in_service import cumulative_count, cumulative_exposure
from almanac.core.demand.law import DemandLaw, SideStream
from almanac.core.demand.life_tables import LifeTables, life_tables
from almanac.core.demand.side_rates import SideRates
from almanac.core.demand.wear_law import WearLaw, wear_law
from almanac.core.demand.wear_out import WearOut
from almanac.core.life.findings import dead_on_arrival_probability
from almanac.core.life.nodes import KindNodes
from almanac.core.life.record import KindRecord, PoolRecord, pool_record
from almanac.core.life.school import School
from almanac.core.life.stated import Stated
from almanac.core.life.wear_nodes import WearNodes
from almanac.services.outlook.fitted import FittedKind, WearFit, failures_of, school_of, side_events
from almanac.services.outlook.fleet_change import PlannedParts, ServiceChanges, service_changes
from almanac.services.outlook.followed import BESIDE, FollowedUnit, crossings_of, replaced, units_of, without
from almanac.services.outlook.inputs import DemandInputs
from almanac.services.outlook.part_tables import OLDEST_YEARS, TablesOfParts
from almanac.services.outlook.pools import Pool
from almanac.services.outlook.positions import Positions, positions_of

YEAR = 365
"""Days over whose time in service the pools of a part are weighed against one another."""


@dataclass(frozen=True)
class KindEvidence:
    """What the pools of a kind share."""

    record: KindRecord
    nodes: KindNodes | None
    side: tuple[SideRates, ...]
    dead_on_arrival: float
    fit: WearFit | None
    school: School
    stated: Stated | None = None


@dataclass(frozen=True)
class PartLaw:
    """A stock part's law over the chosen sites, with the pools it is made of."""

    pools: list[Pool]
    records: list[PoolRecord]
    units: checks.Floats
    law: DemandLaw


class LawBook:
    """Laws of some stock parts of a kind: made for one computation, each law when it is asked for."""

    def __init__(self, inputs: DemandInputs, fitted: FittedKind) -> None:
        self.inputs, self.fitted = inputs, fitted
        self._laws: dict[int, PartLaw | None] = {}

    @cached_property
    def changes(self) -> ServiceChanges:
        """Units in service now and how they will change."""
        return service_changes(self.inputs)

    @cached_property
    def records(self) -> dict[Pool, PoolRecord]:
        """Record of every pool that has tenures or units."""
        own = set(self.inputs.parts)
        pools = {*(pool for pool in self.fitted.records if pool.part_id in own), *(pool for pool, *_ in self.changes.changes)}
        return {pool: self.fitted.records.get(pool) or pool_record([]) for pool in sorted(pools)}

    @cached_property
    def pools_of(self) -> dict[int, list[Pool]]:
        """Pools of each stock part."""
        found: dict[int, list[Pool]] = defaultdict(list)
        for pool in self.records:
            found[pool.part_id].append(pool)
        return found

    @property
    def horizon_days(self) -> int:
        return self.inputs.horizon_days

    @cached_property
    def exposure(self) -> tuple[dict[tuple[Pool, int], int], checks.Floats]:
        """Unit-years in service by day, and the row of each (pool, site); row 0 is nobody's and stays zero."""
        rows: dict[tuple[Pool, int], int] = {}
        row = [rows.setdefault((pool, site), len(rows) + 1) for pool, site, *_ in self.changes.changes]
        day = [change[2] for change in self.changes.changes]
        size = [change[3] for change in self.changes.changes]
        return rows, cumulative_exposure(row, day, size, rows=len(rows) + 1, horizon_days=self.horizon_days)

    @cached_property
    def evidence(self) -> KindEvidence:
        """What the kind's pools share, over all sites."""
        record = self.fitted.record
        return KindEvidence(
            record=record,
            nodes=self.fitted.nodes,
            side=self.fitted.side,
            dead_on_arrival=dead_on_arrival_probability(record.dead_on_arrival, record.fittings),
            fit=self.fitted.wear,
            school=school_of(self.fitted.wear, self.inputs.school),
            stated=self.fitted.stated,
        )

    @cached_property
    def tables(self) -> TablesOfParts | None:
        """Tables of the lives of the kind's parts, as far as its fleet and the horizon ask for."""
        return self._tables(self.evidence.school.wear_out or 1.0)

    def _tables(self, share: float) -> TablesOfParts | None:
        return TablesOfParts(self.fitted.wear, self.inputs.oldest_years, self.horizon_days, share) if self.fitted.wear is not None else None

    @cached_property
    def own_days(self) -> checks.Floats | None:
        """(h + 1,) days of ageing of the kind's parts until each coming day; None where they age as the calendar goes."""
        return own_days(self.inputs.spells, horizon_days=self.horizon_days) if self.inputs.spells else None

    @cached_property
    def positions(self) -> dict[int, Positions]:
        """Ages of what is in service, of every stock part."""
        return positions_of(self.inputs, self.changes, self.fitted.lasting)

    @cached_property
    def followed(self) -> dict[int, list[FollowedUnit]]:
        """Units whose wear is followed by readings, of every stock part that has some."""
        return units_of(self.inputs)

    def failures(self, pool: Pool) -> float:
        """Wear-out failures of a pool: confirmed ones, and open ones at the kind's settled share."""
        return failures_of(self.records[pool], self.fitted.record.share.share)

    def side_of(self, pools: list[Pool], years: checks.Floats) -> tuple[SideStream, ...]:
        """Damage and suspicion of some pools that are so many unit-years in service in the coming year, (p,)."""
        return tuple(stream.stream(*self._seen(stream.name, pools), years) for stream in self.evidence.side)

    def side_by_pool(self, pools: list[Pool]) -> dict[str, tuple[checks.Floats, checks.Floats]]:
        """Of damage, and of draws without a fault, (p,) events seen in each pool and how many are expected a unit-year."""
        seen = [(stream, self._seen(stream.name, pools)) for stream in self.evidence.side]
        return {stream.name: (events, stream.means(events, years)) for stream, (events, years) in seen}

    def _seen(self, name: str, pools: list[Pool]) -> tuple[checks.Floats, checks.Floats]:
        """(p,) events of a stream in each pool, and unit-years."""
        share = self.fitted.record.share.share
        events = np.array([side_events(name, self.records[pool], share) for pool in pools], dtype=np.float64)
        return events, np.array([self.records[pool].exposure_years for pool in pools], dtype=np.float64)

    def part_law(self, part_id: int) -> PartLaw | None:
        """The law of a stock part over the chosen sites; None while its kind has no record, or the log is empty and nothing is stated."""
        if part_id not in self._laws:
            self._laws[part_id] = self._part_law(part_id)
        return self._laws[part_id]

    def _part_law(self, part_id: int) -> PartLaw | None:
        pools = self.pools_of.get(part_id, [])
        if self.evidence.nodes is None or not pools or not (self.inputs.logged or self.fitted.stated):
            return None
        chosen = set(self.inputs.chosen)
        law = self._law(part_id, pools, chosen, near_days=self.inputs.near_days)
        units = np.array([sum(self.changes.now.get((pool, site), 0.0) for site in chosen) for pool in pools])
        return PartLaw(pools, [self.records[pool] for pool in pools], units, law)

    def constant_law(self, part_id: int) -> DemandLaw | None:
        """The part's law in the constant school, whatever its kind takes: what the schools are compared with."""
        pools = self.pools_of.get(part_id, [])
        if self.evidence.nodes is None or not pools:
            return None
        return self._level(part_id, pools, set(self.inputs.chosen), near_days=self.inputs.near_days)

    def aged_law(self, part_id: int) -> DemandLaw | None:
        """The part's law in the wear-out school; None where its kind has no failure to learn from."""
        pools = self.pools_of.get(part_id, [])
        if not pools or self.fitted.wear is None:
            return None
        tables = self._tables(1.0) if self.evidence.school.averaged else self.tables
        return self._aged(part_id, pools, set(self.inputs.chosen), tables, near_days=self.inputs.near_days)

    def _law(self, part_id: int, pools: list[Pool], sites: set[int], *, near_days: int) -> DemandLaw:
        aged = self._aged(part_id, pools, sites, self.tables, near_days=near_days) if self.evidence.school.wear_out > 0 else None
        return aged or self._level(part_id, pools, sites, near_days=near_days)

    def _level(self, part_id: int, pools: list[Pool], sites: set[int], *, near_days: int) -> DemandLaw:
        """One constant rate, whatever a unit's age, save for units that are followed by readings."""
        constant = self._constant(part_id, pools, sites)
        lots = any(pool.lot for pool in pools)
        if (not lots and not self._followed_at(part_id, sites)) or self.evidence.nodes is None:
            return constant
        tables = self._level_tables(constant, pools)
        return self._with_ages(part_id, pools, constant, (tables, np.arange(len(pools))), sites, near_days=near_days)

    def _level_tables(self, constant: DemandLaw, pools: list[Pool]) -> LifeTables:
        """A constant rate is a life of shape 1; a lot of its own lives as much faster as it fails more often."""
        nodes, ratio = constant.nodes, np.array([self.fitted.lots.get(pool, 1.0) for pool in pools])
        years = np.tile(constant.exposure_years * ratio, (nodes.weight.size, 1))
        wear = WearNodes(nodes.weight, np.ones(nodes.weight.size), nodes.shape, nodes.rate, years)
        return life_tables(wear, constant.failures, oldest_years=OLDEST_YEARS, horizon_days=self.horizon_days, log_pace=np.log(ratio))

    def _followed_at(self, part_id: int, sites: set[int]) -> list[FollowedUnit]:
        """Units that readings speak for at some sites."""
        return [unit for unit in self.followed.get(part_id, []) if unit.followed.row.site_id in sites and unit.days is not None]

    def _constant(self, part_id: int, pools: list[Pool], sites: set[int]) -> DemandLaw:
        evidence = self.evidence
        assert evidence.nodes is not None
        rows, table = self.exposure
        in_service = table[[[rows.get((pool, site), 0) for site in sites] for pool in pools]].sum(axis=1)
        return DemandLaw(
            nodes=evidence.nodes,
            failures=np.array([self.failures(pool) for pool in pools]),
            exposure_years=np.array([self.records[pool].exposure_years for pool in pools]),
            in_service=in_service,
            side=self.side_of(pools, in_service[:, min(YEAR, self.horizon_days)]),
            dead_on_arrival=evidence.dead_on_arrival,
            planned_swaps=_cumulative(self._planned(self.changes.swaps, part_id, sites), self.horizon_days),
            planned_fittings=_cumulative(self._planned(self.changes.fittings, part_id, sites), self.horizon_days),
            own_days=self.own_days,
        )

    def _aged(self, part_id: int, pools: list[Pool], sites: set[int], tables: TablesOfParts | None, *, near_days: int) -> DemandLaw | None:
        own = tables.of(part_id) if tables is not None else None
        if own is None or self.evidence.nodes is None:
            return None
        known = np.array([own.rows.get(pool, own.blank) for pool in pools], dtype=np.int64)
        return self._with_ages(part_id, pools, self._constant(part_id, pools, sites), (own.tables, known), sites, near_days=near_days)

    def _with_ages(
        self,
        part_id: int,
        pools: list[Pool],
        constant: DemandLaw,
        lives: tuple[LifeTables, NDArray[np.int64]],
        sites: set[int],
        *,
        near_days: int,
    ) -> WearLaw:
        """A law by positions: tables of lives and the rows of the pools in them; followed units by their readings."""
        tables, known = lives
        own = self.positions.get(part_id, Positions.none()).at(sites)
        here = self._followed_at(part_id, sites)
        crossing = crossings_of(here, pools)
        if crossing is not None and self.inputs.kind not in BESIDE:
            own = without(own, here).joined(replaced(crossing, pools, here[0].followed.row.site_id, self.horizon_days))
        enter, leave = (_in_own_days(days, constant.own_days) for days in (own.enter_day, own.leave_day))
        rows = age_groups(own.row_of(pools), own.age_years, own.units, enter, leave)
        return wear_law(constant, WearOut(tables, known, rows, crossing), near_days=0 if self.inputs.one_look else near_days)

    def site_laws(self, part_id: int, sites: list[int]) -> dict[int, DemandLaw]:
        """The law of a stock part at each of some sites, where its lives count by age or age faster for a spell; none otherwise."""
        whole = self.part_law(part_id)
        if whole is None or not (isinstance(whole.law, WearLaw) or whole.law.own_days is not None):
            return {}
        return {site: self._law(part_id, whole.pools, {site}, near_days=0) for site in sites}

    def site_pmf(self, part_id: int, law: PartLaw, until_day: dict[int, int]) -> checks.Floats:
        """(s, n) distribution of each site's own demand until a day, under a law that knows no ages, in the order of `until_day`."""
        rows, table = self.exposure
        exposure = [table[[rows.get((pool, site), 0) for pool in law.pools], day] for site, day in until_day.items()]
        swaps = [_until(self._planned(self.changes.swaps, part_id, {site}), day) for site, day in until_day.items()]
        fittings = [_until(self._planned(self.changes.fittings, part_id, {site}), day) for site, day in until_day.items()]
        return law.law.pmf_of(law.law.windows_of(exposure, swaps, fittings))

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
