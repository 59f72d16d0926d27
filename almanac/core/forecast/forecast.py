"""The forecast of a kind: schools and drifts averaged by what the log says for each, and failures played from there."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from almanac.core import checks
from almanac.core.errors import ContractError, NoEstimate
from almanac.core.forecast.company import Company, Ints
from almanac.core.forecast.evidence import NOTHING, Evidence, gathered
from almanac.core.forecast.posterior import POINTS, Model, Posterior, draw
from almanac.core.forecast.predict import Cells, Levels, cells_of, first_failures, play

SCHOOLS = ("constant", "wear-out", "auto")
LEANINGS = 4
"""Rounds in which unknown ages are weighted by the lives that the ages before them gave."""
PLAYED = 3000
MOST_EVENTS = 3_000_000
"""Failures that are played in all: many at a time need fewer draws."""


@dataclass(frozen=True)
class Learnt:
    """What the log says: draws (n,) of equal weight over schools and drifts.

    evidence : on which they rest · log_shape : (n, g) · log_mean, log_a, trend : (n,) · wear_out : (n,) of that school
    weight_wear_out, weight_trend : probability of the school, and of a drift
    """

    evidence: Evidence
    log_shape: checks.Floats
    log_mean: checks.Floats
    log_a: checks.Floats
    trend: checks.Floats
    wear_out: np.ndarray
    weight_wear_out: float
    weight_trend: float

    def shapes(self) -> checks.Floats:
        """(m,) shape of the kind in the wear-out school: its groups' by their failures; empty without it."""
        of_group = np.bincount(self.evidence.group, self.evidence.failures, self.log_shape.shape[1])
        share = of_group / of_group.sum() if of_group.sum() > 0 else np.full(of_group.size, 1.0 / of_group.size)
        return np.asarray(np.exp(self.log_shape[self.wear_out] @ share))

    def levels(self, *, seed: int) -> Levels:
        """Lives of each pool, one for every draw: lambda of its gamma given what failed."""
        evidence = self.evidence
        chance = np.random.default_rng([seed, 5])
        own = self.log_shape[:, evidence.group]
        hazard = evidence.hazard(own, self.trend)
        a = np.exp(self.log_a)[:, None]
        scaled = chance.gamma(a + evidence.failures) / (a * np.exp(-self.log_mean)[:, None] + hazard)
        shape = np.exp(own)
        return Levels(shape, scaled / evidence.unit**shape)


@dataclass(frozen=True)
class Forecast:
    """Failures within some years, by draw. expected : (p,) · played : (n, p)"""

    learnt: Learnt
    expected: checks.Floats
    played: checks.Floats


def forecast(company: Company, years: float, *, school: str = "auto", seed: int = 1) -> Forecast:
    """Failures of the units in service and of what takes their place within some years.

    Parameters
    ----------
    company : of one kind · years : > 0 · school : constant, wear-out, or auto, which averages both by their marginal likelihood

    Returns
    -------
    Forecast

    Raises
    ------
    NoEstimate : nothing was at risk for any time · ContractError : an argument outside its range

    References
    ----------
    Kass & Raftery (1995), Journal of the American Statistical Association 90; Hoeting et al. (1999), Statistical Science 14.
    """
    horizon = checks.positive("years", years)
    if school not in SCHOOLS:
        raise ContractError(f"school: one of {', '.join(SCHOOLS)} was wanted, got {school!r}")
    learnt = learn(company, school=school, seed=seed)
    levels = learnt.levels(seed=seed)
    shape, rate = np.median(levels.shape, axis=0), np.exp(np.mean(np.log(levels.rate), axis=0))
    cells = cells_of(company.in_service, shape, rate)
    return _played(learnt, levels, cells, horizon, company.pools, seed)


def _played(learnt: Learnt, levels: Levels, cells: Cells, years: float, pools: int, seed: int) -> Forecast:
    within = first_failures(levels, cells, years)
    by_pool = np.zeros((cells.pool.size, pools))
    by_pool[np.arange(cells.pool.size), cells.pool] = cells.units
    mean = within @ by_pool
    draws = int(np.clip(MOST_EVENTS / max(float(mean.mean(axis=0).sum()), 1.0), 200, mean.shape[0]))
    some = Levels(levels.shape[:draws], levels.rate[:draws])
    played, again = play(some, cells, years, pools, seed=seed)
    # First failures are expected exactly; what replaced them is added as it was played.
    return Forecast(learnt, mean.mean(axis=0) + again.mean(axis=0), played)


def learn(company: Company, *, school: str, seed: int = 1) -> Learnt:
    """What a company's log says of a kind, over schools and drifts.

    Raises
    ------
    NoEstimate : nothing was at risk for any time
    """
    evidence = _leant(company)
    if (evidence.log_h <= NOTHING).all():
        raise NoEstimate("no unit was at risk for any time")
    if evidence.total <= 0:
        return _nothing_failed(evidence, seed)
    shapes = {"constant": (None,), "wear-out": (company.shape_median,), "auto": (None, company.shape_median)}[school]
    models = [Model(shape, drifts) for shape in shapes for drifts in ((False, True) if company.trend else (False,))]
    drawn = [draw(evidence, model, seed=seed) for model in models]
    weight = np.exp(np.array([one.log_evidence for one in drawn]) - max(one.log_evidence for one in drawn))
    weight /= weight.sum()
    worn = np.array([model.shape_median is not None for model in models])
    drifting = np.array([model.drifts for model in models])
    whole = np.concatenate([share * one.weight for share, one in zip(weight, drawn, strict=True)])
    at = _resampled(whole, np.random.default_rng([seed, 2]))
    of_school = np.concatenate([np.full(one.weight.size, own) for one, own in zip(drawn, worn, strict=True)])

    def mixed(name: str) -> checks.Floats:
        return np.asarray(np.concatenate([getattr(one, name) for one in drawn])[at])

    shares = float(weight[worn].sum()), float(weight[drifting].sum())
    return Learnt(evidence, mixed("log_shape"), mixed("log_mean"), mixed("log_a"), mixed("trend"), of_school[at], *shares)


def _resampled(weight: checks.Floats, chance: np.random.Generator) -> Ints:
    """Places of draws of equal weight, systematically, in no order."""
    at = np.searchsorted(np.cumsum(weight) / weight.sum(), (np.arange(PLAYED) + chance.random()) / PLAYED)
    return chance.permutation(np.minimum(at, weight.size - 1)).astype(np.int64)


def _nothing_failed(evidence: Evidence, seed: int) -> Learnt:
    """A kind without a failure: one rate for all pools, Gamma(0.5, T), never zero."""
    whole = float(evidence.hazard(np.zeros((1, evidence.failures.size)), np.zeros(1)).sum())
    level = np.random.default_rng([seed, 2]).gamma(0.5, 1.0 / whole, PLAYED)
    alike = np.full(PLAYED, np.log(1e6))
    none = np.zeros(PLAYED)
    shapes = np.zeros((PLAYED, int(evidence.group.max(initial=0)) + 1))
    return Learnt(evidence, shapes, np.log(np.maximum(level, 1e-300)), alike, none, np.zeros(PLAYED, dtype=bool), 0.0, 0.0)


def _leant(company: Company) -> Evidence:
    """Evidence with unknown ages weighted by lives that fit them."""
    evidence = gathered(company)
    if not company.tenures.entry.unknown.any() or evidence.total <= 0:
        return evidence
    for _ in range(LEANINGS):
        posterior = Posterior(evidence, Model(company.shape_median, drifts=False))
        best = posterior.best()[None]
        log_mean, log_a, _ = posterior.parts(best)
        _, shapes, shares = posterior.integrated(best, POINTS)
        own = (shapes * shares).sum(axis=-1)[:, evidence.group]
        hazard, a = evidence.hazard(own, np.zeros(1))[0], float(np.exp(log_a[0]))
        shape = np.exp(own[0])
        scaled = (a + evidence.failures) / (a * float(np.exp(-log_mean[0])) + hazard)
        evidence = gathered(company, shape=shape, rate=scaled / evidence.unit**shape)
    return evidence
