"""How packs and drives fade: curves of part groups from all their units' readings together, and when each unit crosses."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date
from typing import ClassVar

import numpy as np

from almanac.core import checks
from almanac.core.answers.question import Named, Question
from almanac.core.life.fade.curves import KNEE, LEVEL, STRAIGHT
from almanac.core.life.fade.forecast import DAYS_PER_YEAR, Faded, fade
from almanac.core.life.fade.packs import Packs, packs
from almanac.core.life.fade.population import START_SD, Population
from almanac.store.readings import Followed

ENOUGH_READINGS, ENOUGH_UNITS = 3, 5
"""A part of its own is one of which so many units have so many readings; those of the others are taken together."""
SMALLEST, LARGEST = 1e-3, 2.0
DRAWS = 200
DRAWN_UNITS = 400
BAND_STEP = 0.25
LIMITS = (0.05, 0.5, 0.95)


@dataclass(frozen=True)
class FadeBand:
    """Shares of new units of a part group as they age: (a,) years, and (3, a) 5, 50 and 95% of units.

    knee : (3,) years after which they fade faster, over the curves that bend; None where straight ones carry all but a twentieth
    steeper : how many times as fast then
    """

    years: checks.Floats
    shares: checks.Floats
    knee: tuple[float, float, float] | None
    steeper: float | None


@dataclass(frozen=True)
class FadedPart:
    """Units of a stock part with readings: tenure, (k, n) days from today to the crossing, and the band of its group.

    weight : how much each curve carries · together : its readings are too few by themselves, and taken with other parts of the kind
    due : (n,) whether the last readings lie below the threshold already
    """

    tenures: tuple[int, ...]
    days: checks.Floats
    due: np.ndarray
    weight: Mapping[str, float]
    band: FadeBand
    together: bool

    @property
    def place(self) -> dict[int, int]:
        """Column of each tenure."""
        return {tenure: column for column, tenure in enumerate(self.tenures)}


NO_FADE: Mapping[int, FadedPart] = {}


@dataclass(frozen=True)
class FadeOfKind(Question[dict[int, FadedPart]]):
    """A kind's followed units by stock part: (Followed, ...) of each of its part numbers; the share at which each is worn."""

    NAME: ClassVar[str] = "fade"
    VERSION: ClassVar[int] = 1
    today: date
    followed: Mapping[int, tuple[Named, ...]]
    worn: Mapping[int, float]

    def compute(self) -> dict[int, FadedPart]:
        units = {part: [unit for piece in pieces for unit in piece.content] for part, pieces in self.followed.items()}
        groups = _groups(units)
        found: dict[int, FadedPart] = {}
        for threshold in sorted({self.worn[part] for group in groups for part in group}):
            serving = [[unit for part in group for unit in units[part] if not _due(unit, threshold)] for group in groups]
            told = [place for place, own in enumerate(serving) if own]
            faded = dict(zip(told, fade([self._packs(serving[place]) for place in told], threshold), strict=True)) if told else {}
            for place, group in enumerate(groups):
                for part in group:
                    if self.worn[part] == threshold and place in faded:
                        found[part] = _of_part(units[part], serving[place], faded[place], threshold, together=len(group) > 1)
        return found

    def _packs(self, units: list[Followed]) -> Packs:
        unit, year, share = [], [], []
        now = np.array([unit.row.age_days / DAYS_PER_YEAR if _dated(unit) else _since_first(unit, self.today) for unit in units])
        for place, own in enumerate(units):
            for reading in own.readings:
                unit.append(place)
                year.append(max(float(now[place]) - (self.today - reading.day).days / DAYS_PER_YEAR, 0.0))
                share.append(min(max(reading.share, SMALLEST), LARGEST))
        return packs(unit, year, share, now, np.array([_dated(own) for own in units]))


def _groups(units: Mapping[int, list[Followed]]) -> list[tuple[int, ...]]:
    """Part groups whose readings tell by themselves, and the other parts with at least one unit that does, as one."""
    told = {part: sum(len(unit.readings) >= ENOUGH_READINGS for unit in own) for part, own in units.items()}
    alone = [(part,) for part in sorted(units) if told[part] >= ENOUGH_UNITS]
    rest = tuple(part for part in sorted(units) if 0 < told[part] < ENOUGH_UNITS)
    return [*alone, *((rest,) if rest else ())]


def _dated(unit: Followed) -> bool:
    """Whether its age is known."""
    return unit.row.age_span == 0


def _since_first(unit: Followed, today: date) -> float:
    return (today - unit.readings[0].day).days / DAYS_PER_YEAR


def _due(unit: Followed, threshold: float) -> bool:
    """Whether its last readings lie below the threshold: the middle one of the last three, so that no single one decides."""
    return float(np.median([reading.share for reading in unit.readings[-3:]])) <= threshold


def _of_part(units: list[Followed], serving: list[Followed], faded: Faded, threshold: float, *, together: bool) -> FadedPart:
    column = {unit.row.tenure_id: place for place, unit in enumerate(serving)}
    due = np.array([unit.row.tenure_id not in column for unit in units])
    days = np.zeros((faded.crosses.shape[0], len(units)))
    for place, unit in enumerate(units):
        if not due[place]:
            days[:, place] = np.maximum(faded.crosses[:, column[unit.row.tenure_id]], 0.0)
    tenures = tuple(unit.row.tenure_id for unit in units)
    oldest = max(unit.row.age_days for unit in units) / DAYS_PER_YEAR
    return FadedPart(tenures, days, due, dict(faded.weight), _band(faded, oldest + 1.0, threshold), together)


def _band(faded: Faded, until: float, threshold: float) -> FadeBand:
    """What new units of the group do, drawn from the curves by how much each carries."""
    chance = np.random.default_rng(17)
    years = np.arange(0.0, until + BAND_STEP, BAND_STEP)
    rows, knees, weights = [], [], []
    for curve in (STRAIGHT, LEVEL, KNEE):
        many = round(DRAWN_UNITS * faded.weight[curve])
        if many == 0:
            continue
        shares, knee = _drawn(faded.populations[curve], many, years, chance)
        rows.append(shares)
        if curve != STRAIGHT:
            knees.append(knee)
            weights.append((faded.weight[curve], float(np.exp(faded.populations[curve].steeper))))
    shares = np.clip(np.quantile(np.concatenate(rows), LIMITS, axis=0), threshold / 2, 1.1)
    if faded.weight[STRAIGHT] > 0.95 or not knees:
        return FadeBand(years, shares, None, None)
    low, middle, high = (float(value) for value in np.quantile(np.concatenate(knees), LIMITS))
    steeper = sum(weight * times for weight, times in weights) / sum(weight for weight, _ in weights)
    return FadeBand(years, shares, (low, middle, high), steeper)


def _drawn(population: Population, many: int, years: checks.Floats, chance: np.random.Generator) -> tuple[checks.Floats, checks.Floats]:
    """(n, a) shares of new units, and (n,) the year after which each fades faster."""
    log_fall = population.fall + population.fall_sd * chance.standard_normal(many)
    log_knee = np.zeros(many)
    if population.curve == KNEE:
        mean, sd = population.knee_given(log_fall)
        log_knee = mean + sd * chance.standard_normal(many)
    start = 1.0 + START_SD * chance.standard_normal(many)
    paths = population.paths(start, log_fall, log_knee, np.zeros(many))
    late = np.maximum(years[None] - paths.knee[:, None], 0.0)
    shares = paths.start[:, None] - paths.fall[:, None] * (years[None] + (paths.steeper - 1.0) * late)
    return np.asarray(shares), np.asarray(paths.knee)
