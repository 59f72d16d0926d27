"""Nodes of each part group of a kind: its own shape, as far as its failures pay for one, beside what all groups share.

Log beta of a group is mu + tau z; what is shared (mu, log tau, log m, log a) is integrated on Gauss-Hermite points around its most likely
place, z by its own quadrature. Each group is left with three shapes that have its mean and spread, taken from few sets, so that tables of
lives are made once for many groups; and on each of them points of (log m, log a) as they lie where the group has that shape.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import reduce

import numpy as np
from numpy.polynomial.hermite_e import hermegauss
from scipy.special import logsumexp, ndtri

from almanac.core import checks
from almanac.core.errors import ContractError
from almanac.core.forecast.evidence import SHAPES, Evidence
from almanac.core.forecast.kind_evidence import of_groups
from almanac.core.forecast.posterior import MOST_A, POINTS, Model, Posterior
from almanac.core.life.wear_nodes import PLENTY

OUTER = 3
"""Points of each number that is shared."""
STEP = 0.2
"""Of the log shapes that middles of sets are taken from."""
WIDTHS = (0.2, 0.4, 0.8, 1.4)
"""How far the outer shapes of a set lie from its middle, in log shape."""
MOST_OUTSIDE = 0.45
"""Weight of the outer shapes, at most: the smallest width that does with less is taken."""
NARROWEST = 1e-4
MUCH, STEPS_OF_MUCH, FURTHEST = 0.1, 4, 1.5
"""Share of a kind's failures that moves what all its pools have in common, steps then taken, and how far one goes at most."""
NINETY = float(ndtri(0.95))


@dataclass(frozen=True)
class GroupNodes:
    """What a part group is known by: nodes (k,) of weight, beta, and the gamma (a, b) of lambda per year^beta.

    log_shape, spread : mean and standard deviation of log beta · weights add up to 1
    """

    weight: checks.Floats
    shape: checks.Floats
    a: checks.Floats
    b: checks.Floats
    log_shape: float
    spread: float

    @property
    def middle(self) -> float:
        """The shape half of what is believed lies below."""
        return float(np.exp(self.log_shape))

    @property
    def interval(self) -> tuple[float, float]:
        """90% limits of the shape."""
        return float(np.exp(self.log_shape - NINETY * self.spread)), float(np.exp(self.log_shape + NINETY * self.spread))


@dataclass(frozen=True)
class PartGroups:
    """of : part groups in their order · unseen : one that nothing is known of · apart : tau, how far shapes lie apart, its mean

    log_evidence : log of the marginal likelihood of a kind whose groups may differ
    """

    of: tuple[GroupNodes, ...]
    unseen: GroupNodes
    apart: float
    log_evidence: float


@dataclass(frozen=True)
class _Places:
    """Weighted places (n, d) of what is shared."""

    place: checks.Floats
    weight: checks.Floats
    log_evidence: float


def part_groups(evidence: Evidence, shape_median: float) -> PartGroups:
    """Fit the part groups of a kind: their shapes over parts taken whole, their levels over pools.

    Parameters
    ----------
    evidence : of pools, with at least one failure, or something believed · shape_median : of the kind's stated prior

    Returns
    -------
    PartGroups : every group has as many nodes, three shapes of each

    Raises
    ------
    ContractError : no failure at all, or a median that is not above 0

    References
    ----------
    Carlin & Louis (2000), chapter 3; Naylor & Smith (1982), Applied Statistics 31, on the quadrature.
    """
    checks.positive("shape_median", shape_median)
    if evidence.total <= 0 and evidence.believed is None:
        raise ContractError("evidence: at least one failure was wanted")
    posterior = Posterior(of_groups(evidence), Model(shape_median, drifts=False))
    places = _places(posterior)
    _, log_shape, share = posterior.integrated(places.place, POINTS)
    at = [_Shape.of(places.weight[:, None] * share[:, group], log_shape[:, group]) for group in range(posterior.groups)]
    mu, tau = _between(posterior, places.place)
    points, own = hermegauss(POINTS)
    unseen = _Shape.of(places.weight[:, None] * own / own.sum(), mu[:, None] + tau[:, None] * points)
    anchor = at[int(posterior.evidence.failures.argmax())].mean
    levels = _Levels.of(evidence, np.array([one.mean for one in at]))
    found = [levels.nodes(group, one, anchor) for group, one in enumerate(at)]
    return PartGroups(tuple(found), levels.nodes(None, unseen, anchor), float(places.weight @ tau), places.log_evidence)


def level_evidence(evidence: Evidence) -> float:
    """Log of the marginal likelihood of one constant rate over the same parts."""
    return _places(Posterior(of_groups(evidence), Model(None, drifts=False))).log_evidence


def _places(posterior: Posterior) -> _Places:
    best = posterior.best()
    root = np.linalg.cholesky(posterior.curvature(best))
    at, own = hermegauss(OUTER)
    standard = np.array(np.meshgrid(*([at] * best.size), indexing="ij")).reshape(best.size, -1).T
    place = best + standard @ root.T
    log_weight = np.log(reduce(np.multiply.outer, [own] * best.size).ravel()) + (standard**2).sum(axis=1) / 2
    log_weight = log_weight + posterior.integrated(place, POINTS)[0]
    whole = float(logsumexp(log_weight))
    return _Places(place, np.exp(log_weight - whole), whole + float(np.log(np.diag(root)).sum()))


def _between(posterior: Posterior, place: checks.Floats) -> tuple[checks.Floats, checks.Floats]:
    """(n,) mu and tau; a kind of one group has no telling how far others would lie from it."""
    if posterior.model.shapes(posterior.groups) < 2:
        return place[:, 0], np.zeros(place.shape[0])
    return place[:, 0], np.exp(place[:, 1])


@dataclass(frozen=True)
class _Shape:
    """Mean and variance of a log shape."""

    mean: float
    variance: float

    @staticmethod
    def of(weight: checks.Floats, log_shape: checks.Floats) -> _Shape:
        share = weight / weight.sum()
        mean = float((share * log_shape).sum())
        return _Shape(mean, max(float((share * (log_shape - mean) ** 2).sum()), NARROWEST))


@dataclass(frozen=True)
class _Levels:
    """log m and log a over the pools, shapes of the groups given: where they are most likely, and their covariance there."""

    evidence: Evidence
    log_shape: checks.Floats
    centre: checks.Floats
    covariance: checks.Floats

    @staticmethod
    def of(evidence: Evidence, log_shape: checks.Floats) -> _Levels:
        posterior = Posterior(evidence, Model(None, drifts=False), log_shape)
        best = posterior.best()
        return _Levels(evidence, log_shape, best, posterior.curvature(best))

    def nodes(self, group: int | None, shape: _Shape, anchor: float) -> GroupNodes:
        """Nodes of one group, on each of three shapes the levels as they lie where it has that one; None : of a group without a pool."""
        three, of_three = _three(shape.mean, shape.variance, anchor)
        # Past many failures the pools' own records carry how far they lie apart.
        counts = (OUTER, 1 if self.evidence.total > PLENTY else OUTER)
        at = [hermegauss(count) for count in counts]
        standard = np.array(np.meshgrid(*(points for points, _ in at), indexing="ij")).reshape(2, -1).T
        own = np.multiply.outer(*(share / share.sum() for _, share in at)).ravel()
        around = standard @ np.linalg.cholesky(self.covariance).T
        moved = np.array([self._given(group, float(one)) + around for one in three])
        a = np.exp(np.minimum(moved[..., 1], MOST_A)).ravel()
        beta = np.repeat(np.exp(three), own.size)
        return GroupNodes(
            weight=np.multiply.outer(of_three, own).ravel(),
            shape=beta,
            a=a,
            b=a / np.exp(moved[..., 0].ravel()) * self.evidence.unit**beta,
            log_shape=shape.mean,
            spread=float(np.sqrt(shape.variance)),
        )

    def _given(self, group: int | None, log_shape: float) -> checks.Floats:
        """(2,) where the levels are most likely once a group has a shape, by Newton's steps; more for one that carries much of the kind."""
        if group is None:
            return self.centre
        others = self.log_shape.copy()
        others[group] = log_shape
        posterior = Posterior(self.evidence, Model(None, drifts=False), others)
        carries = float(self.evidence.failures[self.evidence.group == group].sum()) / max(self.evidence.total, 1e-9)
        place, covariance = self.centre, self.covariance
        for _ in range(STEPS_OF_MUCH if carries > MUCH else 1):
            place = place - np.clip(covariance @ posterior.slope(place)[1], -FURTHEST, FURTHEST)
            covariance = posterior.curvature(place) if carries > MUCH else covariance
        return place


def _three(mean: float, variance: float, anchor: float) -> tuple[checks.Floats, checks.Floats]:
    """Three log shapes of a set, and the weights by which they have a mean and, as far as steps allow, a variance."""
    middle = anchor + round((mean - anchor) / STEP) * STEP
    middle = float(np.clip(middle, SHAPES[0] + WIDTHS[-1], SHAPES[1] - WIDTHS[-1]))
    away = mean - middle
    square = variance + away**2
    width = next((one for one in WIDTHS if square <= MOST_OUTSIDE * one**2), WIDTHS[-1])
    # What lies between two steps is spread at least so far as to have its mean.
    outside = float(np.clip(max(square, abs(away) * width), 0.0, width**2)) / width**2
    low, high = outside / 2 - away / (2 * width), outside / 2 + away / (2 * width)
    weight = np.clip(np.array([low, 1.0 - outside, high]), 0.0, None)
    return middle + width * np.array([-1.0, 0.0, 1.0]), weight / weight.sum()
