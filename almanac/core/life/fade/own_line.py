"""A unit that fades like none of its part group: a straight line of its own through its readings, and how well that explains them."""

from __future__ import annotations

import numpy as np

from almanac.core import checks
from almanac.core.life.fade.curves import FOREVER, FREEDOM
from almanac.core.life.fade.packs import Packs

FEWEST = 3
"""Readings below which a line of its own says nothing."""
FALLS, LEVELS = 31, 25
FALL_SD, REACH = 1.0, 3.0
"""Of the log of its fall a year around that of its part group, and how many of them are looked at."""
LEVEL, LEVEL_SD = 0.85, 0.15
"""Of the share it has now."""
WIDTH = 3.0
"""Levels are looked at within so many scatters of where its readings put them."""
CHUNK = 500


def own_lines(
    packs: Packs, log_fall: float, log_scatter: float, threshold: float, *, draws: int, seed: int
) -> tuple[checks.Floats, checks.Floats]:
    """Each unit's own line, given that it has not crossed.

    Parameters
    ----------
    packs : readings · log_fall, log_scatter : of its part group, a year and of a reading · threshold : share · draws : wanted of each unit

    Returns
    -------
    (n,) log likelihood of its readings, the line integrated out; minus infinity with fewer than three readings
    (k, n) year on its clock at which it crosses

    Raises
    ------
    Nothing.
    """
    told, crosses = np.full(packs.units, -np.inf), np.full((draws, packs.units), FOREVER)
    many = np.flatnonzero(np.bincount(packs.unit, minlength=packs.units) >= FEWEST)
    chance = np.random.default_rng([seed, 23])
    for begin in range(0, many.size, CHUNK):
        units = many[begin : begin + CHUNK]
        some = packs.some(units)
        told[units], crosses[:, units] = _lines(some, log_fall, log_scatter, threshold, (chance.random((draws, units.size)), chance))
    return told, crosses


def _lines(
    packs: Packs, log_fall: float, log_scatter: float, threshold: float, chances: tuple[checks.Floats, np.random.Generator]
) -> tuple[checks.Floats, checks.Floats]:
    z = np.linspace(-REACH, REACH, FALLS)
    fall, of = np.exp(log_fall + FALL_SD * z), packs.unit
    before = packs.now[of] - packs.year
    # What each reading puts the share at now, under each fall.
    now = packs.share[:, None] - fall * before[:, None]
    middle = np.array([np.median(rows, axis=0) for rows in np.split(now, packs.starts[1:])])
    scatter = float(np.exp(log_scatter))
    wide = np.maximum(np.array([np.ptp(rows, axis=0) for rows in np.split(now, packs.starts[1:])]) / 2, WIDTH * scatter)
    at = np.linspace(-1.0, 1.0, LEVELS)
    level = middle[..., None] + wide[..., None] * at
    off = (now[..., None] - level[of]) / scatter
    value = np.add.reduceat(-(FREEDOM + 1.0) / 2.0 * np.log1p(off**2 / FREEDOM) - log_scatter, packs.starts)
    value += -0.5 * ((level - LEVEL) / LEVEL_SD) ** 2 - np.log(LEVEL_SD * np.sqrt(2 * np.pi))
    value += (-0.5 * z**2 - np.log(np.sqrt(2 * np.pi)))[None, :, None]
    value += np.log(wide * (at[1] - at[0]) * (z[1] - z[0]))[..., None]
    value = np.where(level > threshold, value, -np.inf).reshape(packs.units, -1)
    top = np.maximum(value.max(axis=1), -1e6)
    weight = np.exp(value - top[:, None])
    whole = weight.sum(axis=1)
    told = np.where(whole > 0, top + np.log(np.maximum(whole, 1e-300)), -np.inf)
    reached = np.cumsum(weight, axis=1) / np.maximum(whole, 1e-300)[:, None]
    level_of, chance = chances
    cell = np.array([np.searchsorted(own, u) for own, u in zip(reached, level_of.T, strict=True)]).clip(0, FALLS * LEVELS - 1)
    step = (chance.random(cell.shape) - 0.5) * (z[1] - z[0]) * FALL_SD
    drawn = np.exp(np.log(fall)[cell // LEVELS] + step)
    left = np.take_along_axis(level.reshape(packs.units, -1), cell, axis=1) - threshold
    crosses = np.minimum(packs.now[:, None] + np.maximum(left, 0.0) / drawn, FOREVER)
    return told, crosses.T
