"""How old what is in service is, and when it leaves: positions by stock part, pool and site, with the fleet's plans applied."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from almanac.core import checks
from almanac.core.life.outcomes import DEAD_ON_ARRIVAL_DAYS
from almanac.services.outlook.fleet_change import NEVER, Pool, ServiceChanges
from almanac.services.outlook.inputs import Inputs
from almanac.store.models import FleetPlan

DAYS_PER_YEAR = 365.25
FIRST_AGE_YEARS = DEAD_ON_ARRIVAL_DAYS / DAYS_PER_YEAR
"""A new part's wear-out begins when it can no longer be dead on arrival."""


@dataclass
class Aged:
    """Units alike: age on day 0 (or on entering), the days they enter and leave service, and how many."""

    pool: Pool
    site: int
    age_years: float
    enter_day: float
    leave_day: float
    units: float


@dataclass(frozen=True)
class Positions:
    """Rows of one stock part, as arrays."""

    pools: list[Pool]
    site: NDArray[np.int64]
    age_years: checks.Floats
    enter_day: checks.Floats
    leave_day: checks.Floats
    units: checks.Floats

    @classmethod
    def none(cls) -> Positions:
        """No unit in service."""
        return cls.of([])

    @classmethod
    def of(cls, rows: list[Aged]) -> Positions:
        """Rows as arrays."""
        return cls(
            pools=[row.pool for row in rows],
            site=np.array([row.site for row in rows], dtype=np.int64),
            age_years=np.array([row.age_years for row in rows], dtype=np.float64),
            enter_day=np.array([row.enter_day for row in rows], dtype=np.float64),
            leave_day=np.array([row.leave_day for row in rows], dtype=np.float64),
            units=np.array([row.units for row in rows], dtype=np.float64),
        )

    def at(self, sites: set[int]) -> Positions:
        """Those at some sites."""
        kept = np.isin(self.site, list(sites))
        return Positions(
            pools=[pool for pool, keep in zip(self.pools, kept, strict=True) if keep],
            site=self.site[kept],
            age_years=self.age_years[kept],
            enter_day=self.enter_day[kept],
            leave_day=self.leave_day[kept],
            units=self.units[kept],
        )

    def joined(self, other: Positions) -> Positions:
        """These and others."""
        arrays = {
            name: np.concatenate((getattr(self, name), getattr(other, name)))
            for name in ("site", "age_years", "enter_day", "leave_day", "units")
        }
        return Positions(pools=[*self.pools, *other.pools], **arrays)

    def row_of(self, pools: list[Pool]) -> NDArray[np.int64]:
        """Place of each row's pool in a list."""
        place = {pool: row for row, pool in enumerate(pools)}
        return np.array([place[pool] for pool in self.pools], dtype=np.int64)


def positions_of(inputs: Inputs, changes: ServiceChanges) -> dict[int, Positions]:
    """Positions of every stock part: in service now, brought forward by early retirements, and added by purchases."""
    air = {site.id: site.environment for site in inputs.sites}
    rows = [
        Aged(
            Pool(inputs.group[row.part_id], row.model_id, row.duty, air[row.site_id]),
            row.site_id,
            row.age_days / DAYS_PER_YEAR,
            0.0,
            float(row.retire_day) if row.retire_day is not None else np.inf,
            float(row.units),
        )
        for row in inputs.ages.served
        if row.part_id in inputs.group
    ]
    for plan in inputs.plans:
        if plan.action == "retire":
            rows = _retired_early(inputs, plan, rows)
    rows += [Aged(pool, site, FIRST_AGE_YEARS, float(day), np.inf, units) for pool, site, day, units in changes.changes if day > 0 < units]
    found: dict[int, list[Aged]] = defaultdict(list)
    for row in rows:
        found[row.pool.part_id].append(row)
    return {part: Positions.of(group) for part, group in found.items()}


def _retired_early(inputs: Inputs, plan: FleetPlan, rows: list[Aged]) -> list[Aged]:
    """Machines that would have gone soonest after the planned day go on it, the oldest of them first; a group is split where it must be."""
    machines = inputs.assets.get((plan.model_id, plan.duty, plan.site_id), 0)
    if machines == 0:
        return rows
    share, day = min(plan.quantity / machines, 1.0), float((plan.planned_on - inputs.clock.today).days)
    groups: dict[Pool, list[Aged]] = defaultdict(list)
    for row in rows:
        if (row.pool.model_id, row.pool.duty, row.site) == (plan.model_id, plan.duty, plan.site_id):
            groups[row.pool].append(row)
    added = []
    for group in groups.values():
        left = share * sum(row.units for row in group)
        for row in sorted((row for row in group if row.leave_day > day), key=lambda row: (min(row.leave_day, NEVER), -row.age_years)):
            moved = min(left, row.units)
            left -= moved
            row.units -= moved
            added.append(Aged(row.pool, row.site, row.age_years, row.enter_day, day, moved))
    return [row for row in [*rows, *added] if row.units > 0]
