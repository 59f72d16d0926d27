"""How packs and drives fade: what part groups' readings say, learnt anew as they grow, and when each unit crosses, by all its readings."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from typing import ClassVar, NamedTuple

import numpy as np

from almanac.core import checks
from almanac.core.answers.question import Named, Question
from almanac.core.life.fade.curves import CURVES, KNEE, STRAIGHT
from almanac.core.life.fade.forecast import DAYS_PER_YEAR, DRAWS, Learnt, follow, learn
from almanac.core.life.fade.packs import Packs, packs
from almanac.core.life.fade.population import START_SD, Population
from almanac.store.readings import Followed, ReadRow

ENOUGH_READINGS, ENOUGH_UNITS = 3, 5
"""A part of its own is one of which so many units have so many readings; those of the others are taken together."""
SMALLEST, LARGEST = 1e-3, 2.0
DRAWN_UNITS = 400
BAND_STEP = 0.25
LIMITS = (0.05, 0.5, 0.95)
HARDLY_BENDS = 0.95


MOST_OF = 2 / 3
"""Readings of before a half-year that say enough, as a share of those of before the month."""


class ReadUnit(NamedTuple):
    """A unit in service and what was read of it by some day: its age then, which may be less by `age_span` days."""

    tenure: int
    day: date
    age_days: int
    age_span: int
    readings: tuple[ReadRow, ...]


def read_units(followed: Iterable[Followed], today: date) -> tuple[ReadUnit, ...]:
    """Units with all their readings until today."""
    return tuple(ReadUnit(one.row.tenure_id, today, one.row.age_days, one.row.age_span, one.readings) for one in followed)


def settled_units(followed: Iterable[Followed], today: date) -> tuple[ReadUnit, ...]:
    """Units as they stood on an earlier day: what a part group is learnt from, so that no new reading moves it.

    That day is the first of the half-year, so that what takes long is done twice a year; while most was read since, that of the month.
    """
    units = read_units(followed, today)
    month = today.replace(day=1)
    by_month = _as_of(units, month)
    by_half = _as_of(units, month.replace(month=1 if month.month < 7 else 7))
    return by_half if _readings(by_half) >= MOST_OF * _readings(by_month) else by_month


def _as_of(units: Sequence[ReadUnit], day: date) -> tuple[ReadUnit, ...]:
    found = []
    for one in units:
        readings = tuple(reading for reading in one.readings if reading.day < day)
        if readings:
            found.append(one._replace(day=day, age_days=one.age_days - (one.day - day).days, readings=readings))
    return tuple(found)


def _readings(units: Sequence[ReadUnit]) -> int:
    return sum(len(one.readings) for one in units)


@dataclass(frozen=True)
class FadeBand:
    """Shares of new units of a part group as they age: (a,) years, and (3, a) 5, 50 and 95% of units.

    knee : years after which they fade faster, over the curves that bend; None where straight ones carry all but a twentieth
    steeper : how many times as fast then
    """

    years: checks.Floats
    shares: checks.Floats
    knee: tuple[float, float, float] | None
    steeper: float | None


class PartCurves(NamedTuple):
    """What is learnt of a stock part. together : its readings are too few by themselves, and taken with other parts of the kind"""

    learnt: Learnt
    together: bool


@dataclass(frozen=True)
class FadedPart:
    """Units of a stock part that readings speak for: tenure, and (k, n) days from today to the crossing, 0 where it is due.

    curves, band : None where too little is read to learn from, and only what is due is told
    """

    tenures: tuple[int, ...]
    days: checks.Floats
    curves: PartCurves | None
    band: FadeBand | None

    @property
    def place(self) -> dict[int, int]:
        """Column of each tenure."""
        return {tenure: column for column, tenure in enumerate(self.tenures)}


@dataclass(frozen=True)
class LearntFade(Question[dict[int, PartCurves]]):
    """A kind's earlier readings by stock part, ReadUnit of each part number; the share at which each is worn."""

    NAME: ClassVar[str] = "fade curves"
    VERSION: ClassVar[int] = 3
    settled: Mapping[int, tuple[Named, ...]]
    worn: Mapping[int, float]

    def compute(self) -> dict[int, PartCurves]:
        units = _contents(self.settled)
        groups = _groups(units)
        found: dict[int, PartCurves] = {}
        for threshold in sorted({self.worn[part] for group in groups for part in group}):
            serving = [[unit for part in group for unit in units[part] if not _due(unit, threshold)] for group in groups]
            told = [group for group, own in zip(groups, serving, strict=True) if own]
            learnt = learn([_packs(own) for own in serving if own], threshold)
            for group, curves in zip(told, learnt, strict=True):
                found |= {part: PartCurves(curves, len(group) > 1) for part in group if self.worn[part] == threshold}
        return found


@dataclass(frozen=True)
class FadeOfKind(Question[dict[int, FadedPart]]):
    """A kind's followed units by stock part, ReadUnit of each part number; the share at which each is worn; and LearntFade."""

    NAME: ClassVar[str] = "fade"
    VERSION: ClassVar[int] = 3
    followed: Mapping[int, tuple[Named, ...]]
    worn: Mapping[int, float]
    learnt: Named

    def compute(self) -> dict[int, FadedPart]:
        units = _contents(self.followed)
        found = {part: _part(own, self.learnt.content.get(part), self.worn[part]) for part, own in units.items()}
        return {part: faded for part, faded in found.items() if faded.tenures}


def _contents(pieces: Mapping[int, tuple[Named, ...]]) -> dict[int, list[ReadUnit]]:
    return {part: [unit for piece in own for unit in piece.content] for part, own in pieces.items()}


def _groups(units: Mapping[int, list[ReadUnit]]) -> list[tuple[int, ...]]:
    """Part groups whose readings tell by themselves, and the other parts with at least one unit that does, as one."""
    told = {part: sum(len(unit.readings) >= ENOUGH_READINGS for unit in own) for part, own in units.items()}
    alone = [(part,) for part in sorted(units) if told[part] >= ENOUGH_UNITS]
    rest = tuple(part for part in sorted(units) if 0 < told[part] < ENOUGH_UNITS)
    return [*alone, *((rest,) if rest else ())]


def _packs(units: list[ReadUnit]) -> Packs:
    """Readings on each unit's own clock: its age, or the time since its first reading where nobody knows that."""
    unit, year, share = [], [], []
    dated = np.array([own.age_span == 0 for own in units])
    days = [own.age_days if own.age_span == 0 else (own.day - own.readings[0].day).days for own in units]
    now = np.array(days) / DAYS_PER_YEAR
    for place, own in enumerate(units):
        for reading in own.readings:
            unit.append(place)
            year.append(max(days[place] - (own.day - reading.day).days, 0) / DAYS_PER_YEAR)
            share.append(min(max(reading.share, SMALLEST), LARGEST))
    return packs(unit, year, share, now, dated)


def _due(unit: ReadUnit, threshold: float) -> bool:
    """Whether its last readings lie below the threshold: the middle one of the last three, so that no single one decides."""
    return float(np.median([reading.share for reading in unit.readings[-3:]])) <= threshold


def _part(units: list[ReadUnit], curves: PartCurves | None, threshold: float) -> FadedPart:
    due = [unit for unit in units if _due(unit, threshold)]
    serving = [unit for unit in units if not _due(unit, threshold)] if curves is not None else []
    days = np.zeros((DRAWS, len(due) + len(serving)))
    if serving and curves is not None:
        days[:, len(due) :] = np.maximum(follow(_packs(serving), curves.learnt, threshold).crosses, 0.0)
    oldest = max(unit.age_days for unit in units) / DAYS_PER_YEAR
    band = None if curves is None else _band(curves.learnt, oldest + 1.0, threshold)
    return FadedPart(tuple(unit.tenure for unit in (*due, *serving)), days, curves, band)


def _band(learnt: Learnt, until: float, threshold: float) -> FadeBand:
    """What new units of the group do, drawn from the curves by how much each carries."""
    chance = np.random.default_rng(17)
    years = np.arange(0.0, until + BAND_STEP, BAND_STEP)
    rows, knees, bending = [], [], []
    for curve in (one for one in CURVES if one in learnt.populations):
        mean = learnt.mean(curve)
        shares, knee = _drawn(mean, max(round(DRAWN_UNITS * learnt.weight[curve]), 1), years, chance)
        rows.append(shares)
        if curve != STRAIGHT:
            knees.append(knee)
            bending.append((learnt.weight[curve], float(np.exp(mean.steeper))))
    shares = np.clip(np.quantile(np.concatenate(rows), LIMITS, axis=0), threshold / 2, 1.1)
    if learnt.weight[STRAIGHT] > HARDLY_BENDS or not knees:
        return FadeBand(years, shares, None, None)
    low, middle, high = (float(value) for value in np.quantile(np.concatenate(knees), LIMITS))
    steeper = sum(weight * times for weight, times in bending) / sum(weight for weight, _ in bending)
    return FadeBand(years, shares, (low, middle, high), steeper)


def _drawn(population: Population, many: int, years: checks.Floats, chance: np.random.Generator) -> tuple[checks.Floats, checks.Floats]:
    """(n, a) shares of new units, and (n,) the year after which each fades faster."""
    log_fall = population.fall + population.fall_sd * chance.standard_normal(many)
    log_knee = np.zeros(many)
    if population.curve == KNEE:
        mean, sd = population.knee_given(log_fall)
        log_knee = mean + sd * chance.standard_normal(many)
    paths = population.paths(1.0 + START_SD * chance.standard_normal(many), log_fall, log_knee, np.zeros(many))
    return paths.shares(years), np.asarray(paths.knee)
