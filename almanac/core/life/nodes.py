"""Uncertainty of the kind's own parameters, carried into the forecast as weighted nodes of (mean, shape).

Plug-in values alone make intervals too narrow: with few failures the kind's mean rate is itself uncertain.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.polynomial.hermite_e import hermegauss
from numpy.typing import ArrayLike
from scipy.optimize import minimize

from almanac.core import checks
from almanac.core.life import shrinkage

LOG_SHAPE_MEDIAN = float(np.log(2.0))
LOG_SHAPE_SD = 1.5
"""Weak stated prior on log a: pools of a kind differ by a factor of about two, give or take a lot."""
MEAN_NODES, SHAPE_NODES = 5, 3
"""Enough for the constant rate: against 21 by 15 nodes the demo's cumulative probabilities move by at most 0.002."""
PLENTY = 2000
"""Past so many failures in a kind its mean is known to a few per cent, and three nodes of it carry what is left."""
NEGLIGIBLE = 2e-3
"""Nodes lighter than this are left out and the rest rescaled."""


@dataclass(frozen=True)
class KindNodes:
    """Weighted gamma priors of a kind. weight, shape, rate : (k,), weights add up to 1. `pooled` where nothing failed."""

    weight: checks.Floats
    shape: checks.Floats
    rate: checks.Floats
    pooled: bool = False


def kind_nodes(failures: ArrayLike, exposure: ArrayLike, believed: tuple[float, float] = (0.0, 0.0)) -> KindNodes:
    """Adaptive Gauss-Hermite nodes of (log mean, log shape) under the penalised marginal likelihood.

    Parameters
    ----------
    failures, exposure : (p,) D >= 0 and T >= 0, some T > 0 or something believed
    believed : failures and time of what is believed of the kind's mean, (0, 0) for nothing

    Returns
    -------
    KindNodes : up to 15 nodes; one node Gamma(0.5, T), pooled, where the kind has no failure

    Raises
    ------
    ContractError : no exposure at all, or an argument outside the ranges above

    References
    ----------
    Carlin & Louis (2000), chapter 3; Naylor & Smith (1982), Applied Statistics 31, on the quadrature.
    """
    seen, years = checks.number("believed failures", believed[0], low=0.0), checks.number("believed time", believed[1], low=0.0)
    if seen > 0 and not np.sum(exposure):
        count, time = np.zeros(0), np.zeros(0)
    else:
        count, time = shrinkage.pool_arrays(failures, exposure)
    if count.sum() + seen == 0.0:
        start = shrinkage.fit_prior(count, time)
        return KindNodes(np.ones(1), np.array([start.shape]), np.array([start.rate]), pooled=True)
    count, time = count[time > 0], time[time > 0]

    def cost(place: checks.Floats) -> float:
        log_mean, log_shape = place
        shape = float(np.exp(log_shape))
        penalty = 0.5 * ((log_shape - LOG_SHAPE_MEDIAN) / LOG_SHAPE_SD) ** 2
        mean = float(np.exp(log_mean))
        told = shrinkage.log_marginal(shape, shape / mean, count, time) if count.size else 0.0
        return float(penalty - told - (seen * log_mean - mean * years))

    crude = np.array([np.log((count.sum() + seen) / (time.sum() + years)), LOG_SHAPE_MEDIAN])
    best = minimize(cost, crude, method="BFGS", options={"gtol": 1e-4}).x
    root = np.linalg.cholesky(np.linalg.inv(_curvature(cost, best)))
    return _weighted(cost, best, root, 3 if count.sum() + seen > PLENTY else MEAN_NODES)


def _curvature(cost: Callable[[checks.Floats], float], place: checks.Floats, step: float = 1e-3) -> checks.Floats:
    """Hessian by central differences, floored so that a flat direction keeps a finite spread."""
    hessian = np.empty((2, 2))
    for i in range(2):
        for j in range(2):
            up, across = np.eye(2)[i] * step, np.eye(2)[j] * step
            corners = [cost(place + up + across), cost(place + up - across), cost(place - up + across), cost(place - up - across)]
            hessian[i, j] = (corners[0] - corners[1] - corners[2] + corners[3]) / (4 * step * step)
    values, vectors = np.linalg.eigh((hessian + hessian.T) / 2)
    return np.asarray(vectors @ np.diag(np.maximum(values, 0.1)) @ vectors.T)


def _weighted(cost: Callable[[checks.Floats], float], best: checks.Floats, root: checks.Floats, mean_nodes: int) -> KindNodes:
    mean_at, mean_weight = hermegauss(mean_nodes)
    shape_at, shape_weight = hermegauss(SHAPE_NODES)
    standard = np.array([(u, v) for u in mean_at for v in shape_at])
    places = best + standard @ root.T
    places[:, 1] = np.minimum(places[:, 1], np.log(shrinkage.LARGEST_SHAPE))
    log_weight = np.log(np.outer(mean_weight, shape_weight)).ravel() + (standard**2).sum(axis=1) / 2
    log_weight -= np.array([cost(place) for place in places])
    weight = np.exp(log_weight - log_weight.max())
    weight /= weight.sum()
    kept = weight > NEGLIGIBLE
    shape = np.exp(places[kept, 1])
    return KindNodes(weight[kept] / weight[kept].sum(), shape, shape / np.exp(places[kept, 0]))
