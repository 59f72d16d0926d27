"""How well a curve explains a part group's readings: its marginal likelihood, units and population integrated out."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.special import ndtri
from scipy.stats import qmc

from almanac.core import checks
from almanac.core.life.fade.curves import KNEE, log_density
from almanac.core.life.fade.packs import Packs
from almanac.core.life.fade.population import Population, mean_of
from almanac.core.life.fade.sampler import Draws, Own
from almanac.core.life.fade.serving import serving

SEEN = 0.1
"""A curve is weighed by what is seen of it in readings more than by who is left: see `Population.log_there`."""
POPULATIONS, IMPORTANCE = 12, 64
NOWHERE = -50.0
"""Log likelihood of a unit that a population has no place for."""
WIDER = 1.3
KNEE_COLUMN = 2


def log_evidence(packs: Packs, draws: Draws, around: Population | None, threshold: float, seed: int) -> float:
    """Log marginal likelihood of a curve: units integrated out, the population by Laplace's method at the best of its draws.

    At the best, not at the mean: where a knee lies beyond what was read its parameters may be anywhere, and their mean is no place that
    explains anything. Lewis & Raftery (1997), Journal of the American Statistical Association 92 (Laplace's method from draws).
    """
    guesses = _guesses(packs, mean_of(draws.populations), draws)
    best, still = -np.inf, serving(packs)
    for population in draws.populations[:: max(len(draws.populations) // POPULATIONS, 1)]:
        there = population.log_there(still, threshold, SEEN)
        units = float(_units_integrated(packs, population, guesses, threshold, seed).sum())
        value = units - there + population.log_prior(around)
        best = max(best, value)
    return best + _log_width(draws.populations)


def log_units(packs: Packs, draws: Draws, threshold: float, seed: int) -> checks.Floats:
    """(n,) log likelihood of each unit's readings under a curve, at the mean of its populations, what is the unit's own integrated out."""
    middle = mean_of(draws.populations)
    return _units_integrated(packs, middle, _guesses(packs, middle, draws), threshold, seed)


def _log_width(populations: Sequence[Population]) -> float:
    """Log of the volume that a population's draws fill, as a normal's."""
    names = populations[0].names()
    values = np.array([[getattr(one, name) for name in names] for one in populations])
    spread = np.atleast_2d(np.cov(values.T)) + np.eye(len(names)) * 1e-8
    return float(0.5 * np.linalg.slogdet(2 * np.pi * spread)[1])


def _units_integrated(packs: Packs, population: Population, guesses: list[_Guess], threshold: float, seed: int) -> checks.Floats:
    """(n,) log likelihood of units, what is each one's own integrated out over points that fill the space evenly, turned for each unit.

    Cranley & Patterson (1976), SIAM Journal on Numerical Analysis 13.
    """
    size = guesses[0].middle.shape[1]
    points = qmc.Sobol(size, scramble=False).random(IMPORTANCE)
    turned = np.random.default_rng([seed, 19]).random((packs.units, size))
    found = np.empty((IMPORTANCE, packs.units))
    for turn in range(IMPORTANCE):
        normal = ndtri(np.clip((points[turn] + turned) % 1.0, 1e-9, 1 - 1e-9))
        place = guesses[turn % len(guesses)].draw(normal)
        value = _unit_value(packs, population, _own(packs, population, place), threshold)
        found[turn] = value - np.log(np.mean([np.exp(guess.log_density(place)) for guess in guesses], axis=0))
    top = found.max(axis=0)
    some = np.isfinite(top)
    above = np.where(some, np.exp(found - np.where(some, top, 0.0)).mean(axis=0), 1.0)
    return np.where(some, top + np.log(above), NOWHERE)


@dataclass(frozen=True)
class _Guess:
    """Normals (n, d) near each unit's draws; with a population, the knee as that has it given the fall."""

    middle: checks.Floats
    root: checks.Floats
    population: Population | None = None

    def draw(self, normal: checks.Floats) -> checks.Floats:
        place = self.middle + np.einsum("nij,nj->ni", self.root, normal)
        if self.population is not None:
            mean, sd = self.population.knee_given(place[:, 1])
            place[:, 2] = mean + sd * normal[:, 2]
        return np.asarray(place)

    def log_density(self, place: checks.Floats) -> checks.Floats:
        if self.population is None:
            return _normal(place - self.middle, self.root)
        rest = [column for column in range(place.shape[1]) if column != KNEE_COLUMN]
        own = np.linalg.cholesky(np.einsum("nij,nkj->nik", self.root, self.root)[:, rest][:, :, rest])
        mean, sd = self.population.knee_given(place[:, 1])
        knee = -0.5 * ((place[:, 2] - mean) / sd) ** 2 - np.log(sd) - 0.5 * np.log(2 * np.pi)
        return np.asarray(_normal((place - self.middle)[:, rest], own) + knee)


def _guesses(packs: Packs, population: Population, draws: Draws) -> list[_Guess]:
    columns = [draws.start, draws.log_fall, *([draws.log_knee] if population.curve == KNEE else [])]
    if not packs.dated.all():
        columns.append(draws.before)
    values = np.stack(columns, axis=-1)  # (k, n, d)
    middle = values.mean(axis=0)
    away = values - middle
    spread = np.einsum("kni,knj->nij", away, away) / values.shape[0] * WIDER**2 + np.eye(values.shape[-1]) * 1e-7
    near = _Guess(middle, np.linalg.cholesky(spread))
    # A knee that was not reached yet may lie anywhere after today.
    return [near, _Guess(middle, near.root, population)] if population.curve == KNEE else [near]


def _normal(away: checks.Floats, root: checks.Floats) -> checks.Floats:
    standard = np.linalg.solve(root, away[..., None])[..., 0]
    log_root = np.log(np.einsum("nii->ni", root)).sum(axis=1)
    return np.asarray(-0.5 * (standard**2).sum(axis=1) - log_root - away.shape[1] / 2 * np.log(2 * np.pi))


def _own(packs: Packs, population: Population, place: checks.Floats) -> Own:
    knee = place[:, 2] if population.curve == KNEE else np.zeros(packs.units)
    before = np.where(packs.dated, 0.0, place[:, -1]) if not packs.dated.all() else np.zeros(packs.units)
    return Own(place[:, 0], place[:, 1], knee, before)


def _unit_value(packs: Packs, population: Population, own: Own, threshold: float) -> checks.Floats:
    """(n,) log of readings and own density, with the constants that curves differ by."""
    paths = own.paths(population)
    value = log_density(packs, paths, population.scatter) + population.log_units(own.start, own.log_fall, own.log_knee)
    value -= np.log(2 * np.pi) / 2 * (3 if population.curve == KNEE else 2)
    value += population.log_before(own.before, packs.dated)
    gone = (paths.crossing(threshold) <= packs.now) | (own.before < 0.0)
    return np.where(gone, -np.inf, value)
