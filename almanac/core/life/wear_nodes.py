"""Weighted nodes of what a kind shares when its parts wear out: shape, mean level and how far its pools lie apart."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import reduce

import numpy as np
from numpy.polynomial.hermite_e import hermegauss

from almanac.core import checks
from almanac.core.errors import ContractError
from almanac.core.life.hierarchy import LOG_SHAPE_MEDIAN, LOG_SHAPE_SD
from almanac.core.life.kind_likelihood import SHAPE_BOUNDS, KindLikelihood, Penalty, most_likely
from almanac.core.life.nodes import LOG_SHAPE_MEDIAN as LOG_A_MEDIAN
from almanac.core.life.nodes import LOG_SHAPE_SD as LOG_A_SD
from almanac.core.life.shrinkage import LARGEST_SHAPE

SHAPES, MEANS, SPREADS = 3, 3, 3
"""Nodes of log beta, log m and log a. Against 11 by 7 by 9 cumulative probabilities move by 0.003 with 24 failures, by 0.0002 with 170."""
PLENTY = 150
"""Past so many failures in a kind its pools' own records carry how far they lie apart, and one node of log a will do."""
NEGLIGIBLE = 1e-3
"""Nodes lighter than this are left out and the rest rescaled."""
FLATTEST = 0.1
"""Smallest curvature taken: a flat direction keeps a finite spread."""


@dataclass(frozen=True)
class WearNodes:
    """Nodes (k,): weight, beta, and the gamma (a, b) of lambda per year^beta; hazard (k, p), H of each pool under each node's beta.

    log_evidence : log of the marginal likelihood they were weighed by, over all they stand for
    """

    weight: checks.Floats
    shape: checks.Floats
    a: checks.Floats
    b: checks.Floats
    hazard: checks.Floats
    log_evidence: float = float("nan")


@dataclass(frozen=True)
class PoolNodes:
    """The same where part groups differ: weight and (a, b) are those of each pool's group, (k, p); shape (k,), hazard (k, p)."""

    weight: checks.Floats
    shape: checks.Floats
    a: checks.Floats
    b: checks.Floats
    hazard: checks.Floats

    @staticmethod
    def alike(nodes: WearNodes) -> PoolNodes:
        """Pools that all have the nodes of their kind."""
        weight, a, b = (np.repeat(column[:, None], nodes.hazard.shape[1], axis=1) for column in (nodes.weight, nodes.a, nodes.b))
        return PoolNodes(weight, nodes.shape, a, b, nodes.hazard)

    def followed_by(self, nodes: tuple[checks.Floats, checks.Floats, checks.Floats]) -> PoolNodes:
        """With one more pool, of which nothing is known but the nodes (weight, a, b) of its group, (k,) each."""
        weight, a, b = (np.column_stack((own, more)) for own, more in zip((self.weight, self.a, self.b), nodes, strict=True))
        return PoolNodes(weight, self.shape, a, b, np.pad(self.hazard, ((0, 0), (0, 1))))


def kind_penalty(kind: str) -> Penalty:
    """The weak stated prior of a kind on (log beta, log a).

    Raises
    ------
    ContractError : a kind without a stated prior
    """
    if kind not in LOG_SHAPE_MEDIAN:
        raise ContractError(f"kind: one of {', '.join(LOG_SHAPE_MEDIAN)} was wanted, got {kind!r}")
    return Penalty((LOG_SHAPE_MEDIAN[kind], LOG_A_MEDIAN), (LOG_SHAPE_SD, LOG_A_SD))


def wear_nodes(likelihood: KindLikelihood, kind: str, *, best: checks.Floats | None = None) -> WearNodes:
    """Adaptive Gauss-Hermite nodes of (log beta, log m, log a) under the penalised marginal.

    The first direction is that of log beta alone, so that few shapes occur and a table of lives is made once for each.

    Parameters
    ----------
    likelihood : pools of the kind, ages in years, at least one failure · kind : memory, ssd, battery or fan
    best : (3,) place of the largest penalised marginal where it is known already; searched for otherwise

    Returns
    -------
    WearNodes

    Raises
    ------
    ContractError : no failure at all, or a kind without a stated prior

    References
    ----------
    Carlin & Louis (2000), chapter 3; Naylor & Smith (1982), Applied Statistics 31, on the quadrature.
    """
    penalty = kind_penalty(kind)
    best = most_likely(likelihood, penalty) if best is None else best
    found = _nodes(likelihood, penalty, best, (SHAPES, MEANS, SPREADS))
    return replace(found, log_evidence=found.log_evidence - float(np.log(LOG_SHAPE_SD * np.sqrt(2 * np.pi))))


def level_nodes(likelihood: KindLikelihood, kind: str) -> WearNodes:
    """The same of the constant school: beta is 1, so that (log m, log a) alone are in doubt, under the same priors.

    Raises
    ------
    ContractError : no failure at all, or a kind without a stated prior
    """
    penalty = kind_penalty(kind)
    level = Penalty((0.0, float(penalty.median[2])), (np.inf, LOG_A_SD))
    return _nodes(likelihood, level, most_likely(likelihood, level, shape=1.0), (1, MEANS, SPREADS))


def averaged(wear: WearNodes, level: WearNodes, weight: float) -> WearNodes:
    """Nodes of both schools as one set. weight : of the wear-out school, 0 to 1"""
    together = np.concatenate((weight * wear.weight, (1.0 - weight) * level.weight))
    kept = together > NEGLIGIBLE * together.max()

    def both(name: str) -> checks.Floats:
        return np.asarray(np.concatenate((getattr(wear, name), getattr(level, name)))[kept])

    return WearNodes(together[kept] / together[kept].sum(), both("shape"), both("a"), both("b"), both("hazard"))


def _nodes(likelihood: KindLikelihood, penalty: Penalty, best: checks.Floats, counts: tuple[int, int, int]) -> WearNodes:
    """Nodes around a place; one of log beta keeps beta where it is."""
    moved = np.array([counts[0] > 1, True, True])
    curvature = _curvature(likelihood, penalty, best)[np.ix_(moved, moved)]
    root = np.linalg.cholesky(np.linalg.inv(curvature))
    points = (counts[0], counts[1], 1 if likelihood.total > PLENTY else counts[2])
    at = [hermegauss(count) for count, own in zip(points, moved, strict=True) if own]
    standard = np.array(np.meshgrid(*(place for place, _ in at), indexing="ij")).reshape(len(at), -1).T
    places = np.tile(best, (standard.shape[0], 1))
    places[:, moved] += standard @ root.T
    places[:, 0] = np.clip(places[:, 0], *SHAPE_BOUNDS)
    places[:, 2] = np.minimum(places[:, 2], np.log(LARGEST_SHAPE))
    log_weight = np.log(reduce(np.multiply.outer, [weight for _, weight in at]).ravel()) + (standard**2).sum(axis=1) / 2
    log_weight += [likelihood.value_and_slope(place)[0] - penalty.at(place)[0] for place in places]
    weight = np.exp(log_weight - log_weight.max())
    log_evidence = float(log_weight.max() + np.log(weight.sum()) + np.log(np.diag(root)).sum())
    kept = weight > NEGLIGIBLE * weight.sum()
    shape, mean, a = np.exp(places[kept]).T
    stretch = likelihood.unit**shape
    hazard = {value: likelihood.hazard(value)[0] * likelihood.unit**value for value in np.unique(shape)}
    return WearNodes(
        weight=weight[kept] / weight[kept].sum(),
        shape=shape,
        a=a,
        b=a / mean * stretch,
        hazard=np.maximum(np.array([hazard[value] for value in shape]), 0.0),
        log_evidence=log_evidence,
    )


def _curvature(likelihood: KindLikelihood, penalty: Penalty, place: checks.Floats, step: float = 1e-4) -> checks.Floats:
    """Hessian of the cost by central differences of its gradient, kept positive."""

    def slope(at: checks.Floats) -> checks.Floats:
        return np.asarray(penalty.at(at)[1] - likelihood.value_and_slope(at)[1])

    hessian = np.array([(slope(place + move) - slope(place - move)) / (2 * step) for move in np.eye(3) * step])
    values, vectors = np.linalg.eigh((hessian + hessian.T) / 2)
    return np.asarray(vectors @ np.diag(np.maximum(values, FLATTEST)) @ vectors.T)
