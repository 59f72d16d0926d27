"""Units in service whose wear is followed by readings: when each crosses, and the units that age alone speaks for."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from almanac.core import checks
from almanac.core.demand.crossings import Crossings, crossings
from almanac.core.errors import NoEstimate
from almanac.core.life.wear import Crossing, WearLine, crossing
from almanac.core.parts.declared.kinds import WORN
from almanac.services.outlook.inputs import DemandInputs
from almanac.services.outlook.pools import DAYS_PER_YEAR, Pool
from almanac.services.outlook.positions import FIRST_AGE_YEARS, Positions
from almanac.store.readings import Followed

BESIDE = frozenset(kind for kind, worn in WORN.items() if worn.beside)
"""Kinds whose wear is a cause of its own: most drives die of something else, so that readings count beside age, not in its place."""
BIN_DAYS = 30


@dataclass(frozen=True)
class FollowedUnit:
    """A unit with readings.

    days : (k,) from today to its crossing, draws of its group's curves; None where too little is read of its kind, and its age speaks
    line, crosses : the straight line through its readings, which a person can check; where there is none `reason` says why
    today : days since its first reading
    """

    followed: Followed
    pool: Pool
    today: int
    line: WearLine | None
    crosses: Crossing | None
    reason: str
    days: checks.Floats | None = None

    @property
    def leave_day(self) -> float:
        return np.inf if self.followed.row.retire_day is None else float(self.followed.row.retire_day)


def units_of(inputs: DemandInputs) -> dict[int, list[FollowedUnit]]:
    """Units with readings by stock part, of the kinds whose readings are followed."""
    found: dict[int, list[FollowedUnit]] = {}
    air = inputs.grouping.air
    for number, leader in inputs.group.items():
        if leader not in inputs.worn or number not in inputs.fleets:
            continue
        fleet, faded = inputs.fleets[number], inputs.faded.content.get(leader)
        column = faded.place if faded is not None else {}
        for unit, line in zip(fleet.followed, fleet.lines, strict=True):
            pool = Pool(leader, unit.row.model_id, unit.row.duty, air[unit.row.site_id], unit.row.lot)
            today = (inputs.today - unit.readings[0].day).days
            days = faded.days[:, column[unit.row.tenure_id]] if faded is not None and unit.row.tenure_id in column else None
            found.setdefault(leader, []).append(replace(_unit(unit, line, pool, today, inputs.worn[leader]), days=days))
    for own in found.values():
        own.sort(key=lambda unit: unit.followed.row.tenure_id)
    return found


def _unit(unit: Followed, line: WearLine | NoEstimate, pool: Pool, today: int, threshold: float) -> FollowedUnit:
    if isinstance(line, NoEstimate):
        return FollowedUnit(unit, pool, today, None, None, str(line))
    try:
        return FollowedUnit(unit, pool, today, line, crossing(line, threshold), "")
    except NoEstimate as error:
        return FollowedUnit(unit, pool, today, line, None, str(error))


def crossings_of(units: list[FollowedUnit], pools: list[Pool]) -> Crossings | None:
    """Units that readings speak for as arrays over a part's pools; None where there is none."""
    told = [(unit, unit.days) for unit in units if unit.days is not None]
    if not told:
        return None
    place = {pool: row for row, pool in enumerate(pools)}
    days = np.column_stack([days for _, days in told])
    return crossings([place[unit.pool] for unit, _ in told], days, [unit.leave_day for unit, _ in told])


def without(positions: Positions, units: list[FollowedUnit]) -> Positions:
    """Positions less the followed units, each taken from those of its pool and site that are nearest in age."""
    left = positions.units.copy()
    here: dict[tuple[Pool, int], list[int]] = {}
    for row, (pool, site, enter) in enumerate(zip(positions.pool.tolist(), positions.site.tolist(), positions.enter_day, strict=True)):
        if enter <= 0:
            here.setdefault((positions.pools[pool], site), []).append(row)
    for unit in units:
        rows = np.array(here.get((unit.pool, unit.followed.row.site_id), []), dtype=np.int64)
        rows = rows[left[rows] > 0]
        if rows.size:
            gap = np.abs(positions.age_years[rows] - unit.followed.row.age_days / DAYS_PER_YEAR)
            # Of equal ages the one whose machine leaves when this unit's does.
            gap = gap + 1e-3 * (np.minimum(positions.leave_day[rows], 1e6) != min(unit.leave_day, 1e6))
            nearest = rows[int(np.argmin(gap))]
            left[nearest] = max(left[nearest] - 1.0, 0.0)
    return replace(positions, units=left)


def replaced(followed: Crossings, pools: list[Pool], site: int, horizon_days: int) -> Positions:
    """The new parts that will take the place of followed ones, by month, as far as they are expected."""
    edges = np.arange(0, horizon_days + BIN_DAYS, BIN_DAYS, dtype=np.float64)
    gained = np.diff(followed.crossed(edges), axis=0)
    rows = []
    for row, pool in enumerate(pools):
        for start, units in zip(edges[:-1], gained[:, followed.pool == row].sum(axis=1), strict=True):
            if units > 1e-9:
                rows.append((pool, site, FIRST_AGE_YEARS, float(start + BIN_DAYS / 2), np.inf, float(units)))
    return Positions.of(rows)
