"""Units followed by readings: when each crosses the company's threshold, in place of what its age alone would say."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from almanac.core import checks
from almanac.core.errors import ContractError

Ints = NDArray[np.int64]


@dataclass(frozen=True)
class Crossings:
    """Followed units (n,): the row of each one's pool, and (k, n) days from today on which it crosses, draws of equal weight.

    leave : (n,) days from today on which the unit's machine retires, infinite where none is planned
    """

    pool: Ints
    days: checks.Floats
    leave: checks.Floats

    def crossed(self, days: ArrayLike) -> checks.Floats:
        """(w, n) probability that each unit crosses between today and so many days (w,) from now, while its machine serves."""
        until = np.minimum(np.asarray(days, dtype=np.float64)[:, None], self.leave)
        found = (self.days[None] <= until[:, None, :]).mean(axis=1)
        return np.asarray(np.where(until > 0, found, 0.0))


def crossings(pool: ArrayLike, days: ArrayLike, leave: ArrayLike) -> Crossings:
    """Followed units as arrays.

    Parameters
    ----------
    pool : (n,) row of each unit's pool · days : (k, n) >= 0, from today to the crossing, 0 where it is due
    leave : (n,) days from today, may be infinite

    Raises
    ------
    ContractError : sizes that differ, or a day before today
    """
    place, at, end = np.asarray(pool, dtype=np.int64), np.asarray(days, dtype=np.float64), np.asarray(leave, dtype=np.float64)
    if at.ndim != 2 or at.shape[1:] != place.shape or end.shape != place.shape:
        raise ContractError("pool, days and leave: as many units in each were wanted")
    if at.size and not float(at.min()) >= 0.0:
        raise ContractError("days: none before today was wanted, for a unit still serves")
    return Crossings(place, at, end)


def joined(several: Sequence[Crossings]) -> Crossings:
    """Units of several parts, at least one, one behind the other; raises ContractError where not all have as many draws."""
    draws = {one.days.shape[0] for one in several}
    if len(draws) > 1:
        raise ContractError(f"days: as many draws of each were wanted, got {', '.join(map(str, sorted(draws)))}")
    days = np.concatenate([one.days for one in several], axis=1)
    return Crossings(np.concatenate([one.pool for one in several]), days, np.concatenate([one.leave for one in several]))
