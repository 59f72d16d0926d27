"""The three curves a pack's share may follow, and the day each falls to a threshold.

All begin at b and fall by a a year. `straight` goes on so; `level` falls r times as steeply once it is below a level q, which is the
same curve on a clock of each unit's own; `knee` does so from a year k on that each unit has for itself.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from almanac.core import checks
from almanac.core.life.fade.packs import Packs

STRAIGHT, LEVEL, KNEE = "straight", "level", "knee"
CURVES = (STRAIGHT, LEVEL, KNEE)
FREEDOM = 5.0
"""Of the readings' scatter: a reading that is far off pulls no line after it."""
FOREVER = 1e6


@dataclass(frozen=True)
class Paths:
    """Curves of units (...): share when new, fall a year, year of the knee (infinite for none), how many times as steep after it,
    and years in service before the clock began."""

    start: checks.Floats
    fall: checks.Floats
    knee: checks.Floats
    steeper: float
    before: checks.Floats

    def at(self, packs: Packs) -> checks.Floats:
        """(r,) share at each reading."""
        of = packs.unit
        return self._share(of, packs.year + self.before[of])

    def shares(self, years: checks.Floats) -> checks.Floats:
        """(n, a) share of each unit after some years (a,) in service."""
        return self._share(np.arange(self.start.size)[:, None], years[None])

    def _share(self, of: NDArray[np.int64], year: checks.Floats) -> checks.Floats:
        late = np.maximum(year - self.knee[of], 0.0)
        return np.asarray(self.start[of] - self.fall[of] * (year + (self.steeper - 1.0) * late))

    def crossing(self, threshold: float) -> checks.Floats:
        """(...) year on the clock at which the curve is at the threshold; negative where it was before."""
        straight = (self.start - threshold) / self.fall
        with np.errstate(invalid="ignore"):  # no knee: an infinite one is never reached
            after = self.knee + (straight - self.knee) / self.steeper
        return np.minimum(np.where(straight <= self.knee, straight, after) - self.before, FOREVER)


def log_density(packs: Packs, paths: Paths, log_scatter: float) -> checks.Floats:
    """(n,) log likelihood of each unit's readings, scattered around its curve as Student's t.

    References
    ----------
    Lange, Little & Taylor (1989), Journal of the American Statistical Association 84.
    """
    off = (packs.share - paths.at(packs)) * np.exp(-log_scatter)
    each = -(FREEDOM + 1.0) / 2.0 * np.log1p(off**2 / FREEDOM) - log_scatter
    return np.asarray(np.add.reduceat(each, packs.starts))
