"""Failures to come, played from draws of what is known: first failures, and those of the parts that take their place."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from almanac.core import checks
from almanac.core.forecast.company import InService, Ints
from almanac.core.forecast.spans import possible_ages, weights

MOST_RENEWALS = 400
"""Replacements of one position that are followed; a part that dies so often within the years asked for is no part."""


@dataclass(frozen=True)
class Levels:
    """Draws (n,) of lives: (n, p) shape and rate per year^shape of each pool."""

    shape: checks.Floats
    rate: checks.Floats


@dataclass(frozen=True)
class Cells:
    """Units in service alike (c,): pool, age, how many."""

    pool: Ints
    age: checks.Floats
    units: checks.Floats


def cells_of(units: InService, shape: checks.Floats, rate: checks.Floats) -> Cells:
    """Units alike; those of unknown age shared out over what it may be, by having survived to it.

    Parameters
    ----------
    units : in service · shape, rate : (p,) of each pool's lives
    """
    unknown = units.age.unknown
    pool, age, count = units.pool[~unknown], units.age.age[~unknown], units.count[~unknown]
    if unknown.any():
        own = possible_ages(units.age, shape[units.pool], rate[units.pool])
        likely = weights(own, shape[units.pool[unknown]], rate[units.pool[unknown]])
        pool = np.concatenate((pool, np.repeat(units.pool[unknown], own.age.shape[1])))
        age = np.concatenate((age, own.age.ravel()))
        count = np.concatenate((count, (units.count[unknown][:, None] * likely).ravel()))
    # Ages a day apart are alike.
    code = np.round(age * 365.25).astype(np.int64)
    _, first, place = np.unique(np.column_stack((pool, code)), axis=0, return_index=True, return_inverse=True)
    place = place.ravel()
    number = np.bincount(place, count).astype(np.float64)
    mean = np.bincount(place, count * age) / np.maximum(number, 1e-300)
    kept = number > 0
    return Cells(pool[first][kept], mean[kept], number[kept])


def first_failures(levels: Levels, cells: Cells, years: float) -> checks.Floats:
    """(n, c) probability that a unit fails within some years."""
    shape, rate = levels.shape[:, cells.pool], levels.rate[:, cells.pool]
    return np.asarray(-np.expm1(-rate * ((cells.age + years) ** shape - cells.age**shape)))


def play(levels: Levels, cells: Cells, years: float, pools: int, *, seed: int) -> tuple[checks.Floats, checks.Floats]:
    """Failures within some years by draw and pool.

    Returns
    -------
    (n, p) failures played · (n, p) those of them that were not a unit's first
    """
    chance = np.random.default_rng([seed, 3])
    draws = levels.shape.shape[0]
    first = np.zeros((draws, pools))
    again = np.zeros((draws, pools))
    within = first_failures(levels, cells, years)
    whole = np.floor(cells.units + chance.random((draws, cells.units.size))).astype(np.int64)
    failed = chance.binomial(whole, np.clip(within, 0.0, 1.0))
    for pool in range(pools):
        own = cells.pool == pool
        if not own.any():
            continue
        first[:, pool] = failed[:, own].sum(axis=1)
        again[:, pool] = _replaced(levels, cells, years, (pool, own), (failed[:, own], within[:, own]), chance)
    return first + again, again


def _replaced(
    levels: Levels,
    cells: Cells,
    years: float,
    of: tuple[int, np.ndarray],
    failing: tuple[np.ndarray, checks.Floats],
    chance: np.random.Generator,
) -> checks.Floats:
    """(n,) failures of the parts that took the place of failed ones."""
    pool, own = of
    failed, within = failing
    shape, rate = levels.shape[:, pool], levels.rate[:, pool]
    draw, cell = np.nonzero(failed)
    times = failed[draw, cell]
    draw, cell = np.repeat(draw, times), np.repeat(cell, times)
    age = cells.age[own][cell]
    gone = -np.log1p(-chance.random(draw.size) * np.minimum(within[draw, cell], 1 - 1e-16))
    day = (age ** shape[draw] + gone / rate[draw]) ** (1.0 / shape[draw]) - age
    found = np.zeros(levels.shape.shape[0])
    for _ in range(MOST_RENEWALS):
        day = day + (chance.standard_exponential(draw.size) / rate[draw]) ** (1.0 / shape[draw])
        still = day <= years
        if not still.any():
            break
        draw, day = draw[still], day[still]
        found += np.bincount(draw, minlength=found.size)
    return found
