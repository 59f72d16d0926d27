"""The law of cumulative demand between days: exact on knots, and in between by its own clock, the expected demand so far."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import CubicSpline
from scipy.special import gammaln, xlogy

from almanac.core import checks
from almanac.core.demand import counts
from almanac.core.errors import ContractError

Days = NDArray[np.int64]
KNOTS_PER_SD = 2.0
COUNTS = (12, 24, 48, 96)
"""Of knots: each set holds the one before, so that parts of a kind look up the same days."""


def knot_days(mean_at_end: float, end_day: int) -> Days:
    """Days on which a law is worked out exactly: close together in spread, so further apart as time goes on.

    Parameters
    ----------
    mean_at_end : parts until `end_day`, >= 0 · end_day : days, >= 1

    Returns
    -------
    (k,) rising days, the last of them `end_day`

    Raises
    ------
    ContractError : an argument outside its range
    """
    expected = checks.number("mean_at_end", mean_at_end, low=0.0)
    last = checks.number("end_day", end_day, low=1.0)
    wanted = KNOTS_PER_SD * float(np.sqrt(expected))
    count = next((count for count in COUNTS if count >= wanted), COUNTS[-1])
    return np.unique(np.ceil(last * (np.arange(1, count + 1) / count) ** 2)).astype(np.int64)


class TimeLine:
    """Cumulative probabilities of the demand (0, t] at any day up to the last knot."""

    def __init__(
        self, days: NDArray[np.int64], mean: checks.Floats, pmf: checks.Floats, clock: Callable[[NDArray[np.int64]], checks.Floats]
    ) -> None:
        """Keep the law on its knots.

        Parameters
        ----------
        days : (k,) rising · mean : (k,) expected parts until each · pmf : (k, n) · clock : expected parts until any days

        Raises
        ------
        ContractError : sizes that differ
        """
        if pmf.shape[0] != days.size or mean.size != days.size:
            raise ContractError(f"pmf: a row for each of {days.size} days was wanted, got {pmf.shape[0]}")
        self.last_day = int(days[-1])
        self._clock = clock
        self._counts = np.arange(pmf.shape[1], dtype=np.float64)
        self._spread = _spread(mean[-1], pmf[-1])
        time = np.concatenate(([0.0], mean))
        # Days on which nothing more is expected add no knot; a law that expects nothing stays where it began.
        kept = np.concatenate(([True], np.diff(time) > 1e-12))
        self._top = float(time[-1])
        self._time = time
        below = np.vstack([np.ones(pmf.shape[1]), np.cumsum(pmf, axis=1)])
        # Over the root of the clock knots lie evenly. What is left beside a law of like mean and spread is small and smooth.
        beside = (below - self._like(time))[kept]
        self._knots = np.sqrt(time[kept])
        # A cubic is known by its values and slopes on the knots, and a ten-millionth is near enough: lines are kept for long.
        self._value = beside.astype(np.float32)
        self._slope = CubicSpline(self._knots, beside)(self._knots, 1).astype(np.float32) if kept.sum() > 1 else self._value

    def pmf(self, days: Days) -> checks.Floats:
        """(w, n) probabilities of 0 .. n-1 until each day, days up to the last knot."""
        time = np.minimum(self._clock(days), self._top)
        below = np.clip(self._like(time) + self._beside(np.sqrt(time)), 0.0, 1.0)
        return np.diff(np.maximum.accumulate(below, axis=1), axis=1, prepend=0.0)

    def _beside(self, at: checks.Floats) -> checks.Floats:
        """(w, n) the cubic spline at some places."""
        if self._knots.size == 1:
            return np.zeros((at.size, self._counts.size))
        left = np.clip(np.searchsorted(self._knots, at, side="right") - 1, 0, self._knots.size - 2)
        width = (self._knots[left + 1] - self._knots[left])[:, None]
        t = (at[:, None] - self._knots[left][:, None]) / width
        value = self._value[left] * (1 + 2 * t) * (1 - t) ** 2 + self._value[left + 1] * t**2 * (3 - 2 * t)
        return np.asarray(value + width * (self._slope[left] * t * (1 - t) ** 2 + self._slope[left + 1] * t**2 * (t - 1)))

    def _like(self, time: checks.Floats) -> checks.Floats:
        """(w, n) cumulative probabilities of a negative binomial of mean `time` and the spread of the last knot, or of a Poisson."""
        n, mean, spread = self._counts, time[:, None], self._spread
        # log of Gamma(n + 1/spread) / Gamma(1/spread) spread^n: nothing to cancel where the spread is next to none.
        rising = np.concatenate(([0.0], np.cumsum(np.log1p(n[:-1] * spread))))
        none = np.log1p(mean * spread) / spread if spread > 0 else mean
        log = rising + xlogy(n, mean / (1.0 + mean * spread)) - none - gammaln(n + 1.0)
        return np.asarray(np.minimum(np.cumsum(np.exp(log), axis=1), 1.0))


def _spread(mean: float, pmf: checks.Floats) -> float:
    """(variance - mean) / mean^2 of a law, at least 0."""
    variance = float(counts.mean_and_variance(pmf)[1])
    return max((variance - mean) / mean**2, 0.0) if mean > 0 else 0.0
