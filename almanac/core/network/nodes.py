"""A depot that feeds sites: their rates, known, doubted together or each by itself, as weighted nodes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from almanac.core import checks
from almanac.core.stock.lead_time import LeadTime
from almanac.core.stock.rates import NODES, KnownRate, Rate, gamma_nodes

SHARED_NODES, OWN_NODES = 9, 9
"""Of a rate that all sites share, and of each site's own."""


NARROW = 2.0
"""A doubt of this shape and more is drawn well enough by nine nodes: against 60 of them fills move by less than 4e-5."""


def nodes_enough(rate: Rate) -> int:
    """Nodes that a doubted rate takes: more where little is known of it."""
    return SHARED_NODES if isinstance(rate, KnownRate) or rate.shape >= NARROW else NODES


@dataclass(frozen=True)
class Lane:
    """How a site is supplied. days : under way · every : days between departures"""

    days: float
    every: float


@dataclass(frozen=True)
class Network:
    """One part at a depot and its sites.

    weight : (k,) of nodes · depot : (k,) requests a day at the depot's own counter · sites : (k, j) requests a day at each site
    lanes : of the j sites · lead : from the supplier · review_days : between the depot's orders · Q : the depot's lot
    """

    weight: checks.Floats
    depot: checks.Floats
    sites: checks.Floats
    lanes: tuple[Lane, ...]
    lead: LeadTime
    review_days: float
    lot: int

    @property
    def total(self) -> checks.Floats:
        """(k,) requests a day of all."""
        return np.asarray(self.depot + self.sites.sum(axis=1))

    @property
    def mean_total(self) -> float:
        """Requests a day of all, on average over the nodes."""
        return float(self.weight @ self.total)


def shared_nodes(shape: float, rate: float, units: Sequence[float]) -> tuple[checks.Floats, checks.Floats]:
    """(k,) weights and (k, j) rates of places with some units each that share one doubted rate a unit and day.

    Parameters
    ----------
    shape, rate : of the gamma, > 0 · units : in service at each place, >= 0

    Raises
    ------
    ContractError : an argument outside its range
    """
    value, weight = gamma_nodes(shape, rate, SHARED_NODES)
    return weight, value[:, None] * checks.vector("units", units, low=0.0)[None]


def own_nodes(gammas: Sequence[tuple[float, float]]) -> tuple[checks.Floats, checks.Floats]:
    """(k,) weights and (k, j) rates of places whose doubts are their own.

    The rates of a node are drawn independently: each place's quadrature is walked through in an order of its own, so that every
    place keeps its own distribution and the sum's spread is that of independent doubts within the number of nodes.

    Parameters
    ----------
    gammas : (shape, rate) of each place, rates a day

    Raises
    ------
    ContractError : an argument outside its range
    """
    if len(gammas) == 1:
        value, weight = gamma_nodes(*gammas[0], OWN_NODES)
        return weight, value[:, None]
    # Latin hypercube over quantiles: equal weights, each place in an order of its own, fixed for good.
    from scipy.special import gammaincinv

    rows = 64
    order = np.random.default_rng(17)
    middle = (np.arange(rows) + 0.5) / rows
    columns = [gammaincinv(shape, order.permutation(middle)) / rate for shape, rate in gammas]
    means = np.array([shape / rate for shape, rate in gammas])
    values = np.column_stack(columns)
    return np.full(rows, 1.0 / rows), np.asarray(values * (means / values.mean(axis=0))[None])
