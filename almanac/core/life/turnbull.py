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
LITTLE = 1e-200
Ints = NDArray[np.int64]
CERTAIN = 1.0 - 1e-9
"""Past this hazard everything at risk fails."""


@dataclass(frozen=True)
class _Curve:
    """On the ages where something may have failed: units at risk and failures expected there, and where each find may lie.

    age, at_risk, failed, hazard : (j,) · first, last : (f,) places of each find's first age and of the one after its last · count : (f,)
    """

    age: checks.Floats
    at_risk: checks.Floats
    failed: checks.Floats
    hazard: checks.Floats
    first: Ints
    last: Ints
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
    first, last = np.searchsorted(age, finds.low, side="right"), np.searchsorted(age, finds.high, side="right")
    density, survival = np.ones(age.size), np.ones(age.size)
    for _ in range(MOST_ROUNDS):
        moved = density * _cover(density, first, last, finds.count)
        failed = exact + moved
        at_risk = np.maximum(steady - np.concatenate(([0.0], np.cumsum(moved)[:-1])), failed)
        hazard = failed / np.maximum(at_risk, np.finfo(float).tiny)
        before, survival = survival, np.cumprod(1.0 - hazard)
        if np.abs(survival - before).max() < STILL:
            break
        # Where the curve has fallen to nothing it says nothing any more of where finds lie: a little is left.
        density = np.maximum(hazard * np.concatenate(([1.0], survival[:-1])), LITTLE)
    return _Curve(age, at_risk, failed, hazard, first, last, finds.count)


def _cover(density: checks.Floats, first: Ints, last: Ints, count: checks.Floats) -> checks.Floats:
    """(j,) units of finds per unit of density: each find is spread over its ages as the density goes."""
    gathered = np.concatenate(([0.0], np.cumsum(density)))
    share = count / (gathered[last] - gathered[first])
    size = density.size + 1
    return np.asarray(np.cumsum(np.bincount(first, share, size) - np.bincount(last, share, size))[:-1])


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
    """(j,) variance of log survival: Greenwood's sum where all is exact, less certain by what spreading leaves open.

    The score of a unit by the hazard h_j is 1 / h_j where it failed at j and -1 / (1 - h_j) where it failed later. With m_j its mean over
    the ages of a find, the covariance of j < l is -m_l (1 / (1 - h_j) + m_j).
    """
    kept = np.flatnonzero((curve.failed > NOTHING) & (curve.hazard <= CERTAIN))
    hazard = curve.hazard[kept]
    information = np.diag(curve.at_risk[kept] / (hazard * (1.0 - hazard)))
    density = (curve.hazard * np.concatenate(([1.0], np.cumprod(1.0 - curve.hazard)[:-1])))[kept]
    first, last = np.searchsorted(kept, curve.first), np.searchsorted(kept, curve.last)
    for begin, end, count in zip(first, last, curve.count, strict=True):
        chance, own = density[begin:end] / max(float(density[begin:end].sum()), np.finfo(float).tiny), hazard[begin:end]
        later = np.cumsum(chance[::-1])[::-1] - chance
        mean = chance / own - later / (1.0 - own)
        above = np.triu(-np.outer(1.0 / (1.0 - own) + mean, mean), 1)
        spread = chance / own**2 + later / (1.0 - own) ** 2 - mean**2
        information[begin:end, begin:end] -= count * (above + above.T + np.diag(spread))
    out = np.full(curve.age.size, np.nan)
    try:
        covariance = np.linalg.inv(information)
    except np.linalg.LinAlgError:
        return out
    weighted = covariance / np.outer(1.0 - hazard, 1.0 - hazard)
    total = np.cumsum(2.0 * np.triu(weighted, 1).sum(axis=0) + np.diag(weighted))
    out[kept] = np.where(total >= 0, total, np.nan)
    return out
