"""Watching whether failures run ahead of what was expected: CUSUM charts with one yearly allowance of false alarms for all of them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import brentq
from scipy.special import gammaln, xlogy

from almanac.core import checks
from almanac.core.demand.life_tables import gamma_points
from almanac.core.errors import ContractError

STATES, LEVELS = 80, 16
"""Heights of a chart that are told apart, and points of its level."""
LOG_STEP = 0.06
"""Charts whose expectations differ by less share a limit."""
EVEN = 0.005
LEAST_LIMIT, MOST_LIMIT = 1e-3, 200.0


@dataclass(frozen=True)
class Chart:
    """Failures (t,) and what was expected (t,), period by period. cv : how well the expectation is known

    A failure that may turn out to be none counts as a part of one.
    """

    failures: NDArray[np.int64] | checks.Floats
    expected: checks.Floats
    cv: float = 0.0


@dataclass(frozen=True)
class Alarm:
    """Periods in which a chart spoke and since when, with what was seen and expected from then on."""

    period: int
    since: int
    observed: float
    expected: float


@dataclass(frozen=True)
class Watched:
    """A chart that was followed. statistic : its height now · limit : it speaks at · since : period after it last was at nothing

    alarms : every one, the chart beginning anew after it · observed, expected : since then · heights : (t,) after each period
    """

    statistic: float
    limit: float
    since: int
    observed: float
    expected: float
    alarms: tuple[Alarm, ...]
    heights: tuple[float, ...] = ()


def watch(
    charts: Sequence[Chart], *, ratio: float = 2.0, periods_per_year: float = 12.0, years_between_false_alarms: float = 1.0
) -> list[Watched]:
    """Follow charts: S = max(0, S + x log r - (r - 1) e), which speaks where S reaches its limit and begins anew.

    Limits are such that all charts together speak without cause once in so many years, each as often as another, when the true level
    of each is drawn from what is known of it.

    Parameters
    ----------
    charts : at least one · ratio : r > 1, the change that is looked for · periods_per_year, years_between_false_alarms : > 0

    Returns
    -------
    list of Watched

    Raises
    ------
    ContractError : an argument outside its range

    References
    ----------
    Lucas (1985), Technometrics 27; Steiner, Cook, Farewell & Treasure (2000), Biostatistics 1; Brook & Evans (1972), Biometrika 59.
    """
    r = checks.number("ratio", ratio, low=1.01, high=100.0)
    often = checks.positive("periods_per_year", periods_per_year) * checks.positive(
        "years_between_false_alarms", years_between_false_alarms
    )
    if not charts:
        raise ContractError("charts: at least one was wanted")
    allowance = 1.0 / (often * len(charts))
    limits: dict[tuple[int, int], float] = {}
    found = []
    for chart in charts:
        mean = float(chart.expected.mean()) if chart.expected.size else 0.0
        key = round(float(np.log(max(mean, 1e-9))) / LOG_STEP), round(chart.cv / EVEN)
        if key not in limits:
            limits[key] = limit_for(float(np.exp(key[0] * LOG_STEP)), key[1] * EVEN, r, allowance)
        found.append(follow(chart, r, limits[key]))
    return found


def limit_for(expected: float, cv: float, ratio: float, allowance: float) -> float:
    """The limit at which a chart speaks without cause with a probability `allowance` a period.

    Parameters
    ----------
    expected : failures a period, > 0 · cv : of the level, >= 0 · ratio : > 1 · allowance : in (0, 1)

    Returns
    -------
    height, > 0; one more failure than nothing reaches it at least
    """
    if cv > 0:
        shape = np.array([cv**-2])
        points, weight = gamma_points(shape, LEVELS)
        level, weight = points[0] / shape[0], weight[0] / weight[0].sum()
    else:
        level, weight = np.ones(1), np.ones(1)

    def too_often(height: float) -> float:
        """Log of how many times too often it would speak: nearly straight in the height."""
        return float(np.log(_false_alarms(height, expected, level, weight, ratio) / allowance))

    low, high = LEAST_LIMIT, 2.0
    while high < MOST_LIMIT and too_often(high) > 0:
        low, high = high, high * 1.6
    if high >= MOST_LIMIT:
        return high
    return low if too_often(low) <= 0 else float(brentq(too_often, low, high, xtol=1e-5, rtol=1e-5))


def _false_alarms(limit: float, expected: float, level: checks.Floats, weight: checks.Floats, ratio: float) -> float:
    """Alarms a period without cause: one over the mean run, a Markov chain over heights, averaged over levels."""
    step = limit / STATES
    most = int(limit / np.log(ratio) + (ratio - 1.0) * expected / np.log(ratio)) + 2
    count = np.arange(most + 1)
    mean = (level * expected)[:, None]
    chance = np.exp(xlogy(count, mean) - mean - gammaln(count + 1.0))
    height = np.arange(STATES) * step
    after = np.maximum(height[:, None] + count * np.log(ratio) - (ratio - 1.0) * expected, 0.0) / step
    inside = after < STATES - 1e-9
    left = np.minimum(after.astype(np.int64), STATES - 1)
    share = after - left
    moves = np.zeros((STATES, STATES + 1, most + 1))
    rows, cols = np.nonzero(inside)
    moves[rows, left[rows, cols], cols] += 1.0 - share[rows, cols]
    moves[rows, left[rows, cols] + 1, cols] += share[rows, cols]
    chain = np.einsum("isc,lc->lis", moves[:, :STATES], chance)
    run = np.linalg.solve(np.eye(STATES) - chain, np.ones((level.size, STATES, 1)))[:, 0, 0]
    return float(weight @ (1.0 / run))


def follow(chart: Chart, ratio: float, limit: float) -> Watched:
    """One chart under a limit.

    Parameters
    ----------
    chart : period by period · ratio : r > 1 · limit : height at which it speaks, > 0

    Raises
    ------
    ContractError : failures and what was expected are not of the same periods, or below 0
    """
    if chart.failures.shape != chart.expected.shape or (chart.expected < 0).any() or (chart.failures < 0).any():
        raise ContractError("charts: failures and what was expected were wanted for each period, of at least 0")
    gain, cost = float(np.log(ratio)), ratio - 1.0
    height, since = 0.0, 0
    alarms: list[Alarm] = []
    heights: list[float] = []
    for period, (seen, wanted) in enumerate(zip(chart.failures.tolist(), chart.expected.tolist(), strict=True)):
        height = max(0.0, height + seen * gain - cost * wanted)
        heights.append(height)
        if height >= limit:
            alarms.append(Alarm(period, since, *_between(chart, since, period)))
            height, since = 0.0, period + 1
        elif height == 0.0:
            since = period + 1
    return Watched(height, limit, since, *_between(chart, since, chart.failures.size - 1), tuple(alarms), tuple(heights))


def _between(chart: Chart, first: int, last: int) -> tuple[float, float]:
    return float(chart.failures[first : last + 1].sum()), float(chart.expected[first : last + 1].sum())
