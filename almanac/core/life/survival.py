"""What the data say without a formula: Kaplan-Meier with delayed entry, and Nelson-Aalen."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.special import ndtri

from almanac.core import checks
from almanac.core.life.tenures import AgeCounts


@dataclass(frozen=True)
class SurvivalStep:
    """Survival just after an age at which something failed; limits are None where survival is 0 or 1."""

    age: float
    at_risk: float
    failed: float
    survival: float
    low: float | None
    high: float | None


def kaplan_meier(ages: AgeCounts, *, level: float = 0.90) -> list[SurvivalStep]:
    """Product-limit survival with delayed entry, Greenwood's variance and log-log limits.

    Parameters
    ----------
    ages : tenures by age · level : of the limits, in (0, 1)

    Returns
    -------
    list of SurvivalStep, one a distinct failure age

    Raises
    ------
    ContractError : a level outside its range

    References
    ----------
    Klein & Moeschberger (2003), Survival Analysis, sections 4.2, 4.3 and 4.6.
    """
    wide = float(ndtri(0.5 + checks.probability("level", level) / 2))
    event = ages.failed > 0
    risk, failed, age = ages.at_risk()[event], ages.failed[event], ages.age[event]
    survival = np.cumprod(1.0 - failed / risk)
    with np.errstate(divide="ignore"):
        greenwood = np.cumsum(failed / (risk * (risk - failed)))
    return [
        SurvivalStep(
            float(age[place]),
            float(risk[place]),
            float(failed[place]),
            max(float(survival[place]), 0.0),
            *log_log_limits(float(survival[place]), float(greenwood[place]), wide),
        )
        for place in range(age.size)
    ]


def log_log_limits(survival: float, variance: float, wide: float) -> tuple[float | None, float | None]:
    """Limits of a survival probability from the variance of its logarithm; None where survival is 0 or 1 or the variance unknown."""
    if not 0.0 < survival < 1.0 or not np.isfinite(variance):
        return None, None
    spread = wide * float(np.sqrt(variance)) / float(np.log(survival))
    one, other = survival ** float(np.exp(-spread)), survival ** float(np.exp(spread))
    return min(one, other), max(one, other)


def nelson_aalen(ages: AgeCounts) -> list[tuple[float, float]]:
    """Cumulative hazard with delayed entry: (age, sum of d / n) at each distinct failure age.

    Parameters
    ----------
    ages : tenures by age

    Returns
    -------
    list of (age, value)

    References
    ----------
    Aalen (1978), Nonparametric inference for a family of counting processes, Annals of Statistics 6.
    """
    event = ages.failed > 0
    value = np.cumsum(ages.failed[event] / ages.at_risk()[event])
    return [(float(age), float(total)) for age, total in zip(ages.age[event], value, strict=True)]
