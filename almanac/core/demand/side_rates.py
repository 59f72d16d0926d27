"""Damage and draws without a fault: each pool's own rate, leaning on those of its kind as wear-out does."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from almanac.core import checks
from almanac.core.demand.law import SideStream
from almanac.core.life.nodes import KindNodes, kind_nodes

Moments = tuple[checks.Floats, checks.Floats]


@dataclass(frozen=True)
class SideRates:
    """A stream of a kind that does not know ages. nodes : of a pool's rate before its record"""

    name: str
    nodes: KindNodes

    def moments(self, events: checks.Floats, years: checks.Floats) -> Moments:
        """(k, p) mean and variance of the rate of pools with so many events in so many unit-years, under each node."""
        if self.nodes.pooled:
            # Nothing ever happened: all pools have one rate in common.
            mean = np.repeat((self.nodes.shape / self.nodes.rate)[:, None], events.size, axis=1)
            return mean, mean / self.nodes.rate[:, None]
        shape, rate = self.nodes.shape[:, None] + events, self.nodes.rate[:, None] + years
        return shape / rate, shape / rate**2

    def means(self, events: checks.Floats, years: checks.Floats) -> checks.Floats:
        """(p,) expected events a unit-year of each pool."""
        return np.asarray(self.nodes.weight @ self.moments(events, years)[0])

    def stream(self, events: checks.Floats, years: checks.Floats, share: checks.Floats) -> SideStream:
        """The stream of a part, whose pools take these shares of its time in service: the gamma of the same mean and variance.

        share : (p,) adding up to 1, or all 0 where nothing is in service
        """
        whole = share.sum()
        weight = share / whole if whole > 0 else np.full(share.size, 1.0 / max(share.size, 1))
        mean, doubt = self.moments(events, years)
        each, own = mean @ weight, doubt[:, 0] if self.nodes.pooled else doubt @ weight**2
        middle = float(self.nodes.weight @ each)
        variance = float(self.nodes.weight @ (own + each**2)) - middle**2
        return SideStream(self.name, middle**2 / variance, middle / variance)


def side_rates(name: str, events: ArrayLike, years: ArrayLike) -> SideRates:
    """Fit a stream over the pools of a kind.

    Parameters
    ----------
    name : of the stream · events : (p,) >= 0, parts of an event where a finding is open · years : (p,) >= 0, some above 0

    Returns
    -------
    SideRates

    Raises
    ------
    ContractError : no time under observation at all, or an argument outside its range

    References
    ----------
    Gaver & O'Muircheartaigh (1987), Technometrics 29 (the gamma-Poisson model of failure rates that borrow).
    """
    return SideRates(name, kind_nodes(events, years))
