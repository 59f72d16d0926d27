"""Worlds of known truth, drawn without a line of the code that is held against them: numbers out of a random generator."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np

Lives = Callable[[np.random.Generator], float]
"""A life in years, drawn anew."""
LOG_YEARS = 3.0
"""Where ages may be unknown, the log began so many years ago."""


@dataclass
class World:
    """One kind in one company as its log has it, and the failures of the year to come.

    tenures : pool, entry or None, exit (or years under watch), failed, years before today it ended, and the oldest the part may have been
    units : pool, age or None, youngest and oldest it may be · coming : failures of the coming year by pool
    """

    pools: int
    tenures: list[tuple[int, float | None, float, bool, float, float]] = field(default_factory=list)
    units: list[tuple[int, float | None, float, float]] = field(default_factory=list)
    coming: np.ndarray = field(default_factory=lambda: np.zeros(0))

    def __post_init__(self) -> None:
        self.coming = np.zeros(self.pools)

    @property
    def failures(self) -> int:
        return sum(row[3] for row in self.tenures)


def position(world: World, pool: int, since: float, after: Callable[[float], float]) -> None:
    """A position filled so many years ago, its part replaced whenever it failed. after : the day a part that began on a day fails"""
    day = -since
    while True:
        end = after(day)
        if end >= 0:
            break
        world.tenures.append((pool, 0.0, end - day, True, -end, 0.0))
        day = end
    world.tenures.append((pool, 0.0, -day, False, 0.0, 0.0))
    world.units.append((pool, -day, -day, -day))
    while end < 1.0:
        world.coming[pool] += 1
        end = after(end)


def living(lives: Lives, chance: np.random.Generator) -> Callable[[float], float]:
    """Parts whose lives do not know the calendar."""
    return lambda day: day + lives(chance)


def weibull(shape: float, scale: float) -> Lives:
    return lambda chance: float(scale * chance.weibull(shape))


def lognormal(median: float, spread: float) -> Lives:
    return lambda chance: float(median * np.exp(spread * chance.normal()))


def cohort(chance: np.random.Generator, shape: float, failures: float) -> World:
    """Three pools of 120 parts fitted within a year, about so many failures so far."""
    world = World(3)
    since = chance.uniform(3.5, 4.5, (3, 120))
    level = failures / float((since**shape).sum())
    for pool in range(3):
        own = level * float(np.exp(0.3 * chance.normal()))
        for years in since[pool]:
            position(world, pool, float(years), living(weibull(shape, own ** (-1 / shape)), chance))
    return world


def lognormal_lives(chance: np.random.Generator, failures: float) -> World:
    """Lives with a hazard that falls again; the median is such that about so many fail in four years."""
    from math import erf, sqrt

    world, spread = World(3), 0.8
    share, low, high = failures / 360, -6.0, 0.0
    for _ in range(60):
        middle = (low + high) / 2
        low, high = (middle, high) if (1 + erf(middle / sqrt(2))) / 2 < share else (low, middle)
    median = 4.0 / float(np.exp(spread * low))
    for pool in range(3):
        for years in chance.uniform(3.5, 4.5, 120):
            position(world, pool, float(years), living(lognormal(median, spread), chance))
    return world


def one_defective(chance: np.random.Generator) -> World:
    """Three models that wear out and one that dies early."""
    world = World(4)
    for pool, lives in enumerate((weibull(0.7, 8.0), weibull(3.0, 6.0), weibull(3.0, 6.0), weibull(3.0, 6.0))):
        for years in chance.uniform(1.0, 5.0, 100):
            position(world, pool, float(years), living(lives, chance))
    return world


def drifting(chance: np.random.Generator, a_year: float, change: float) -> World:
    """Parts that fail at random, six years of log; over the last two years the rate moves to `change` times what it was."""
    world = World(3)
    units = 300
    slope = np.log(change) / 2.0
    for pool in range(3):
        rate = a_year / units * float(np.exp(0.3 * chance.normal()))
        for years in chance.uniform(2.0, 6.0, units // 3):
            position(world, pool, float(years), _drifting(rate, float(slope), chance))
    return world


def _drifting(rate: float, slope: float, chance: np.random.Generator) -> Callable[[float], float]:
    def after(day: float) -> float:
        """Cumulative rate r t up to two years ago, then the exponential's, and level from today on."""
        left = chance.exponential() / rate
        flat = min(max(-2.0 - day, 0.0), left)
        day, left = day + flat, left - flat
        if left > 0 and day < 0:
            begin = np.exp(slope * (day + 2.0))
            whole = (np.exp(slope * 2.0) - begin) / slope if slope else -day
            if left < whole:
                return float(np.log(begin + slope * left) / slope - 2.0 if slope else day + left)
            day, left = 0.0, left - whole
        return float(day + left / np.exp(slope * 2.0)) if left > 0 else float(day)

    return after


def ages_unknown(chance: np.random.Generator, shape: float) -> World:
    """Machines four to ten years old under watch for three; of two in five of their first parts nobody knows the age."""
    world = World(3)
    for pool in range(3):
        for machine in chance.uniform(4.0, 10.0, 80):
            _watched_position(world, pool, float(machine), weibull(shape, 5.0), chance)
    return world


def _watched_position(world: World, pool: int, machine: float, lives: Lives, chance: np.random.Generator) -> None:
    hidden, day = bool(chance.random() < 0.4), -machine
    while True:
        end = day + lives(chance)
        unknown = hidden and day < -LOG_YEARS
        begin = max(day, -LOG_YEARS)
        if end > -LOG_YEARS:
            last = min(end, 0.0)
            row = (None, last - begin) if unknown else (begin - day, last - day)
            world.tenures.append((pool, *row, end < 0, -last, machine - LOG_YEARS))
        if end >= 0:
            break
        day = end
    world.units.append((pool, None, LOG_YEARS, machine) if hidden and day < -LOG_YEARS else (pool, -day, -day, -day))
    while end < 1.0:
        world.coming[pool] += 1
        end += lives(chance)


@dataclass(frozen=True)
class Fades:
    """Readings (r,) of packs (n,) that still serve, and the days until each crosses."""

    unit: np.ndarray
    year: np.ndarray
    share: np.ndarray
    now: np.ndarray
    days: np.ndarray


def fading(chance: np.random.Generator, knee: str, scatter: float, *, units: int, threshold: float = 0.7) -> Fades:
    """Packs with three to twelve readings. knee : none, scaled (at 85%), level (drawn for each), day (drawn for each)"""
    many = units * 6
    start, fall = 1.0 + 0.01 * chance.normal(size=many), np.exp(chance.normal(np.log(0.09), 0.3, many))
    steeper = 1.0 if knee == "none" else 4.0
    bend = {
        "none": np.full(many, 1e9),
        "scaled": (start - 0.85) / fall,
        "level": (start - chance.normal(0.85, 0.03, many)) / fall,
        "day": np.exp(chance.normal(np.log(2.5), 0.3, many)),
    }[knee]
    straight = (start - threshold) / fall
    crosses = np.where(straight <= bend, straight, bend + (straight - bend) / steeper)
    now = chance.uniform(0.5, 4.0, many)
    there = np.flatnonzero(crosses > now)[:units]
    of = np.repeat(np.arange(units), chance.integers(3, 13, units))
    year = chance.uniform(0.02, 1.0, of.size) * now[there][of]
    late = np.maximum(year - bend[there][of], 0.0)
    share = start[there][of] - fall[there][of] * (year + (steeper - 1.0) * late) + scatter * chance.normal(size=of.size)
    return Fades(of, year, np.clip(share, 0.01, 2.0), now[there], (crosses - now)[there] * 365.25)


def lots(chance: np.random.Generator, *, worse: float, months: int, a_month: float) -> np.ndarray:
    """(12, t) failures of twelve lots, the first so many times as bad, each at its own level known to 10%."""
    level = chance.gamma(100.0, 0.01, 12) * np.where(np.arange(12) == 0, worse, 1.0)
    return chance.poisson(level[:, None] * a_month, (12, months))
