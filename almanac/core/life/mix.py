"""From a pool's uncertain level and a shared shape to figures people read: failures in a year, survival, quarters to come."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike

from almanac.core import checks


def expected_first_failures(shape: float, a: float, b: float, age: ArrayLike, units: ArrayLike, edges: ArrayLike) -> checks.Floats:
    """Expected first failures of the units in service between times to come, lambda mixed over its gamma.

    E[exp(-lambda x)] = (b / (b + x))^a, so that no lambda is plugged in.

    Parameters
    ----------
    shape : beta > 0 · a, b : of the gamma, > 0 · age : (n,) years · units : (n,) at each age · edges : (k + 1,) years from now, rising

    Returns
    -------
    (k,) failures

    Raises
    ------
    ContractError : an argument outside its range
    """
    beta = checks.positive("shape", shape)
    old = checks.vector("age", age, low=0.0)
    number = checks.vector("units", units, low=0.0, size=old.size)
    times = checks.vector("edges", edges, low=0.0)
    first, second = checks.positive("a", a), checks.positive("b", b)
    gathered = (old[:, None] + times[None]) ** beta - (old**beta)[:, None]
    alive = np.exp(-first * np.log1p(gathered / second))
    return np.asarray(number @ (alive[:, :-1] - alive[:, 1:]))


def survival_curve(shape: float, a: float, b: float, age: ArrayLike) -> checks.Floats:
    """Survival of a new unit at ages, lambda mixed over its gamma.

    Parameters
    ----------
    shape : beta > 0 · a, b : of the gamma, > 0 · age : (n,) years

    Returns
    -------
    (n,) probabilities

    Raises
    ------
    ContractError : an argument outside its range
    """
    old = checks.vector("age", age, low=0.0)
    beta, first, second = checks.positive("shape", shape), checks.positive("a", a), checks.positive("b", b)
    return np.asarray(np.exp(-first * np.log1p(old**beta / second)))
