"""What a depot owes each of its sites, for every reorder point of the depot at once."""

from __future__ import annotations

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view

from almanac.core import checks

KEPT = 128
"""So many reorder points are kept; those in between are a few steps away."""
NOTHING = 1e-18


class OwedToSites:
    """Parts owed to each site at a departure, by the depot's s: each part owed is the site's with its share of the demand (binomially).

    A depot that has one part less owes one more to whoever asked: with w_y what is asked for exactly up to a position y,

        V_s = (1 - p, p) * (w_{s+1} at none + V_{s+1}),

    a convolution with one request, so that all s together take no longer than a few by themselves. All terms are positive.

    Parameters
    ----------
    within : (k, n) probabilities of what was asked for since the orders that are still under way · lot : Q of the depot
    share : (p, k) of each site among all requests

    References
    ----------
    Graves (1985), Management Science 31, where what is owed is split binomially; the recursion follows by conditioning on one part.
    """

    def __init__(self, within: checks.Floats, lot: int, share: checks.Floats) -> None:
        self.top = within.shape[1]
        reached = np.pad(np.cumsum(within, axis=1), ((0, 0), (0, lot + 1)), mode="edge")
        # (k, top + 2) of s = -1 ... top: nobody is owed anything, over the positions s + 1 ... s + Q.
        self._none = sliding_window_view(reached, lot, axis=1).mean(axis=2)[:, : self.top + 2]
        self._share = share[:, :, None]
        self._step = max(self.top // KEPT, 1)
        self._kept: dict[int, checks.Floats] = {self.top: np.zeros((*share.shape, 1))}
        self._lowest = self.top
        self._last = self.top, self._kept[self.top]

    def at(self, s: int, place: int, tail: float) -> checks.Floats:
        """(k, m) probabilities that a site is owed 0 .. m-1 parts under a depot's s >= -1; what is rarer than `tail` is cut off."""
        found = self._positive(min(s, self.top))[place].copy()
        found[:, 0] += self._none[:, min(s, self.top) + 1]
        last = int(np.max(np.nonzero(found.max(axis=0) > tail)[0], initial=0)) + 1
        return np.asarray(found[:, :last])

    def of_all(self, s: int, tail: float) -> checks.Floats:
        """(p, k, m) the same of all sites, cut off where it is rare for each of them."""
        found = self._positive(min(s, self.top)).copy()
        found[:, :, 0] += self._none[:, min(s, self.top) + 1]
        last = int(np.max(np.nonzero(found.max(axis=(0, 1)) > tail)[0], initial=0)) + 1
        return np.asarray(found[:, :, :last])

    def _positive(self, s: int) -> checks.Floats:
        """(p, k, m) the same without the times the depot owes nobody; one site after the other asks it of the same s."""
        if self._last[0] == s:
            return self._last[1]
        while self._lowest > s:
            self._keep(max(self._lowest - self._step, -1))
        start = min(kept for kept in self._kept if kept >= s)
        self._last = s, self._stepped(start, s)
        return self._last[1]

    def _keep(self, s: int) -> None:
        self._kept[s] = self._stepped(self._lowest, s)
        self._lowest = s

    def _stepped(self, start: int, s: int) -> checks.Floats:
        found = self._kept[start]
        for y in range(start - 1, s - 1, -1):
            found = self._one_less(found, y)
        return found

    def _one_less(self, above: checks.Floats, s: int) -> checks.Floats:
        """V_s of V_{s+1}."""
        size = above.shape[2]
        found = np.zeros((*above.shape[:2], size + 1))
        found[:, :, :size] = above
        found[:, :, 0] += np.maximum(self._none[:, s + 2] - self._none[:, s + 1], 0.0)
        moved = found[:, :, :size] * self._share
        found[:, :, :size] -= moved
        found[:, :, 1:] += moved
        last = int(np.max(np.nonzero(found.max(axis=(0, 1)) > NOTHING)[0], initial=0)) + 1
        return found[:, :, :last]
