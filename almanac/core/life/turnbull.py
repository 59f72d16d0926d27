"""Survival without a formula where some failures were found at a look: Turnbull's curve with delayed entry.

Each find is spread over the ages at which it may have failed as the curve itself says, the curve is drawn again from what that
makes of the units at risk, and so on until nothing moves.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.special import ndtri

from almanac.core import checks
from almanac.core.life.survival import SurvivalStep, kaplan_meier, log_log_limits, nelson_aalen
from almanac.core.life.tenures import AgeCounts, shared_out

STILL = 1e-10
MOST_ROUNDS = 20_000
NOTHING = 1e-6
"""A step of fewer units than this is none."""
CERTAIN = 1.0 - 1e-9
"""Past this hazard everything at risk fails."""


@dataclass(frozen=True)
class _Curve:
    """On the ages where something may have failed: units at risk and failures expected there, and where each find may lie.

    age, at_risk, failed, hazard : (j,) · inside : (f, j) · spread : (f, j) probability of each find at each age
    """

    age: checks.Floats
    at_risk: checks.Floats
    failed: checks.Floats
    hazard: checks.Floats
    inside: NDArray[np.bool_]
    spread: checks.Floats
    count: checks.Floats


def survival_steps(ages: AgeCounts, *, level: float = 0.90) -> list[SurvivalStep]:
    """Survival at each age where something failed or may have: the product-limit curve, or Turnbull's where there are finds.

    Parameters
    ----------
    ages : tenures by age · level : of the limits, in (0, 1)

    Returns
    -------
    list of SurvivalStep : with finds, units at risk and failures are those expected; the step of a find is drawn at the later end of
    the stretch in which it may lie. Limits are from the observed information, log-log.

    Raises
    ------
    ContractError : a level outside its range

    References
    ----------
    Turnbull (1976), Journal of the Royal Statistical Society B 38; Frydman (1994), ibid. 56 (delayed entry);
    Louis (1982), ibid. 44 (the information that spreading leaves).
    """
    if not ages.finds.any:
        return kaplan_meier(ages, level=level)
    wide = float(ndtri(0.5 + checks.probability("level", level) / 2))
    curve = _curve(ages)
    survival, variance = np.cumprod(np.where(curve.hazard > CERTAIN, 0.0, 1.0 - curve.hazard)), _variance(curve)
    return [
        SurvivalStep(
            float(curve.age[place]),
            float(curve.at_risk[place]),
            float(curve.failed[place]),
            max(float(survival[place]), 0.0),
            *log_log_limits(float(survival[place]), float(variance[place]), wide),
        )
        for place in np.flatnonzero(curve.failed > NOTHING)
    ]


def cumulative_hazard(ages: AgeCounts) -> list[tuple[float, float]]:
    """Sum of failures over units at risk, at each age where something failed or may have.

    Parameters
    ----------
    ages : tenures by age

    Returns
    -------
    list of (age, value) : Nelson-Aalen's, with finds spread as Turnbull's curve has them

    Raises
    ------
    Nothing.
    """
    if not ages.finds.any:
        return nelson_aalen(ages)
    curve = _curve(ages)
    total = np.cumsum(curve.hazard)
    return [(float(curve.age[place]), float(total[place])) for place in np.flatnonzero(curve.failed > NOTHING)]


def _curve(ages: AgeCounts) -> _Curve:
    finds = ages.finds
    # Without the finds, whose leaving is what is looked for.
    known = shared_out(ages, np.zeros(finds.count.size))
    left = known.left.copy()
    np.subtract.at(left, np.searchsorted(ages.age, finds.high), finds.count)
    age = _support(ages, left)
    place = np.searchsorted(ages.age, age)
    entered, gone = (np.concatenate(([0.0], np.cumsum(moved)))[place] for moved in (ages.entered, left))
    steady, exact = entered - gone, ages.failed[place]
    inside = (finds.low[:, None] < age) & (age <= finds.high[:, None])
    spread = inside / inside.sum(axis=1, keepdims=True)
    survival = np.ones(age.size)
    for _ in range(MOST_ROUNDS):
        moved = finds.count @ spread
        failed = exact + moved
        at_risk = np.maximum(steady - np.concatenate(([0.0], np.cumsum(moved)[:-1])), failed)
        hazard = failed / np.maximum(at_risk, np.finfo(float).tiny)
        before, survival = survival, np.cumprod(1.0 - hazard)
        if np.abs(survival - before).max() < STILL:
            break
        density = hazard * np.concatenate(([1.0], survival[:-1]))
        spread = inside * density
        total = spread.sum(axis=1, keepdims=True)
        # Where the curve has fallen to nothing before an interval begins, it says nothing of where inside it was.
        spread = np.where(total > 0, spread / np.where(total > 0, total, 1.0), inside / inside.sum(axis=1, keepdims=True))
    return _Curve(age, at_risk, failed, hazard, inside, spread, finds.count)


def _support(ages: AgeCounts, left: checks.Floats) -> checks.Floats:
    """Ages that can hold a step: those of exact failures, and later ends of finds before which some stretch begins anew.

    Between two later ends with no beginning in between, the earlier one lies in every stretch that the later one lies in.
    """
    exact = ages.age[ages.failed > 0]
    begins = np.unique(np.concatenate((ages.finds.low, exact, ages.age[(ages.entered > 0) | (left > ages.failed)])))
    ends = np.unique(np.concatenate((exact, ages.finds.high)))
    # An exact failure begins just before its own age; everything else begins at its age, that is after an end there.
    count_before = np.searchsorted(begins, ends, side="left")
    fresh = np.diff(count_before, prepend=-1) > 0
    return np.asarray(ends[fresh | np.isin(ends, exact)])


def _variance(curve: _Curve) -> checks.Floats:
    """(j,) variance of log survival: Greenwood's sum where all is exact, less certain by what spreading leaves open."""
    kept = np.flatnonzero((curve.failed > NOTHING) & (curve.hazard <= CERTAIN))
    hazard = curve.hazard[kept]
    information = np.diag(curve.at_risk[kept] / (hazard * (1.0 - hazard)))
    for inside, spread, count in zip(curve.inside[:, kept], curve.spread[:, kept], curve.count, strict=True):
        own = np.flatnonzero(inside & (spread > 0))
        # Score of a unit that failed at the row's age by the hazard at the column's: 1 / h at its own, -1 / (1 - h) before.
        score = np.diag(1.0 / hazard[own]) - np.tril(np.ones((own.size, own.size)), -1) / (1.0 - hazard[own])
        chance = spread[own]
        mean = chance @ score
        information[np.ix_(own, own)] -= count * ((score.T * chance) @ score - np.outer(mean, mean))
    weight = -1.0 / (1.0 - hazard)
    out = np.full(curve.age.size, np.nan)
    try:
        covariance = np.linalg.inv(information)
    except np.linalg.LinAlgError:
        return out
    total = np.array([weight[:size] @ covariance[:size, :size] @ weight[:size] for size in range(1, kept.size + 1)])
    out[kept] = np.where(total >= 0, total, np.nan)
    return out
