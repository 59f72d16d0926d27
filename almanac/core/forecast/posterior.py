"""The posterior of what a kind shares, drawn by importance sampling, with the marginal likelihood that weighs schools and drifts.

Lambda of a pool is Gamma(a, a / m) in ages over the kind's oldest; log beta of a part group is mu + tau z with tau half-normal. Every
lambda is worked out by hand and every z by quadrature around its own peak, so that what is drawn is (mu, log tau, log m, log a, trend)
alone, however many part groups there are.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.polynomial.hermite_e import hermegauss
from scipy.optimize import minimize
from scipy.special import gammaln

from almanac.core import checks
from almanac.core.forecast.evidence import SHAPES, Evidence

SHAPE_SD = 0.7
"""Of log beta around the kind's median: wide enough that the log can overrule it."""
GROUP_SD = 0.4
"""Of tau, half-normal: how far shapes of part groups lie apart."""
A_MEDIAN, A_SD, MOST_A = float(np.log(2.0)), 1.5, float(np.log(1e4))
TREND_SD = 0.15
"""Of the drift a year."""
DRAWS, ROUNDS, FREEDOM = 1500, 3, 7.0
STEP = 1e-3
NOTHING_GATHERED = 1e-200
NARROWEST = 1e-3
SEARCHED, POINTS = 3, 7
"""Points of z while a peak is searched, and of what is drawn."""
STEPS, MOST_STEP, Z_STEP, FLATTEST = 4, 2.0, 0.02, 0.5


@dataclass(frozen=True)
class Model:
    """A school with or without drift. shape_median : of the prior; None for one constant rate"""

    shape_median: float | None
    drifts: bool

    def shapes(self, groups: int) -> int:
        """Numbers that are drawn of the shapes: none, mu, or mu and log tau."""
        return 0 if self.shape_median is None else 1 if groups == 1 else 2


@dataclass(frozen=True)
class Drawn:
    """Draws (n,) of what a kind shares, with their weights, which add up to 1.

    log_shape : (n, g) of each part group · log_mean, log_a : (n,) of the gamma over pools, ages over the unit · trend : (n,) a year
    log_evidence : logarithm of the marginal likelihood
    """

    weight: checks.Floats
    log_shape: checks.Floats
    log_mean: checks.Floats
    log_a: checks.Floats
    trend: checks.Floats
    log_evidence: float


class Posterior:
    """The unnormalised posterior of one model, for many places at once. log_shape : (g,) where the model has no shapes, 0 by default"""

    def __init__(self, evidence: Evidence, model: Model, log_shape: checks.Floats | None = None) -> None:
        self.evidence, self.model = evidence, model
        self.groups = int(evidence.group.max(initial=0)) + 1
        self.log_shape = np.zeros(self.groups) if log_shape is None else log_shape
        self._belongs = (evidence.group[:, None] == np.arange(self.groups)).astype(np.float64)

    def parts(self, place: checks.Floats) -> tuple[checks.Floats, checks.Floats, checks.Floats]:
        """(n,) log m, log a and drift at places (n, d)."""
        rest = place[:, self.model.shapes(self.groups) :]
        trend = rest[:, 2] if self.model.drifts else np.zeros(place.shape[0])
        return rest[:, 0], np.minimum(rest[:, 1], MOST_A), trend

    def at(self, place: checks.Floats) -> checks.Floats:
        """(n,) log prior and marginal likelihood at places (n, d)."""
        return self.integrated(place, SEARCHED)[0]

    def integrated(self, place: checks.Floats, points: int) -> tuple[checks.Floats, checks.Floats, checks.Floats]:
        """The same with the shapes (n, g, q) each part group may have, and their weights (n, g, q)."""
        own = self.parts(place)
        prior = self._prior(place, own[1], own[2])
        if self.evidence.believed is not None:
            level = place[:, 0] if self.model.shape_median is not None else np.full(place.shape[0], self.log_shape.mean())
            prior = prior + self.evidence.believed(level, own[0])
        if self.model.shapes(self.groups) < 2:
            free = self.model.shape_median is not None
            log_shape = np.repeat(place[:, :1], self.groups, axis=1) if free else np.tile(self.log_shape, (place.shape[0], 1))
            value = self._of_groups(log_shape, own).sum(axis=1) + own[2] * self.evidence.drift
            return value + prior, log_shape[:, :, None], np.ones((*log_shape.shape, 1))
        mu, tau = place[:, :1], np.exp(place[:, 1:2])

        def height(z: checks.Floats) -> checks.Floats:
            return np.asarray(self._of_groups(mu + tau * z, own) - 0.5 * z**2)

        z, sd = _peaks(height, np.zeros((place.shape[0], self.groups)))
        at, weight = hermegauss(points)
        nodes = z[..., None] + sd[..., None] * at
        log_node = np.stack([height(nodes[..., k]) for k in range(points)], axis=-1) + at**2 / 2 + np.log(weight)
        top = log_node.max(axis=-1, keepdims=True)
        share = np.exp(log_node - np.where(np.isfinite(top), top, 0.0))
        whole = share.sum(axis=-1)
        log_whole = np.where(np.isfinite(top[..., 0]), top[..., 0] + np.log(np.maximum(whole, 1e-300)), -np.inf)
        value = (log_whole + np.log(sd) - 0.5 * np.log(2 * np.pi)).sum(axis=1) + own[2] * self.evidence.drift
        return (
            value + prior,
            (mu + tau * nodes.reshape(place.shape[0], -1)).reshape(nodes.shape),
            share / np.maximum(whole, 1e-300)[..., None],
        )

    def _of_groups(self, log_shape: checks.Floats, own: tuple[checks.Floats, checks.Floats, checks.Floats]) -> checks.Floats:
        """(n, g) log marginal likelihood of each part group at shapes (n, g), the drift of its failures left out."""
        evidence = self.evidence
        log_mean, log_a, trend = own
        inside = (log_shape > SHAPES[0]) & (log_shape < SHAPES[1])
        shape = np.clip(log_shape, SHAPES[0], SHAPES[1])
        hazard = np.maximum(evidence.hazard(shape[:, evidence.group], trend), 1e-300)
        a, log_b = np.exp(log_a), log_a - log_mean
        lifted = np.log1p(hazard * np.exp(-log_b)[:, None])
        count = evidence.failures
        each = gammaln(a[:, None] + count) - gammaln(a)[:, None] - a[:, None] * lifted - count * (log_b[:, None] + lifted)
        of_group = each @ self._belongs
        of_group += evidence.of_ages(shape)
        return np.where(inside, of_group, -np.inf)

    def _prior(self, place: checks.Floats, log_a: checks.Floats, trend: checks.Floats) -> checks.Floats:
        value = _normal(log_a, A_MEDIAN, A_SD)
        if self.model.drifts:
            value = value + _normal(trend, 0.0, TREND_SD)
        if self.model.shape_median is None:
            return np.asarray(value)
        value = value + _normal(place[:, 0], float(np.log(self.model.shape_median)), SHAPE_SD)
        if self.groups > 1:
            value = value + _normal(np.exp(place[:, 1]), 0.0, GROUP_SD) + np.log(2.0) + place[:, 1]
        return np.asarray(value)

    def start(self) -> checks.Floats:
        """A place to search from."""
        log_shape = 0.0 if self.model.shape_median is None else float(np.log(self.model.shape_median))
        of_pools = (
            self.log_shape[self.evidence.group] if self.model.shape_median is None else np.full(self.evidence.failures.size, log_shape)
        )
        whole = self.evidence.hazard(of_pools[None], np.zeros(1)).sum()
        # Where nothing was at risk yet, what is believed is all there is, and a search from anywhere finds it.
        level = float(np.log(max(self.evidence.total, 0.5) / whole)) if whole > NOTHING_GATHERED else 0.0
        shapes = [] if self.model.shape_median is None else [log_shape] if self.groups == 1 else [log_shape, -1.5]
        return np.array([*shapes, level, A_MEDIAN, *([0.0] if self.model.drifts else [])])

    def slope(self, place: checks.Floats) -> tuple[float, checks.Floats]:
        """Minus the value and its gradient at one place, by differences worked out together."""
        moves = np.eye(place.size) * STEP
        values = self.at(np.concatenate((place[None], place + moves, place - moves)))
        values = np.where(np.isfinite(values), values, -1e12)
        size = place.size
        return -float(values[0]), -(values[1 : size + 1] - values[size + 1 :]) / (2 * STEP)

    def best(self) -> checks.Floats:
        """The place of the largest posterior."""
        found = minimize(self.slope, self.start(), jac=True, method="L-BFGS-B", options={"maxiter": 60, "ftol": 1e-7, "gtol": 1e-3})
        return np.asarray(found.x)

    def curvature(self, place: checks.Floats) -> checks.Floats:
        """(d, d) covariance of the normal that has the posterior's curvature at a place."""
        size, step = place.size, 0.02
        moves = np.eye(size) * step
        rows = [place[None], place + moves, place - moves]
        upper = np.triu_indices(size, 1)
        rows += [place + moves[upper[0]] + moves[upper[1]], place - moves[upper[0]] - moves[upper[1]]]
        value = self.at(np.concatenate(rows))
        value = np.where(np.isfinite(value), value, value[0] - 50.0)
        middle, up, down = value[0], value[1 : size + 1], value[size + 1 : 2 * size + 1]
        both = value[2 * size + 1 :].reshape(2, -1)
        hessian = np.diag((up - 2 * middle + down) / step**2)
        for pair, (i, j) in enumerate(zip(*upper, strict=True)):
            mixed = (both[0, pair] + both[1, pair] - up[i] - up[j] - down[i] - down[j] + 2 * middle) / (2 * step**2)
            hessian[i, j] = hessian[j, i] = mixed
        values, vectors = np.linalg.eigh(-hessian)
        # No direction is wider than the widest prior, none narrower than can be told.
        return np.asarray(vectors @ np.diag(1.0 / np.clip(values, 0.15, 1.0 / NARROWEST**2)) @ vectors.T)


def draw(evidence: Evidence, model: Model, *, seed: int) -> Drawn:
    """Draws of one model's posterior, by importance sampling from a t that is fitted to it in rounds.

    Parameters
    ----------
    evidence : with at least one failure · model : the school, and whether rates drift · seed : the draws are its own

    Returns
    -------
    Drawn

    References
    ----------
    Cappe, Guillin, Marin & Robert (2004), Journal of Computational and Graphical Statistics 13 (population Monte Carlo); Ionides (2008),
    the same 17 (truncated weights).
    """
    posterior = Posterior(evidence, model)
    chance = np.random.default_rng([seed, 7 + 2 * model.drifts + (model.shape_median is None)])
    centre = posterior.best()
    spread = posterior.curvature(centre)
    places, log_weight = np.empty((0, centre.size)), np.empty(0)
    shapes = shares = np.empty((0, 0, 0))
    for turn in range(ROUNDS):
        size = DRAWS if turn == ROUNDS - 1 else DRAWS // 2
        root = np.asarray(np.linalg.cholesky(spread), dtype=np.float64)
        normal = chance.standard_normal((size, centre.size))
        scale = np.sqrt(FREEDOM / chance.chisquare(FREEDOM, size))
        standard = np.asarray(normal * scale[:, None], dtype=np.float64)
        places = centre + standard @ root.T
        value, shapes, shares = posterior.integrated(places, POINTS)
        log_weight = value - _log_t(standard, root)
        if turn < ROUNDS - 1:
            centre, spread = _fitted(places, _truncated(log_weight)[0], spread)
    weight, log_evidence = _truncated(log_weight)
    log_mean, log_a, trend = posterior.parts(places)
    return Drawn(weight, _picked(shapes, shares, chance), log_mean, log_a, trend, log_evidence)


def _picked(shapes: checks.Floats, shares: checks.Floats, chance: np.random.Generator) -> checks.Floats:
    """(n, g) one of the shapes each part group may have, by their weights."""
    reached = np.cumsum(shares, axis=-1)
    at = (reached < chance.random(shares.shape[:2])[..., None] * reached[..., -1:]).sum(axis=-1)
    return np.take_along_axis(shapes, at[..., None], axis=-1)[..., 0]


def _peaks(height: Callable[[checks.Floats], checks.Floats], start: checks.Floats) -> tuple[checks.Floats, checks.Floats]:
    """(n, g) where each of many curves peaks, by Newton's steps held short, and the spread of the normal with its curvature there."""
    z, sd = start, np.ones_like(start)
    for _ in range(STEPS):
        middle, up, down = height(z), height(z + Z_STEP), height(z - Z_STEP)
        with np.errstate(invalid="ignore"):
            slope, bend = (up - down) / (2 * Z_STEP), (up - 2 * middle + down) / Z_STEP**2
        known = np.isfinite(slope) & np.isfinite(bend)
        bend = np.where(known, np.minimum(bend, -FLATTEST), -1.0)
        z = z + np.clip(np.where(known, -slope / bend, -0.5 * z), -MOST_STEP, MOST_STEP)
        sd = 1.0 / np.sqrt(-bend)
    return z, sd


def _log_t(standard: checks.Floats, root: checks.Floats) -> checks.Floats:
    size = standard.shape[1]
    constant = gammaln((FREEDOM + size) / 2) - gammaln(FREEDOM / 2) - size / 2 * np.log(FREEDOM * np.pi) - np.log(np.diag(root)).sum()
    return np.asarray(constant - (FREEDOM + size) / 2 * np.log1p((standard**2).sum(axis=1) / FREEDOM))


def _truncated(log_weight: checks.Floats) -> tuple[checks.Floats, float]:
    """Weights that add up to 1, none more than the root of their number times the mean; and the log of their mean."""
    top = float(log_weight.max())
    weight = np.exp(log_weight - top)
    mean = float(weight.mean())
    weight = np.minimum(weight, mean * np.sqrt(weight.size))
    return weight / weight.sum(), top + float(np.log(mean))


def _fitted(places: checks.Floats, weight: checks.Floats, before: checks.Floats) -> tuple[checks.Floats, checks.Floats]:
    centre = weight @ places
    away = places - centre
    worth = 1.0 / (weight**2).sum()
    spread = (away * weight[:, None]).T @ away
    # Few draws say little of a spread: what was known before counts as some of them.
    share = worth / (worth + 4.0 * centre.size)
    mixed = share * spread + (1 - share) * before
    return centre, mixed + np.eye(centre.size) * NARROWEST**2


def _normal(value: checks.Floats, mean: float, sd: float) -> checks.Floats:
    return np.asarray(-0.5 * ((value - mean) / sd) ** 2 - np.log(sd) - 0.5 * np.log(2 * np.pi))
