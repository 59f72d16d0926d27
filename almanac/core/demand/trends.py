"""Units followed by readings: when each crosses the company's threshold, in place of what its age alone would say.

A straight line through a unit's readings falls to the threshold on a day that is in doubt. That the true line is below it on some
day has a Student t probability, the same that Fieller's limits come from; as a unit still serves, the days before today are ruled out.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, fields

import numpy as np
from numpy.typing import ArrayLike, NDArray
from scipy.special import stdtr

from almanac.core import checks
from almanac.core.errors import ContractError
from almanac.core.life.wear import WearLine

DUE = 0.999
"""A unit whose line is below the threshold today with this probability is due at once."""
SMALLEST_SCATTER = 1e-6
"""Readings that lie on a line exactly still leave this much doubt about a share."""
Ints = NDArray[np.int64]


@dataclass(frozen=True)
class Trends:
    """Followed units, (n,) each: their pool, their line (share at day 0 of its own clock, change a day, scatter), today on that clock.

    leave : days from today on which the unit's machine retires, infinite where none is planned · threshold : share it may fall to
    """

    pool: Ints
    intercept: checks.Floats
    slope: checks.Floats
    sigma: checks.Floats
    readings: checks.Floats
    mean_day: checks.Floats
    spread: checks.Floats
    today: checks.Floats
    leave: checks.Floats
    threshold: checks.Floats

    def below(self, days: ArrayLike) -> checks.Floats:
        """(..., n) probability that each unit's line is below the threshold so many days (..., n) from today, whatever was before."""
        day = np.asarray(days, dtype=np.float64) + self.today
        doubt = self.sigma * np.sqrt(1.0 / self.readings + (day - self.mean_day) ** 2 / self.spread)
        return np.asarray(stdtr(self.readings - 2.0, (self.threshold - self.intercept - self.slope * day) / doubt))

    def crossed(self, days: ArrayLike) -> checks.Floats:
        """(w, n) probability that each unit crosses between today and so many days (w,) from now, while its machine serves."""
        until = np.minimum(np.asarray(days, dtype=np.float64)[:, None], self.leave)
        now = self.below(0.0)
        found = np.clip((self.below(until) - now) / np.maximum(1.0 - now, 1e-12), 0.0, 1.0)
        return np.where(now >= DUE, 1.0, found) * (until > 0)


def joined(several: Sequence[Trends]) -> Trends:
    """Units of several parts, at least one, one behind the other."""
    return Trends(*(np.concatenate([getattr(one, item.name) for one in several]) for item in fields(Trends)))


def trends(pool: ArrayLike, lines: Sequence[WearLine], today: ArrayLike, leave: ArrayLike, *, threshold: float) -> Trends:
    """Followed units as arrays.

    Parameters
    ----------
    pool : (n,) row of each unit's pool · lines : (n,) falling lines of its readings · today : (n,) days since its first reading
    leave : (n,) days from today, may be infinite · threshold : share, in (0, 1)

    Returns
    -------
    Trends

    Raises
    ------
    ContractError : sizes that differ, or a line that does not fall

    References
    ----------
    Fieller (1954), Journal of the Royal Statistical Society B 16; Draper & Smith (1998), Applied Regression Analysis, chapter 1.
    """
    place = np.asarray(pool, dtype=np.int64)
    at = checks.vector("today", today, size=len(lines))
    end = np.asarray(leave, dtype=np.float64)
    if place.shape != at.shape or end.shape != at.shape:
        raise ContractError(f"pool, today and leave: {len(lines)} of each were wanted")
    for number, line in enumerate(lines):
        if line.slope >= 0:
            raise ContractError(f"lines[{number}]: a line that falls was wanted")

    def column(name: str) -> checks.Floats:
        return np.array([getattr(line, name) for line in lines], dtype=np.float64)

    return Trends(
        pool=place,
        intercept=column("intercept"),
        slope=column("slope"),
        sigma=np.maximum(column("sigma"), SMALLEST_SCATTER),
        readings=column("readings"),
        mean_day=column("mean_day"),
        spread=column("spread"),
        today=at,
        leave=end,
        threshold=np.full(len(lines), checks.probability("threshold", threshold)),
    )
