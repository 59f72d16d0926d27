"""The share of requests that every site meets, by its level and under a depot's s, all sites at once."""

from __future__ import annotations

import numpy as np

from almanac.core import checks
from almanac.core.network.windows import windows


class SiteFills:
    """Fill by level of all sites: the figures of `SiteCurve.fill`, in one sum instead of one a site.

    Parameters
    ----------
    weight : (k,) of the nodes · before, after : (p, k, n) E[(D - y)+] when a departure's parts are there and just before the next one's
    mean_before, mean_after : (p, k) what is asked for until then · wanted : (p,) requests between two departures
    """

    def __init__(
        self,
        weight: checks.Floats,
        excesses: tuple[checks.Floats, checks.Floats],
        means: tuple[checks.Floats, checks.Floats],
        wanted: checks.Floats,
    ) -> None:
        self.weight = weight
        # What is missed is a difference of two shortages, and a sum over the difference is one sum less.
        self.between = excesses[1] - excesses[0]
        self.asked = means[1] - means[0]
        # Where nothing is asked for nothing is missed, whatever it is divided by.
        self.wanted = np.where(wanted > 0, wanted, 1.0)

    def at(self, late: checks.Floats, most: int) -> checks.Floats:
        """(p, most + 1) fill where the depot owes each site 0 .. m-1 parts with probabilities `late` (p, k, m)."""
        owed = late.shape[2]
        below = np.broadcast_to(self.asked[:, :, None], (*self.asked.shape, owed - 1))
        above = self.between[:, :, np.minimum(np.arange(most + 1), self.between.shape[2] - 1)]
        row = np.ascontiguousarray(np.concatenate((below, above), axis=2))
        share = self.weight[:, None] * late[:, :, ::-1]
        missed = np.einsum("pkl,pkly->py", share, windows(row, owed))
        return np.asarray(np.clip(1.0 - missed / self.wanted[:, None], 0.0, 1.0))


class SiteShortages:
    """Parts owed to machines on average by level of all sites: the figures of `SiteCurve.short`, in one sum.

    Parameters
    ----------
    weight : (k,) of the nodes · between : (p, k, n) E[(D - y)+] on average between two departures · mean : (p, k) what is asked for then
    """

    def __init__(self, weight: checks.Floats, between: checks.Floats, mean: checks.Floats) -> None:
        self.weight, self.between, self.mean = weight, between, mean

    def at(self, late: checks.Floats, most: int) -> checks.Floats:
        """(p, most + 1) where the depot owes each site 0 .. m-1 parts with probabilities `late` (p, k, m)."""
        owed = late.shape[2]
        below = self.mean[:, :, None] + np.arange(owed - 1, 0, -1)
        above = self.between[:, :, np.minimum(np.arange(most + 1), self.between.shape[2] - 1)]
        row = np.ascontiguousarray(np.concatenate((below, above), axis=2))
        share = self.weight[:, None] * late[:, :, ::-1]
        return np.asarray(np.einsum("pkl,pkly->py", share, windows(row, owed)))

    def asked(self, late: checks.Floats) -> checks.Floats:
        """(p,) parts asked for and not yet there, on average."""
        return np.asarray((self.mean + late @ np.arange(late.shape[2])) @ self.weight)
