"""Wear lines: full over design capacity of a pack against time, and the day it crosses a threshold."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike
from scipy.special import stdtrit

from almanac.core import checks
from almanac.core.errors import ContractError, NoEstimate

FEWEST = 3


@dataclass(frozen=True)
class WearLine:
    """A straight line by least squares: share at day 0, change a day with its standard error, scatter; n readings.

    mean_day, spread : of the readings' days, and the sum of their squared distances from it
    """

    intercept: float
    slope: float
    se_slope: float
    sigma: float
    readings: int
    mean_day: float
    spread: float

    def at(self, day: float) -> float:
        """The line's share on a day."""
        return self.intercept + self.slope * day


@dataclass(frozen=True)
class Crossing:
    """The day a line crosses the threshold, its standard error, and Fieller's limits."""

    day: float
    se_day: float
    low: float
    high: float


def wear_line(day: ArrayLike, share: ArrayLike) -> WearLine:
    """Least-squares line of a unit's readings.

    Parameters
    ----------
    day : (n,) days since the unit's first reading, >= 0 · share : (n,) full over design capacity, in (0, 2]

    Returns
    -------
    WearLine

    Raises
    ------
    NoEstimate : fewer than three readings, or all on one day · ContractError : an argument outside its range

    References
    ----------
    Draper & Smith (1998), Applied Regression Analysis, chapter 1.
    """
    x = checks.vector("day", day, low=0.0)
    y = checks.vector("share", share, low=0.0, high=2.0, size=x.size)
    if x.size < FEWEST:
        raise NoEstimate(f"{x.size} readings: a line with its scatter needs at least {FEWEST}")
    spread = float(((x - x.mean()) ** 2).sum())
    if spread <= 0.0:
        raise NoEstimate("every reading is of one day: no line through them")
    slope = float(((x - x.mean()) * (y - y.mean())).sum()) / spread
    intercept = float(y.mean()) - slope * float(x.mean())
    sigma = math.sqrt(float(((y - intercept - slope * x) ** 2).sum()) / (x.size - 2))
    return WearLine(intercept, slope, sigma / math.sqrt(spread), sigma, int(x.size), float(x.mean()), spread)


def crossing(line: WearLine, threshold: float, *, level: float = 0.95) -> Crossing:
    """The day the line falls to a threshold, with limits that allow for the scatter of slope and intercept together.

    Parameters
    ----------
    line : of a unit · threshold : share, in (0, 1) · level : of the limits, in (0, 1)

    Returns
    -------
    Crossing : days since the unit's first reading; it may lie before the last reading, or before the first

    Raises
    ------
    NoEstimate : the line does not fall, or so unsurely that the limits have no end
    ContractError : an argument outside its range

    References
    ----------
    Fieller (1954), Some problems in interval estimation, Journal of the Royal Statistical Society B 16.
    """
    wanted = checks.probability("threshold", threshold)
    quantile = float(stdtrit(line.readings - 2, 0.5 + checks.probability("level", level) / 2))
    if line.slope >= 0:
        raise NoEstimate("the readings do not fall: no usable trend")
    day = (wanted - line.intercept) / line.slope
    reach = quantile * line.sigma
    leading = line.slope**2 - reach**2 / line.spread
    if leading <= 0:
        raise NoEstimate("the trend is not sure enough: its limits have no end, wait for more readings")
    gap = line.at(line.mean_day) - wanted
    # (gap + b u)^2 <= reach^2 (1/n + u^2/spread), with u the days from the mean day.
    half = line.slope * gap
    constant = gap**2 - reach**2 / line.readings
    root = math.sqrt(max(half**2 - leading * constant, 0.0))
    low, high = sorted(((-half - root) / leading, (-half + root) / leading))
    se_day = line.sigma / abs(line.slope) * math.sqrt(1 / line.readings + (day - line.mean_day) ** 2 / line.spread)
    return Crossing(day, se_day, line.mean_day + low, line.mean_day + high)


def shares_of(full: ArrayLike, design: ArrayLike) -> checks.Floats:
    """Full over design capacity.

    Parameters
    ----------
    full : (n,) >= 0 · design : (n,) > 0, in the same unit

    Returns
    -------
    (n,) shares

    Raises
    ------
    ContractError : a design capacity of 0, or an argument outside its range
    """
    have = checks.vector("full", full, low=0.0)
    made = checks.vector("design", design, low=0.0, size=have.size)
    if (made == 0).any():
        raise ContractError(f"design[{int(np.flatnonzero(made == 0)[0])}]: a capacity above 0 was wanted")
    return np.asarray(have / made, dtype=np.float64)
