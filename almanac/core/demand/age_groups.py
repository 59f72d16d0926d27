"""Positions in service, alike ones together: whose pool, how old their part, how many, and when they come and go."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from almanac.core import checks
from almanac.core.errors import ContractError

Ints = NDArray[np.int64]
EVERY = slice(None)


@dataclass(frozen=True)
class AgeGroups:
    """Positions alike, by row: their pool, the age of their part in years, how many, and the days they enter and leave service."""

    pool: Ints
    age: checks.Floats
    units: checks.Floats
    enter: checks.Floats
    leave: checks.Floats

    def some(self, rows: Ints) -> AgeGroups:
        """Some of the rows."""
        return AgeGroups(self.pool[rows], self.age[rows], self.units[rows], self.enter[rows], self.leave[rows])

    def stretches(self, start: float, end: float, rows: Ints | slice = EVERY) -> checks.Floats:
        """(n, 2) days of its own time, from when it entered, that each position spends in a window."""
        enter, leave = self.enter[rows], self.leave[rows]
        first = np.maximum(np.minimum(start, leave) - enter, 0.0)
        last = np.maximum(np.minimum(end, leave) - enter, 0.0)
        return np.column_stack((first, np.maximum(first, last)))


def age_groups(pool: NDArray[np.int64], age: checks.Floats, units: checks.Floats, enter: checks.Floats, leave: checks.Floats) -> AgeGroups:
    """Checked positions.

    Parameters
    ----------
    pool : (n,) row of the pool · age : (n,) years when it enters or on day 0, >= 0 · units : (n,) >= 0
    enter, leave : (n,) days from now; 0 or earlier is in service today; leave may be inf

    Returns
    -------
    AgeGroups : rows that are never in service left out

    Raises
    ------
    ContractError : an argument outside its range
    """
    old = checks.vector("age", age, low=0.0)
    number = checks.vector("units", units, low=0.0, size=old.size)
    begin = np.maximum(checks.vector("enter", enter, size=old.size), 0.0)
    end = np.asarray(leave, dtype=np.float64)
    if end.shape != old.shape or np.isnan(end).any():
        raise ContractError("leave: a day for each row was wanted, infinite where none is planned")
    kept = (number > 0) & (end > begin)
    return AgeGroups(np.asarray(pool, dtype=np.int64)[kept], old[kept], number[kept], begin[kept], end[kept])
