"""Readings of one part group: shares of the design capacity by unit and age, and when each unit is looked at from."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import ArrayLike, NDArray

from almanac.core import checks
from almanac.core.errors import ContractError

Ints = NDArray[np.int64]


@dataclass(frozen=True)
class Packs:
    """Readings (r,) in the order of their units (n,), and the units.

    unit : (r,) rising · year : (r,) since the unit was fitted, or since its first reading where that day is not known · share : (r,)
    now : (n,) year of the as-of day on the same clock · dated : (n,) whether the day of fitting is known
    """

    unit: Ints
    year: checks.Floats
    share: checks.Floats
    now: checks.Floats
    dated: NDArray[np.bool_]

    @property
    def units(self) -> int:
        return int(self.now.size)

    @cached_property
    def starts(self) -> Ints:
        """(n,) where each unit's readings begin."""
        return np.searchsorted(self.unit, np.arange(self.units))

    def some(self, units: Ints) -> Packs:
        """Some of the units, in rising order."""
        place = np.full(self.units, -1, dtype=np.int64)
        place[units] = np.arange(units.size)
        kept = place[self.unit] >= 0
        return Packs(place[self.unit[kept]], self.year[kept], self.share[kept], self.now[units], self.dated[units])


def packs(unit: ArrayLike, year: ArrayLike, share: ArrayLike, now: ArrayLike, dated: ArrayLike) -> Packs:
    """Checked readings.

    Parameters
    ----------
    unit : (r,) from 0 on, each with a reading · year : (r,) >= 0 · share : (r,) in (0, 2] · now : (n,) >= its last reading
    dated : (n,) whether year 0 is the day of fitting

    Raises
    ------
    ContractError : an argument outside its range, or a unit without a reading
    """
    of = np.asarray(unit, dtype=np.int64)
    at, read = checks.vector("year", year, low=0.0, size=of.size), checks.vector("share", share, low=1e-6, high=2.0, size=of.size)
    today, known = checks.vector("now", now, low=0.0), np.asarray(dated, dtype=bool)
    if known.shape != today.shape or not np.array_equal(np.unique(of), np.arange(today.size)):
        raise ContractError(f"unit: readings of each of {today.size} units were wanted, counted from 0")
    if (at > today[of] + 1e-9).any():
        raise ContractError("now: a day after every reading was wanted")
    order = np.lexsort((at, of))
    return Packs(of[order], at[order], read[order], today, known)
