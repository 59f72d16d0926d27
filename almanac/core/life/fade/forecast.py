"""When packs cross a threshold: three curves averaged by what the readings say for each, part groups borrowing from their kind."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, fields, replace
from typing import Any

import numpy as np
from scipy.special import ndtri
from scipy.stats import qmc

from almanac.core import checks
from almanac.core.life.fade.curves import CURVES, KNEE, log_density
from almanac.core.life.fade.packs import Packs
from almanac.core.life.fade.population import Population
from almanac.core.life.fade.sampler import BURN, KEPT, Draws, Own, Sampler

MOST_UNITS = 400
"""A population is learnt from so many units; the others find their own curves in it."""
KEPT_OF_KIND = 30
"""Draws of all groups together: of them the mean alone is wanted."""
SEEN = 0.1
"""A curve is weighed by what is seen of it in readings more than by who is left: see `Population.log_there`."""
POPULATIONS, IMPORTANCE = 12, 64
NOWHERE = -50.0
"""Log likelihood of a unit that a population has no place for."""
FEW_GROUPS = 4
WIDER = 1.3
NEGLIGIBLE = 0.01
KNEE_COLUMN = 2
DAYS_PER_YEAR = 365.25


@dataclass(frozen=True)
class Faded:
    """Units of a part group. crosses : (k, n) days from the as-of day to the crossing, draws of equal weight

    weight : of each curve · populations : the mean of each curve's parameters
    """

    crosses: checks.Floats
    weight: dict[str, float]
    populations: dict[str, Population]

    def chance(self, days: float) -> checks.Floats:
        """(n,) probability that each unit crosses within some days."""
        return np.asarray((self.crosses <= days).mean(axis=0))

    def days(self, level: float) -> checks.Floats:
        """(n,) quantile of the day each crosses."""
        return np.asarray(np.quantile(self.crosses, level, axis=0))

    def expected(self, days: float) -> float:
        """Units that cross within some days."""
        return float(self.chance(days).sum())


def fade(groups: Sequence[Packs], threshold: float, *, seed: int = 1) -> list[Faded]:
    """Crossings of part groups of one kind, given that no unit has crossed by its as-of day.

    Parameters
    ----------
    groups : readings of each part group · threshold : share, in (0, 1)

    Returns
    -------
    list of Faded : in the order of the groups

    Raises
    ------
    ContractError : a threshold that is no share

    References
    ----------
    Lu & Meeker (1993), Technometrics 35 (lives from degradation); Hoeting et al. (1999), Statistical Science 14 (averaging).
    """
    wanted = checks.probability("threshold", threshold)
    return [_group(own, wanted, around, seed) for own, around in zip(groups, _others(groups, wanted, seed), strict=True)]


def _others(groups: Sequence[Packs], threshold: float, seed: int) -> list[dict[str, Population]]:
    """What each group leans on: the others of its kind, itself left out, or it would lean on its own readings a second time and curves
    that bend most would profit. Of many groups each is a small part of all, and all are taken for each.
    """
    if len(groups) == 1:
        return [{}]
    if len(groups) > FEW_GROUPS:
        return [_kind(groups, threshold, seed)] * len(groups)
    return [_kind([*groups[:place], *groups[place + 1 :]], threshold, seed) for place in range(len(groups))]


def _kind(groups: Sequence[Packs], threshold: float, seed: int) -> dict[str, Population]:
    """Populations of all groups together, one of each curve."""
    offset, many = 0, []
    for own in groups:
        many.append(Packs(own.unit + offset, own.year, own.share, own.now, own.dated))
        offset += own.units
    whole = Packs(*(np.concatenate([getattr(one, item.name) for one in many]) for item in fields(Packs)))
    some = _some(whole, seed)
    return {curve: _mean(_learnt(some, curve, threshold, None, seed, kept=KEPT_OF_KIND).populations) for curve in CURVES}


def _learnt(some: Packs, curve: str, threshold: float, around: Population | None, seed: int, *, kept: int = KEPT) -> Draws:
    """A group begins where its kind is, so that it has less of a way to go."""
    start = around or Population(curve, undated=not some.dated.all())
    return Sampler(some, start, threshold, seed=seed, around=around).run(burn=BURN if around is None else BURN // 2, kept=kept)


def _some(packs: Packs, seed: int) -> Packs:
    """Units that a population is learnt from: all, or so many of them."""
    if packs.units <= MOST_UNITS:
        return packs
    return packs.some(np.sort(np.random.default_rng([seed, 9]).choice(packs.units, MOST_UNITS, replace=False)))


def _group(packs: Packs, threshold: float, around: dict[str, Population], seed: int) -> Faded:
    draws, log_evidence, populations = {}, {}, {}
    some = _some(packs, seed)
    for curve in CURVES:
        found = _learnt(some, curve, threshold, around.get(curve), seed)
        populations[curve] = _mean(found.populations)
        log_evidence[curve] = _log_evidence(some, found, around.get(curve), threshold, seed)
        draws[curve] = (found.crosses - some.now) * DAYS_PER_YEAR
    weight = _weights(log_evidence)
    if packs.units > MOST_UNITS:
        worth = [curve for curve in CURVES if weight[curve] > NEGLIGIBLE]
        draws = {curve: _of_all(packs, populations[curve], threshold, seed) for curve in worth}
        weight = {curve: weight[curve] if curve in worth else 0.0 for curve in CURVES}
    return Faded(_mixed(draws, weight, seed), weight, populations)


def _of_all(packs: Packs, population: Population, threshold: float, seed: int) -> checks.Floats:
    found = Sampler(packs, population, threshold, seed=seed).run(burn=60, kept=40, thin=1, populations=False)
    return np.asarray((found.crosses - packs.now) * DAYS_PER_YEAR)


def _weights(log_evidence: dict[str, float]) -> dict[str, float]:
    top = max(log_evidence.values())
    weight = {curve: float(np.exp(value - top)) for curve, value in log_evidence.items()}
    return {curve: value / sum(weight.values()) for curve, value in weight.items()}


def _mixed(draws: dict[str, checks.Floats], weight: dict[str, float], seed: int) -> checks.Floats:
    """(k, n) draws, so many of each curve as it weighs."""
    size = 200
    chance = np.random.default_rng([seed, 11])
    edges = np.cumsum([weight[curve] for curve in CURVES])
    at = np.searchsorted(edges, (np.arange(size) + 0.5) / size * edges[-1])
    rows = []
    for place, curve in enumerate(CURVES):
        wanted = int((at == place).sum())
        if wanted:
            own = draws[curve]
            rows.append(
                own[chance.integers(0, own.shape[0], wanted)] if wanted > own.shape[0] else own[chance.permutation(own.shape[0])[:wanted]]
            )
    return np.concatenate(rows)


def _mean(populations: Sequence[Population]) -> Population:
    first = populations[0]
    middle: dict[str, Any] = {name: float(np.mean([getattr(one, name) for one in populations])) for name in first.names()}
    return replace(first, **middle)


def _log_evidence(packs: Packs, draws: Draws, around: Population | None, threshold: float, seed: int) -> float:
    """Log marginal likelihood of a curve: units integrated out, the population by Laplace's method at the best of its draws.

    At the best, not at the mean: where a knee lies beyond what was read its parameters may be anywhere, and their mean is no place that
    explains anything. Lewis & Raftery (1997), Journal of the American Statistical Association 92 (Laplace's method from draws).
    """
    guesses = _guesses(packs, _mean(draws.populations), draws)
    best = -np.inf
    for population in draws.populations[:: max(len(draws.populations) // POPULATIONS, 1)]:
        there = population.log_there(packs.now, packs.dated, threshold, SEEN)
        value = _units_integrated(packs, population, guesses, threshold, seed) - there + population.log_prior(around)
        best = max(best, value)
    return best + _log_width(draws.populations)


def _log_width(populations: Sequence[Population]) -> float:
    """Log of the volume that a population's draws fill, as a normal's."""
    names = populations[0].names()
    values = np.array([[getattr(one, name) for name in names] for one in populations])
    spread = np.atleast_2d(np.cov(values.T)) + np.eye(len(names)) * 1e-8
    return float(0.5 * np.linalg.slogdet(2 * np.pi * spread)[1])


def _units_integrated(packs: Packs, population: Population, guesses: list[_Guess], threshold: float, seed: int) -> float:
    """Log likelihood of all units, what is each one's own integrated out over points that fill the space evenly, turned for each unit.

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
    return float(np.where(some, top + np.log(above), NOWHERE).sum())


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
