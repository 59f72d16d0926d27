"""How old what is in service is, and when it leaves: positions by stock part, pool and site, with the fleet's plans applied."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from almanac.core import checks
from almanac.core.life.age_spans import AgeSpans, ages_today
from almanac.core.life.life_data import BIN_DAYS, DUTIES, ServedSpans
from almanac.core.life.outcomes import DEAD_ON_ARRIVAL_DAYS
from almanac.services.outlook.fitted import Lasting
from almanac.services.outlook.fleet_change import NEVER, ServiceChanges
from almanac.services.outlook.inputs import DemandInputs
from almanac.services.outlook.pools import DAYS_PER_YEAR, Pool
from almanac.store.planning import PlannedChange

FIRST_AGE_YEARS = DEAD_ON_ARRIVAL_DAYS / DAYS_PER_YEAR
"""A new part's wear-out begins when it can no longer be dead on arrival."""
Ints = NDArray[np.int64]
LEAST_UNITS = 1e-9
COLUMNS = ("pool", "site", "age_years", "enter_day", "leave_day", "units")


@dataclass(frozen=True)
class Positions:
    """Units alike, by row: their pool as its place in `pools`, site, age on day 0 or on entering, days they enter and leave, how many."""

    pools: tuple[Pool, ...]
    pool: Ints
    site: Ints
    age_years: checks.Floats
    enter_day: checks.Floats
    leave_day: checks.Floats
    units: checks.Floats

    @classmethod
    def none(cls) -> Positions:
        """No unit in service."""
        whole, real = np.empty(0, dtype=np.int64), np.empty(0)
        return cls((), whole, whole, real, real, real, real)

    @classmethod
    def of(cls, rows: Sequence[tuple[Pool, int, float, float, float, float]]) -> Positions:
        """Rows of pool, site, age, the days of entering and leaving, and units."""
        if not rows:
            return cls.none()
        place: dict[Pool, int] = {}
        pool = [place.setdefault(row[0], len(place)) for row in rows]
        others = [np.array(column, dtype=np.float64) for column in list(zip(*rows, strict=True))[2:]]
        return cls(tuple(place), np.array(pool, dtype=np.int64), np.array([row[1] for row in rows], dtype=np.int64), *others)

    def some(self, rows: Ints | NDArray[np.bool_]) -> Positions:
        """Some of the rows."""
        return Positions(self.pools, *(getattr(self, name)[rows] for name in COLUMNS))

    def at(self, sites: set[int]) -> Positions:
        """Those at some sites."""
        return self.some(np.isin(self.site, list(sites)))

    def joined(self, other: Positions) -> Positions:
        """These and others."""
        place = {pool: row for row, pool in enumerate(self.pools)}
        moved = np.array([place.setdefault(pool, len(place)) for pool in other.pools], dtype=np.int64)
        theirs = replace(other, pool=moved[other.pool] if other.pool.size else other.pool)
        return Positions(tuple(place), *(np.concatenate((getattr(self, name), getattr(theirs, name))) for name in COLUMNS))

    def row_of(self, pools: list[Pool]) -> Ints:
        """Place of each row's pool in a list."""
        place = {pool: row for row, pool in enumerate(pools)}
        known = np.array([place.get(pool, -1) for pool in self.pools], dtype=np.int64)
        return known[self.pool] if self.pool.size else self.pool


def positions_of(inputs: DemandInputs, changes: ServiceChanges, lasting: Lasting) -> dict[int, Positions]:
    """Positions of every stock part: in service now, brought forward by early retirements, and added by purchases.

    lasting : how ages that nobody knows are weighed
    """
    found = dict.fromkeys(inputs.parts, Positions.none())
    for number, leader in inputs.group.items():
        if number in inputs.fleets:
            found[leader] = found[leader].joined(_serving(inputs, number, leader)).joined(_spread(inputs, number, leader, lasting))
    for plan in inputs.plans:
        if plan.action == "retire":
            found = {part: _retired_early(inputs, plan, own) for part, own in found.items()}
    new: dict[int, list[tuple[Pool, int, float, float, float, float]]] = {}
    for pool, site, day, units in changes.changes:
        if day > 0 < units:
            new.setdefault(pool.part_id, []).append((pool, site, FIRST_AGE_YEARS, float(day), np.inf, units))
    for part, rows in new.items():
        found[part] = found.get(part, Positions.none()).joined(Positions.of(rows))
    return {part: own for part, own in found.items() if own.units.size}


def _serving(inputs: DemandInputs, number: int, leader: int) -> Positions:
    rows, air = inputs.fleets[number].served, inputs.grouping.air
    if rows.units.size == 0:
        return Positions.none()
    distinct, place = np.unique(np.column_stack((rows.model, rows.duty, rows.site, rows.lot)), axis=0, return_inverse=True)
    pools = tuple(Pool(leader, int(model), DUTIES[duty], air[int(site)], int(lot)) for model, duty, site, lot in distinct)
    size = rows.units.size
    leave = np.where(np.isnan(rows.retire_day), np.inf, rows.retire_day)
    return Positions(
        pools,
        place.ravel().astype(np.int64),
        rows.site,
        rows.age_days / DAYS_PER_YEAR,
        np.zeros(size),
        leave,
        rows.units.astype(np.float64),
    )


def _spread(inputs: DemandInputs, number: int, leader: int, lasting: Lasting) -> Positions:
    """Units whose age nobody knows, at every age they may be, weighed; those alike within a month of age together."""
    rows, air = inputs.fleets[number].spans, inputs.grouping.air
    if rows.units.size == 0:
        return Positions.none()
    leaves = np.where(np.isnan(rows.retire_day), np.inf, rows.retire_day)
    groups, place = np.unique(np.column_stack((rows.model, rows.duty, rows.site, rows.lot)), axis=0, return_inverse=True)
    found: list[tuple[Pool, int, float, float, float, float]] = []
    for number_of, (model, duty, site, lot) in enumerate(groups.tolist()):
        pool, own = Pool(leader, model, DUTIES[duty], air[site], lot), place.ravel() == number_of
        ages, share = ages_today(_spans(rows, own), *lasting.of(pool))
        leave = np.broadcast_to(leaves[own][:, None], ages.shape)
        found += [(pool, site, *row) for row in _by_month(ages, leave, share * rows.units[own][:, None])]
    return Positions.of(found)


def _spans(rows: ServedSpans, own: NDArray[np.bool_]) -> AgeSpans:
    low, high, watched = (column[own] / DAYS_PER_YEAR for column in (rows.low, rows.high, rows.watched))
    return AgeSpans(low, high, rows.first[own] == 1, watched, rows.units[own].astype(np.float64), np.zeros(low.size))


def _by_month(ages: checks.Floats, leave: checks.Floats, units: checks.Floats) -> list[tuple[float, float, float, float]]:
    """Mean age, day of entering, day of leaving and units of those alike within a month of age that leave on one day."""
    month = np.floor(ages * DAYS_PER_YEAR / BIN_DAYS)
    keys, place = np.unique(np.column_stack((leave.ravel(), month.ravel())), axis=0, return_inverse=True)
    many = np.bincount(place.ravel(), units.ravel(), keys.shape[0])
    old = np.bincount(place.ravel(), (ages * units).ravel(), keys.shape[0])
    kept = many > LEAST_UNITS
    return [
        (age, 0.0, gone, units)
        for age, gone, units in zip((old[kept] / many[kept]).tolist(), keys[kept, 0].tolist(), many[kept].tolist(), strict=True)
    ]


def _retired_early(inputs: DemandInputs, plan: PlannedChange, own: Positions) -> Positions:
    """Machines that would have gone soonest after the planned day go on it, the oldest of them first; a group is split where it must be."""
    machines = inputs.assets.get((plan.model_id, plan.duty, plan.site_id), 0)
    if machines == 0:
        return own
    share, day = min(plan.quantity / machines, 1.0), float((plan.planned_on - inputs.today).days)
    units, moved_rows, moved_units = own.units.copy(), [], []
    for place, pool in enumerate(own.pools):
        rows = np.flatnonzero((own.pool == place) & (own.site == plan.site_id))
        if (pool.model_id, pool.duty) != (plan.model_id, plan.duty) or rows.size == 0:
            continue
        left = share * float(units[rows].sum())
        for row in sorted(rows[own.leave_day[rows] > day], key=lambda row: (min(own.leave_day[row], NEVER), -own.age_years[row])):
            moved = min(left, float(units[row]))
            left -= moved
            units[row] -= moved
            moved_rows.append(row)
            moved_units.append(moved)
    gone = own.some(np.array(moved_rows, dtype=np.int64))
    gone = replace(gone, leave_day=np.full(gone.units.size, day), units=np.array(moved_units, dtype=np.float64))
    whole = replace(own, units=units).joined(gone)
    return whole.some(whole.units > 0)
