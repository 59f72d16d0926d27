"""The posterior of what a kind shares, drawn by importance sampling, with the marginal likelihood that weighs schools and drifts.

Lambda of a pool is Gamma(a, a / m) in ages over the kind's oldest; log beta of a part group is mu + tau z with tau half-normal. Every
lambda and the level of the log are worked out by hand, so that what is drawn is (mu, log tau, z, log m, log a, trend) alone.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
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
NARROWEST = 1e-3


@dataclass(frozen=True)
class Model:
    """A school with or without drift. shape_median : of the prior; None for one constant rate"""

    shape_median: float | None
    drifts: bool

    def size(self, groups: int) -> int:
        """Numbers that are drawn: of the shapes, (log m, log a), and the drift."""
        return (0 if self.shape_median is None else 1 if groups == 1 else groups + 2) + 2 + self.drifts


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

    @property
    def effective(self) -> float:
        """Draws of equal weight these are worth."""
        return float(1.0 / (self.weight**2).sum())


class Posterior:
    """The unnormalised posterior of one model, for many places at once."""

    def __init__(self, evidence: Evidence, model: Model) -> None:
        self.evidence, self.model = evidence, model
        self.groups = int(evidence.group.max(initial=0)) + 1
        self.failures_of_group = np.bincount(evidence.group, evidence.failures, self.groups)

    def parts(self, place: checks.Floats) -> tuple[checks.Floats, checks.Floats, checks.Floats, checks.Floats]:
        """(n, g) log shapes, (n,) log m, log a and drift at places (n, d)."""
        rest = place[:, self.model.size(self.groups) - 2 - self.model.drifts :]
        trend = rest[:, 2] if self.model.drifts else np.zeros(place.shape[0])
        return self._log_shapes(place), rest[:, 0], np.minimum(rest[:, 1], MOST_A), trend

    def _log_shapes(self, place: checks.Floats) -> checks.Floats:
        if self.model.shape_median is None:
            return np.zeros((place.shape[0], self.groups))
        if self.groups == 1:
            return place[:, :1]
        return place[:, :1] + np.exp(place[:, 1:2]) * place[:, 2 : 2 + self.groups]

    def at(self, place: checks.Floats) -> checks.Floats:
        """(n,) log prior and marginal likelihood at places (n, d)."""
        evidence = self.evidence
        log_shape, log_mean, log_a, trend = self.parts(place)
        inside = ((log_shape > SHAPES[0]) & (log_shape < SHAPES[1])).all(axis=1)
        log_shape = np.clip(log_shape, SHAPES[0], SHAPES[1])
        hazard = np.maximum(evidence.hazard(log_shape[:, evidence.group], trend), 1e-300)
        a, log_b = np.exp(log_a), log_a - log_mean
        lifted = np.log1p(hazard * np.exp(-log_b)[:, None])
        count = evidence.failures
        value = (gammaln(a[:, None] + count) - gammaln(a)[:, None] - a[:, None] * lifted - count * (log_b[:, None] + lifted)).sum(axis=1)
        value += log_shape @ self.failures_of_group + (np.exp(log_shape) - 1.0) @ evidence.log_age + trend * evidence.drift
        return np.where(inside, value + self._prior(place, log_a, trend), -np.inf)

    def _prior(self, place: checks.Floats, log_a: checks.Floats, trend: checks.Floats) -> checks.Floats:
        value = _normal(log_a, A_MEDIAN, A_SD)
        if self.model.drifts:
            value = value + _normal(trend, 0.0, TREND_SD)
        if self.model.shape_median is None:
            return np.asarray(value)
        value = value + _normal(place[:, 0], float(np.log(self.model.shape_median)), SHAPE_SD)
        if self.groups > 1:
            tau, z = np.exp(place[:, 1]), place[:, 2 : 2 + self.groups]
            value = value + _normal(tau, 0.0, GROUP_SD) + np.log(2.0) + place[:, 1] + _normal(z, 0.0, 1.0).sum(axis=1)
        return np.asarray(value)

    def start(self) -> checks.Floats:
        """A place to search from."""
        log_shape = 0.0 if self.model.shape_median is None else float(np.log(self.model.shape_median))
        whole = self.evidence.hazard(np.full((1, self.evidence.failures.size), log_shape), np.zeros(1)).sum()
        level = float(np.log(max(self.evidence.total, 0.5) / max(whole, 1e-300)))
        shapes = [] if self.model.shape_median is None else [log_shape] if self.groups == 1 else [log_shape, -1.5, *[0.0] * self.groups]
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
    for turn in range(ROUNDS):
        size = DRAWS if turn == ROUNDS - 1 else DRAWS // 2
        root = np.asarray(np.linalg.cholesky(spread), dtype=np.float64)
        normal = chance.standard_normal((size, centre.size))
        scale = np.sqrt(FREEDOM / chance.chisquare(FREEDOM, size))
        standard = np.asarray(normal * scale[:, None], dtype=np.float64)
        places = centre + standard @ root.T
        log_weight = posterior.at(places) - _log_t(standard, root)
        if turn < ROUNDS - 1:
            centre, spread = _fitted(places, _truncated(log_weight)[0], spread)
    weight, log_evidence = _truncated(log_weight)
    log_shape, log_mean, log_a, trend = posterior.parts(places)
    return Drawn(weight, log_shape, log_mean, log_a, trend, log_evidence)


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
