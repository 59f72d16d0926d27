"""Duty and air as acceleration of age: how many times faster parts of a kind age in one class than in the ordinary one.

A class has a pace of its own only where its record says so; otherwise its pace is 1, with the reason.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import minimize
from scipy.special import ndtri

from almanac.core import checks
from almanac.core.errors import ContractError
from almanac.core.life.kind_likelihood import SHAPE_BOUNDS, KindLikelihood
from almanac.core.life.school import FEWEST, PASSES
from almanac.core.life.shrinkage import LARGEST_SHAPE, SMALLEST_SHAPE

FASTEST = float(np.log(20.0))
"""No class is taken to age more than so many times faster or slower."""
FARTHEST = 15.0
"""The logarithm of the mean stays so near to where it began that no power overflows."""
LEVEL = 0.90
STEP = 1e-4
Members = NDArray[np.bool_]


@dataclass(frozen=True)
class ClassPace:
    """How fast a class ages beside the ordinary one of its factor.

    factor, of_class : as given · pace : 1 where it is not taken · low, high : 90% limits, None where it is not taken
    failures, others : D of the class, and of the ordinary class · gain : in log-likelihood, None where it was not tried
    """

    factor: str
    of_class: str
    pace: float
    low: float | None
    high: float | None
    failures: float
    others: float
    gain: float | None
    reason: str

    @property
    def taken(self) -> bool:
        return self.low is not None


@dataclass(frozen=True)
class Acceleration:
    """Of a kind: what was found of each class, and (p,) log pace of each pool."""

    classes: tuple[ClassPace, ...]
    log_pace: checks.Floats


@dataclass(frozen=True)
class _Fit:
    value: float
    place: checks.Floats
    log_pace: checks.Floats


def accelerations(likelihood: KindLikelihood, place: checks.Floats, classes: Mapping[str, tuple[list[str], str]]) -> Acceleration:
    """Test each class against the ordinary one; those that pass are fitted together.

    Of the classes with eight failures on each side, all are given a pace; the one that matters least is taken out while twice the
    log-likelihood it gains is below 3.841.

    Parameters
    ----------
    likelihood : of the kind, unpaced · place : (3,) of its largest marginal, where the search begins
    classes : factor -> (class of each pool, the ordinary class)

    Returns
    -------
    Acceleration

    Raises
    ------
    ContractError : a factor that does not name one class for each pool

    References
    ----------
    Meeker & Escobar (1998), Statistical Methods for Reliability Data, section 17.2 (scale acceleration), 8.3 (likelihood ratio).
    """
    tried: list[tuple[str, str, Members]] = []
    found: dict[tuple[str, str], ClassPace] = {}
    for factor, (of_pool, ordinary) in classes.items():
        if len(of_pool) != likelihood.pools:
            raise ContractError(f"classes: {factor} names {len(of_pool)} classes for {likelihood.pools} pools")
        named = np.array(of_pool, dtype=object)
        others = float(likelihood.failures[named == ordinary].sum())
        for name in sorted({name for name in of_pool if name != ordinary}):
            own = np.asarray(named == name)
            count = float(likelihood.failures[own].sum())
            if min(count, others) >= FEWEST:
                tried.append((factor, name, own))
            found[factor, name] = _not_taken(factor, name, count, others, None)
    taken = _tested(likelihood, place, tried, found)
    log_pace = np.zeros(likelihood.pools)
    if taken:
        best = _fit(likelihood, place, [own for *_, own in taken])
        spread = _spread(likelihood, best, [own for *_, own in taken]) * float(ndtri((1 + LEVEL) / 2))
        for (factor, name, own), middle, half in zip(taken, best.log_pace, spread, strict=True):
            log_pace[own] += middle
            found[factor, name] = _taken(found[factor, name], float(middle), float(half))
    return Acceleration(tuple(found.values()), log_pace)


def _tested(
    likelihood: KindLikelihood, place: checks.Floats, tried: list[tuple[str, str, Members]], found: dict[tuple[str, str], ClassPace]
) -> list[tuple[str, str, Members]]:
    """Backward elimination; what a class gains, given the others that are left, is written into `found`."""
    left = list(tried)
    while left:
        whole = _fit(likelihood, place, [own for *_, own in left])
        gains = []
        for out in range(len(left)):
            rest = [own for number, (*_, own) in enumerate(left) if number != out]
            gains.append(max(whole.value - _fit(likelihood, whole.place, rest).value, 0.0))
        for (factor, name, _), gain in zip(left, gains, strict=True):
            known = found[factor, name]
            found[factor, name] = _not_taken(factor, name, known.failures, known.others, gain)
        least = int(np.argmin(gains))
        if 2 * gains[least] >= PASSES:
            break
        left.pop(least)
    return left


def _fit(likelihood: KindLikelihood, place: checks.Floats, members: list[Members]) -> _Fit:
    """The largest marginal with a pace for each class."""
    classes = np.array(members, dtype=np.float64).reshape(len(members), likelihood.pools)

    def cost(at: checks.Floats) -> tuple[float, checks.Floats]:
        return _cost(likelihood, classes, at)

    mean = (float(place[1]) - FARTHEST, float(place[1]) + FARTHEST)
    bounds = [SHAPE_BOUNDS, mean, (np.log(SMALLEST_SHAPE), np.log(LARGEST_SHAPE)), *[(-FASTEST, FASTEST)] * len(members)]
    start = np.concatenate((place, np.zeros(len(members))))
    best = minimize(cost, start, jac=True, method="L-BFGS-B", bounds=bounds, options={"ftol": 1e-12, "gtol": 1e-6})
    return _Fit(-float(best.fun), np.asarray(best.x[:3]), np.asarray(best.x[3:]))


def _cost(likelihood: KindLikelihood, classes: checks.Floats, at: checks.Floats) -> tuple[float, checks.Floats]:
    paced = likelihood.paced(at[3:] @ classes)
    value, slope = paced.value_and_slope(at[:3])
    return -value, -np.concatenate((slope, classes @ paced.slope_by_pace(at[:3])))


def _spread(likelihood: KindLikelihood, best: _Fit, members: list[Members]) -> checks.Floats:
    """Standard errors of the logarithms of the paces, from the curvature with all else free."""
    classes = np.array(members, dtype=np.float64)
    at = np.concatenate((best.place, best.log_pace))
    # A bound of log a is no place to differ around; the pools are alike there, whatever a is.
    free = np.array([0, 1, *([2] if np.log(SMALLEST_SHAPE) < at[2] < np.log(LARGEST_SHAPE) - STEP else []), *range(3, at.size)])
    moves = np.eye(at.size)[free] * STEP
    rows = [(_cost(likelihood, classes, at + move)[1] - _cost(likelihood, classes, at - move)[1])[free] / (2 * STEP) for move in moves]
    hessian = np.array(rows)
    values, vectors = np.linalg.eigh((hessian + hessian.T) / 2)
    covariance = vectors @ np.diag(1.0 / np.maximum(values, 1e-6)) @ vectors.T
    return np.sqrt(np.diag(covariance)[-len(members) :])


def _not_taken(factor: str, name: str, count: float, others: float, gain: float | None) -> ClassPace:
    if gain is None:
        few = f"{count:.4g} failures here and {others:.4g} in the ordinary class: {FEWEST} on each side are needed to tell"
        return ClassPace(factor, name, 1.0, None, None, count, others, None, few)
    reason = f"twice the gain in log-likelihood is {2 * gain:.2f}, below {PASSES}: no difference can be told"
    return ClassPace(factor, name, 1.0, None, None, count, others, gain, reason)


def _taken(tested: ClassPace, middle: float, half: float) -> ClassPace:
    assert tested.gain is not None
    pace, low, high = (float(np.exp(value)) for value in (middle, middle - half, middle + half))
    reason = f"twice the gain in log-likelihood is {2 * tested.gain:.2f}, past {PASSES}"
    return ClassPace(tested.factor, tested.of_class, pace, low, high, tested.failures, tested.others, tested.gain, reason)
