"""Units in service whose wear is followed by readings: their lines, and the units that age alone speaks for."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from almanac.core.demand.trends import Trends, trends
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
    """A unit with readings. Without a usable trend `crosses` is None and `reason` says why: its age speaks for it then.

    today : days since its first reading
    """

    followed: Followed
    pool: Pool
    today: int
    line: WearLine | None
    crosses: Crossing | None
    reason: str

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
        fleet = inputs.fleets[number]
        for unit, line in zip(fleet.followed, fleet.lines, strict=True):
            pool = Pool(leader, unit.row.model_id, unit.row.duty, air[unit.row.site_id], unit.row.lot)
            today = (inputs.today - unit.readings[0].day).days
            found.setdefault(leader, []).append(_unit(unit, line, pool, today, inputs.worn[leader]))
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


def trends_of(units: list[FollowedUnit], pools: list[Pool], threshold: float | None) -> Trends | None:
    """Units with a usable trend as arrays over a part's pools; None where there is none."""
    usable = [(unit, unit.line) for unit in units if unit.crosses is not None and unit.line is not None]
    if not usable or threshold is None:
        return None
    place = {pool: row for row, pool in enumerate(pools)}
    return trends(
        [place[unit.pool] for unit, _ in usable],
        [line for _, line in usable],
        [unit.today for unit, _ in usable],
        [unit.leave_day for unit, _ in usable],
        threshold=threshold,
    )


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


def replaced(followed: Trends, pools: list[Pool], site: int, horizon_days: int) -> Positions:
    """The new parts that will take the place of followed ones, by month, as far as they are expected."""
    edges = np.arange(0, horizon_days + BIN_DAYS, BIN_DAYS, dtype=np.float64)
    gained = np.diff(followed.crossed(edges), axis=0)
    rows = []
    for row, pool in enumerate(pools):
        for start, units in zip(edges[:-1], gained[:, followed.pool == row].sum(axis=1), strict=True):
            if units > 1e-9:
                rows.append((pool, site, FIRST_AGE_YEARS, float(start + BIN_DAYS / 2), np.inf, float(units)))
    return Positions.of(rows)
