"""When packs cross a threshold: three curves averaged by what the readings say for each, part groups borrowing from their kind."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, fields

import numpy as np

from almanac.core import checks
from almanac.core.life.fade.curves import CURVES
from almanac.core.life.fade.evidence import log_evidence, log_units
from almanac.core.life.fade.own_line import own_lines
from almanac.core.life.fade.packs import Packs
from almanac.core.life.fade.population import Population, mean_of
from almanac.core.life.fade.sampler import BURN, KEPT, Draws, Sampler

MOST_UNITS = 400
"""A population is learnt from so many units; the others find their own curves in it."""
KEPT_OF_KIND = 30
"""Draws of all groups together: of them the mean alone is wanted."""
KEPT_OF_CURVE = 40
"""Draws of a curve's population that units find their own curves in."""
FEW_GROUPS = 4
NEGLIGIBLE = 0.01
DRAWS = 200
DAYS_PER_YEAR = 365.25
OF_ITS_OWN, LIKE_NONE = 0.05, 0.002
"""Units that fade by another curve than most of their part group, and those that fade like none of it."""
OWN = "own"


@dataclass(frozen=True)
class Learnt:
    """What a part group's readings say. weight : of each curve · populations : draws of its parameters"""

    weight: Mapping[str, float]
    populations: Mapping[str, tuple[Population, ...]]

    def mean(self, curve: str) -> Population:
        """Of a curve's parameters."""
        return mean_of(self.populations[curve])


@dataclass(frozen=True)
class Faded:
    """Units of a part group. crosses : (k, n) days from the as-of day to the crossing, draws of equal weight · learnt : of the group"""

    crosses: checks.Floats
    learnt: Learnt

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
    return [follow(own, of, threshold, seed=seed) for own, of in zip(groups, learn(groups, threshold, seed=seed), strict=True)]


def learn(groups: Sequence[Packs], threshold: float, *, seed: int = 1) -> list[Learnt]:
    """How part groups of one kind fade: what takes long, and changes little from one reading to the next.

    Parameters, raises as `fade`.
    """
    wanted = checks.probability("threshold", threshold)
    return [_group(own, wanted, around, seed) for own, around in zip(groups, _others(groups, wanted, seed), strict=True)]


def follow(packs: Packs, learnt: Learnt, threshold: float, *, seed: int = 1) -> Faded:
    """When each unit of a part group crosses, by its own readings under the group's curves; cheap.

    Parameters
    ----------
    packs : readings, of other units too or of a later day than was learnt from · learnt : of the group · threshold : share, in (0, 1)

    Raises
    ------
    ContractError : a threshold that is no share
    """
    wanted = checks.probability("threshold", threshold)
    draws, told = {}, {}
    for curve, populations in learnt.populations.items():
        # Where nobody of unknown age was there to learn from, how long such units served before is as it is believed.
        under = populations if packs.dated.all() else tuple(one.of_any_age() for one in populations)
        found = Sampler(packs, mean_of(under), wanted, seed=seed).follow(under)
        draws[curve] = (found.crosses - packs.now) * DAYS_PER_YEAR
        told[curve] = log_units(packs, found, wanted, seed)
    first = mean_of(next(iter(learnt.populations.values())))
    told[OWN], crosses = own_lines(packs, first.fall, first.scatter, wanted, draws=DRAWS, seed=seed)
    draws[OWN] = (crosses - packs.now) * DAYS_PER_YEAR
    return Faded(_mixed(draws, _by_unit(learnt.weight, told), seed), learnt)


def _by_unit(weight: Mapping[str, float], told: Mapping[str, checks.Floats]) -> checks.Floats:
    """(c, n) how much each curve weighs for each unit; its own line last.

    A unit fades as its part group does, save one in twenty by another curve and one in five hundred by a line of its own; whether it is
    one of those is for its own readings to say. Without that a pack that falls as no other of its group did would be taken for one with
    bad luck in its readings.
    """
    ways = list(told)
    value = np.array([told[way] for way in ways])
    like = np.exp(value - value.max(axis=0))
    found = np.zeros_like(like)
    for place, way in enumerate(ways):
        prior = np.array([[LIKE_NONE if other == OWN else OF_ITS_OWN / len(CURVES)] for other in ways])
        prior[place] = 1.0 - OF_ITS_OWN
        share = prior * like
        found += weight.get(way, 0.0) * share / share.sum(axis=0)
    return np.asarray(found / found.sum(axis=0))


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
    return {curve: mean_of(_draws(some, curve, threshold, None, seed, kept=KEPT_OF_KIND).populations) for curve in CURVES}


def _draws(some: Packs, curve: str, threshold: float, around: Population | None, seed: int, *, kept: int = KEPT) -> Draws:
    """A group begins where its kind is, so that it has less of a way to go."""
    start = around or Population(curve, undated=not some.dated.all())
    return Sampler(some, start, threshold, seed=seed, around=around).run(burn=BURN if around is None else BURN // 2, kept=kept)


def _some(packs: Packs, seed: int) -> Packs:
    """Units that a population is learnt from: all, or so many of them."""
    if packs.units <= MOST_UNITS:
        return packs
    return packs.some(np.sort(np.random.default_rng([seed, 9]).choice(packs.units, MOST_UNITS, replace=False)))


def _group(packs: Packs, threshold: float, around: dict[str, Population], seed: int) -> Learnt:
    some = _some(packs, seed)
    found = {curve: _draws(some, curve, threshold, around.get(curve), seed) for curve in CURVES}
    weight = _weights({curve: log_evidence(some, own, around.get(curve), threshold, seed) for curve, own in found.items()})
    step = max(KEPT // KEPT_OF_CURVE, 1)
    return Learnt(weight, {curve: tuple(own.populations[::step]) for curve, own in found.items()})


def _weights(log_evidence: Mapping[str, float]) -> dict[str, float]:
    """Of each curve; one that weighs next to nothing weighs nothing."""
    top = max(log_evidence.values())
    weight = {curve: float(np.exp(value - top)) for curve, value in log_evidence.items()}
    kept = {curve: value if value > NEGLIGIBLE * sum(weight.values()) else 0.0 for curve, value in weight.items()}
    return {curve: value / sum(kept.values()) for curve, value in kept.items()}


def _mixed(draws: Mapping[str, checks.Floats], weight: checks.Floats, seed: int) -> checks.Floats:
    """(k, n) draws, of each unit so many of each curve as it weighs. weight : (c, n)"""
    chance = np.random.default_rng([seed, 11])
    reached = np.cumsum(weight, axis=0)
    level = (chance.permutation(DRAWS) + 0.5) / DRAWS
    at = (level[:, None, None] > reached[:-1]).sum(axis=1)
    rows = [own[np.resize(chance.permutation(own.shape[0]), DRAWS)] for own in draws.values()]
    return np.asarray(np.take_along_axis(np.array(rows), at[None], axis=0)[0])
