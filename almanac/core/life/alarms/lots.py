"""Lots that stand out: more of them failed than the others' record leads to expect, false discoveries held down over all lots at once."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray
from scipy.special import betainc, pdtrc

from almanac.core import checks
from almanac.core.life.alarms.cusum import Alarm, Chart

FALSE_DISCOVERIES = 0.10
FEWEST_FAILED = 3
SURE = 1e-6
"""An expectation known better than this is taken as exact."""


def lot_tail(failed: float, expected: float, cv: float) -> float:
    """Probability of at least so many failures where the expectation itself is only known to a coefficient of variation.

    The posterior predictive of a count whose mean is gamma: negative binomial of size 1 / cv^2; Poisson where the mean is exact.

    Parameters
    ----------
    failed : >= 0; a part of a failure is none yet · expected : >= 0 · cv : >= 0

    Returns
    -------
    float : 1 for no failure

    Raises
    ------
    ContractError : an argument outside its range
    """
    count = int(np.floor(checks.number("failed", failed, low=0.0) + 1e-9))
    mean, spread = checks.number("expected", expected, low=0.0), checks.number("cv", cv, low=0.0)
    if count == 0:
        return 1.0
    if mean == 0.0:
        return 0.0
    if spread**2 < SURE:
        return float(pdtrc(count - 1, mean))
    size = spread**-2
    return float(betainc(count, size, mean / (size + mean)))


def lot_alarm(chart: Chart, level: float) -> Alarm | None:
    """When a lot's whole record first became too unlikely to be chance; None where it never did.

    Parameters
    ----------
    chart : of a lot, from its first day · level : probability below which it is too unlikely, in (0, 1)

    Returns
    -------
    Alarm : since the first month in which anything was expected; at least three failures

    Raises
    ------
    ContractError : a level that is no probability
    """
    wanted = checks.probability("level", level)
    failed, expected = np.cumsum(chart.failures), np.cumsum(chart.expected)
    for period in np.flatnonzero((failed >= FEWEST_FAILED) & (np.asarray(chart.failures) > 0)).tolist():
        if lot_tail(float(failed[period]), float(expected[period]), chart.cv) <= wanted:
            return Alarm(period, int(np.argmax(chart.expected > 0)), float(failed[period]), float(expected[period]))
    return None


def stand_out(tails: ArrayLike, rate: float = FALSE_DISCOVERIES) -> NDArray[np.bool_]:
    """Which of many lots stand out, so that of those named at most a share is named without cause.

    Parameters
    ----------
    tails : (n,) probabilities · rate : share of false discoveries, in (0, 1)

    Returns
    -------
    (n,) bool

    Raises
    ------
    ContractError : no probabilities, or a rate that is none

    References
    ----------
    Benjamini & Hochberg (1995), Journal of the Royal Statistical Society B 57.
    """
    p = checks.vector("tails", tails, low=0.0, high=1.0)
    wanted = checks.probability("rate", rate)
    order = np.argsort(p, kind="stable")
    passes = np.flatnonzero(p[order] <= wanted * (np.arange(p.size) + 1) / max(p.size, 1))
    found = np.zeros(p.size, dtype=bool)
    if passes.size:
        found[order[: passes[-1] + 1]] = True
    return found
