"""The wear of a part's units that are followed by readings, and what that changes in its forecast."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta
from typing import NamedTuple

import numpy as np

from almanac.core.demand.age_groups import age_groups
from almanac.core.demand.wear_law import WearLaw
from almanac.core.demand.wear_out import WearOut
from almanac.services.outlook.builder import OutlookBuilder
from almanac.services.outlook.fade import LIMITS, FadedPart
from almanac.services.outlook.followed import BESIDE, FollowedUnit, crossings_of
from almanac.services.outlook.pools import DAYS_PER_YEAR, Pool
from almanac.services.outlook.projection import YEAR_DAYS

FARTHEST_DAYS = 20_000
"""Days further off than this are not named."""


@dataclass(frozen=True)
class Crossing:
    """The day a unit's line reaches the threshold, with Fieller's limits of 95%; a limit too far off to name is None."""

    day: date
    low: date
    high: date | None


class FadesOn(NamedTuple):
    """The day a unit crosses by its group's curves: 5, 50 and 95%; None where a day is too far off to name."""

    low: date | None
    middle: date | None
    high: date | None


@dataclass(frozen=True)
class WearUnit:
    """One unit: its readings by day, and when it crosses, or that its age speaks for it.

    fades : by the curves of its group, None where too little is read · crosses : by the straight line through its own readings alone
    due : its last readings lie below the threshold
    """

    unit: FollowedUnit
    fades: FadesOn | None
    crosses: Crossing | None
    due: bool


@dataclass(frozen=True)
class Wear:
    """Units with readings, soonest to cross first, and expected first failures in 365 days of those that readings speak for.

    faded : curves of the part's group, None where too little is read
    by_readings, by_age : under either view, the second in the school of the kind; None where readings speak for no unit
    beside : wear is a cause beside those that age speaks for, so that the forecast counts both; else readings take the place of age
    """

    threshold: float
    units: list[WearUnit]
    by_readings: float | None
    by_age: float | None
    beside: bool
    faded: FadedPart | None = None

    @property
    def usable(self) -> int:
        return sum(unit.fades is not None for unit in self.units)


def wear_of(builder: OutlookBuilder, part_number: str) -> Wear:
    """Wear of a stock part's units at the chosen sites.

    Raises
    ------
    NotFound : no stock part has that number
    """
    part = builder.inputs.part(part_number)
    book, today = builder.book(part.kind), builder.inputs.clock.today
    here = [unit for unit in book.followed.get(part.id, []) if unit.followed.row.site_id in builder.inputs.site_ids]
    faded = book.inputs.faded.content.get(part.id)
    shown = [WearUnit(unit, _fades(unit, today), _crossing(unit, today), _is_due(unit)) for unit in here]
    shown.sort(key=lambda row: (row.fades is None, _soonest(row), row.unit.followed.row.tag))
    threshold = book.inputs.worn.get(part.id, 0.0)
    usable = [row.unit for row in shown if row.fades is not None]
    law = book.part_law(part.id)
    crossing = crossings_of(usable, book.pools_of.get(part.id, []))
    if crossing is None or law is None or not isinstance(law.law, WearLaw):
        return Wear(threshold, shown, None, None, part.kind in BESIDE, faded)
    by_readings, by_age = float(crossing.crossed([YEAR_DAYS]).sum()), _by_age(law.law.wear, law.pools, usable)
    return Wear(threshold, shown, by_readings, by_age, part.kind in BESIDE, faded)


def _soonest(row: WearUnit) -> float:
    return float(np.median(row.unit.days)) if row.unit.days is not None else np.inf


def _is_due(unit: FollowedUnit) -> bool:
    return unit.days is not None and float(unit.days.max()) == 0.0


def _fades(unit: FollowedUnit, today: date) -> FadesOn | None:
    if unit.days is None:
        return None
    at = np.quantile(unit.days, LIMITS)
    return FadesOn(*(today + timedelta(days=round(float(day))) if day < FARTHEST_DAYS else None for day in at))


def _crossing(unit: FollowedUnit, today: date) -> Crossing | None:
    if unit.crosses is None:
        return None
    first = today - timedelta(days=unit.today)
    at = [first + timedelta(days=float(np.clip(day, -FARTHEST_DAYS, FARTHEST_DAYS))) for day in (unit.crosses.day, unit.crosses.low)]
    high = first + timedelta(days=unit.crosses.high) if unit.crosses.high < FARTHEST_DAYS else None
    return Crossing(at[0], at[1], high)


def _by_age(wear: WearOut, pools: list[Pool], units: list[FollowedUnit]) -> float:
    """What the same units would let expect without their readings: by their ages, or at one constant rate."""
    size, place = len(units), {pool: row for row, pool in enumerate(pools)}
    positions = age_groups(
        np.array([place[unit.pool] for unit in units]),
        np.array([unit.followed.row.age_days / DAYS_PER_YEAR for unit in units]),
        np.ones(size),
        np.zeros(size),
        np.array([unit.leave_day for unit in units]),
    )
    return float(WearOut(wear.kind, wear.pools, positions).mean_by_pool(np.array([[0.0, YEAR_DAYS]])).sum())
