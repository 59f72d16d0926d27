"""Argument checks shared by the core: each returns the value in the form the formula needs."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import ArrayLike, NDArray

from almanac.core.errors import ContractError

Floats = NDArray[np.float64]


def vector(name: str, values: ArrayLike, *, low: float = -math.inf, high: float = math.inf, size: int | None = None) -> Floats:
    """A finite float vector within [low, high]; raises ContractError naming the first offender."""
    array = np.asarray(values, dtype=np.float64)
    if array.ndim != 1:
        raise ContractError(f"{name}: a one-dimensional array was wanted, got {array.ndim} dimensions")
    if size is not None and array.size != size:
        raise ContractError(f"{name}: {size} values were wanted, got {array.size}")
    wrong = ~np.isfinite(array) | (array < low) | (array > high)
    if wrong.any():
        place = int(np.flatnonzero(wrong)[0])
        raise ContractError(f"{name}[{place}]: a finite number in [{low:g}, {high:g}] was wanted, got {array[place]}")
    return array


def number(name: str, value: float, *, low: float = -math.inf, high: float = math.inf) -> float:
    """A finite float within [low, high]."""
    if not math.isfinite(value) or not low <= value <= high:
        raise ContractError(f"{name}: a finite number in [{low:g}, {high:g}] was wanted, got {value}")
    return float(value)


def positive(name: str, value: float) -> float:
    """A finite float above zero."""
    if not math.isfinite(value) or value <= 0:
        raise ContractError(f"{name}: a finite number above 0 was wanted, got {value}")
    return float(value)


def probability(name: str, value: float) -> float:
    """A float strictly between 0 and 1."""
    if not 0 < value < 1:
        raise ContractError(f"{name}: a probability above 0 and below 1 was wanted, got {value}")
    return float(value)
