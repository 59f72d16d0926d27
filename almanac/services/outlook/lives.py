"""The lives of a kind's parts by age: what its shape is estimated from, and how old what is in service is."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from almanac.core import checks
from almanac.core.demand.life_tables import LifeTables, life_tables
from almanac.core.life.acceleration import Acceleration, accelerations
from almanac.core.life.kind_likelihood import KindLikelihood, leaned, most_likely
from almanac.core.life.school import School, choose_school
from almanac.core.life.tenures import AgeCounts, Finds, shared_out
from almanac.core.life.wear_nodes import WearNodes, kind_penalty, wear_nodes
from almanac.core.parts.kinds import Duty, Environment
from almanac.services.outlook.fleet_change import Pool
from almanac.services.outlook.inputs import Inputs
from almanac.services.remembered import Remembered, digest

DAYS_PER_YEAR = 365.25
OLDEST_YEARS = 1.0
"""Tables of lives reach at least so far, and to the next whole year past the oldest unit."""
REMEMBERED: Remembered[tuple[KindLives, KindFit | None]] = Remembered(12)


@dataclass(frozen=True)
class KindLives:
    """Pools of a kind with their counts by age in years; open findings weigh with the kind's settled share."""

    kind: str
    pools: list[Pool]
    counts: list[AgeCounts]
    oldest_years: float


@dataclass(frozen=True)
class KindFit:
    """What a kind's lives say: the free shape and its gain, the school that follows, and the nodes where parts wear out.

    key : digest of the lives it was made from · likelihood : with ages at each pool's pace · acceleration : what paces were found
    oldest_years : of a unit in service · horizon_days : longest window of its tables
    place : (log beta, log m, log a) of the largest marginal under the stated prior, per common unit of age; None without a failure
    """

    key: bytes
    likelihood: KindLikelihood
    acceleration: Acceleration
    free_shape: float | None
    gain: float | None
    place: checks.Floats | None
    nodes: WearNodes | None
    oldest_years: float
    horizon_days: int

    @cached_property
    def tables(self) -> LifeTables | None:
        """Tables of lives, made when a law by age is asked for: kinds that take one rate never need them."""
        if self.nodes is None:
            return None
        return life_tables(
            self.nodes,
            self.likelihood.failures,
            oldest_years=self.oldest_years,
            horizon_days=self.horizon_days,
            log_pace=self.likelihood.log_pace,
        )


def lives_and_fit(inputs: Inputs, kind: str, share: float, horizon_days: int, *, keep: bool = True) -> tuple[KindLives, KindFit | None]:
    """Lives of a kind by age, and the fit of them; both are remembered while what they come from stays the same.

    share : weight of an open finding · keep : False for a single look · the fit is None where nothing was ever at risk
    """
    key = _content(inputs, kind, share, horizon_days)

    def work_out() -> tuple[KindLives, KindFit | None]:
        lives = _kind_lives(inputs, kind, share)
        seen = sum(pool.exposure for pool in lives.counts)
        return lives, _fitted(key, lives, horizon_days) if seen > 0 else None

    return REMEMBERED.get(key, work_out) if keep else work_out()


def _content(inputs: Inputs, kind: str, share: float, horizon_days: int) -> bytes:
    of_kind = {part.id for part in inputs.parts if part.kind == kind}
    ages = sorted((part, inputs.group[part], key) for part, key in inputs.ages.lived.items() if inputs.group.get(part) in of_kind)
    oldest = _oldest_years(inputs, kind)
    air = [(site.id, site.environment) for site in inputs.sites]
    return digest((kind, share, horizon_days, air, ages, np.ceil(oldest)))


def _kind_lives(inputs: Inputs, kind: str, share: float) -> KindLives:
    found: dict[Pool, dict[int, list[float]]] = defaultdict(lambda: defaultdict(lambda: [0.0, 0.0, 0.0]))
    at_checks: dict[Pool, dict[tuple[int, int], float]] = defaultdict(lambda: defaultdict(float))
    kinds = {part.id: part.kind for part in inputs.parts}
    air = {site.id: site.environment for site in inputs.sites}
    for row in inputs.ages.at_risk:
        leader = inputs.group.get(row.part_id)
        if leader is None or kinds.get(leader) != kind:
            continue
        total = found[Pool(leader, row.model_id, row.duty, air[row.site_id])][row.day]
        total[0] += row.entered
        total[1] += row.gone
        total[2] += row.confirmed + share * row.open
    for find in inputs.ages.finds:
        leader = inputs.group.get(find.part_id)
        if leader is not None and kinds.get(leader) == kind:
            pool = Pool(leader, find.model_id, find.duty, air[find.site_id])
            at_checks[pool][find.seen_good, find.day] += find.confirmed + share * find.open
    pools = sorted(found)
    return KindLives(kind, pools, [_counts(found[pool], at_checks[pool]) for pool in pools], _oldest_years(inputs, kind))


def _oldest_years(inputs: Inputs, kind: str) -> float:
    own = {part.id for part in inputs.parts if part.kind == kind}
    return max((row.age_days for row in inputs.ages.served if inputs.group.get(row.part_id) in own), default=0.0) / DAYS_PER_YEAR


def _counts(days: dict[int, list[float]], found: dict[tuple[int, int], float]) -> AgeCounts:
    """Counts by age in years; what was found at a check lies in the middle between its two ages for now."""
    for seen_good, _ in found:
        days[seen_good][0] += 0.0  # an age of its own, though nothing else may have happened at it
    age = np.array(sorted(days), dtype=np.float64)
    table = np.array([days[int(day)] for day in age])
    between = np.array(sorted(found), dtype=np.float64).reshape(-1, 2).T
    weight = np.array([found[int(low), int(high)] for low, high in between.T])
    finds = Finds(between[0] / DAYS_PER_YEAR, between[1] / DAYS_PER_YEAR, weight, np.zeros(weight.size))
    return shared_out(AgeCounts(age / DAYS_PER_YEAR, table[:, 0], table[:, 1], table[:, 2], 0, finds), np.full(weight.size, 0.5))


def _fitted(key: bytes, lives: KindLives, horizon_days: int) -> KindFit:
    likelihood = KindLikelihood(leaned(lives.counts, kind_penalty(lives.kind)))
    if likelihood.total <= 0:
        return KindFit(key, likelihood, Acceleration((), likelihood.log_pace), None, None, None, None, OLDEST_YEARS, horizon_days)
    found = _acceleration(likelihood, lives.pools)
    likelihood = likelihood.paced(found.log_pace)
    free = most_likely(likelihood)
    level = most_likely(likelihood, shape=1.0)
    gain = likelihood.value_and_slope(free)[0] - likelihood.value_and_slope(level)[0]
    place = most_likely(likelihood, kind_penalty(lives.kind))
    nodes = wear_nodes(likelihood, lives.kind, best=place)
    oldest = max(float(np.ceil(lives.oldest_years)), OLDEST_YEARS)
    return KindFit(key, likelihood, found, float(np.exp(free[0])), gain, place, nodes, oldest, horizon_days)


def _acceleration(likelihood: KindLikelihood, pools: list[Pool]) -> Acceleration:
    classes = {
        "duty": ([pool.duty for pool in pools], Duty.OFFICE_HOURS.value),
        "air": ([pool.environment for pool in pools], Environment.OFFICE.value),
    }
    return accelerations(likelihood, most_likely(likelihood), classes)


def school_of(fit: KindFit | None, wanted: str) -> School:
    """The school a kind takes: the one the company set, or by the test."""
    if fit is None or fit.place is None:
        return School("constant", early_life=False, reason="no failure of this kind yet: one constant rate, never zero")
    tested = choose_school(fit.likelihood.total, shape=fit.free_shape, gain=fit.gain)
    if wanted == "constant":
        return School("constant", early_life=False, reason=f"set by the company; by the test: {tested.reason}")
    if wanted == "wear-out":
        early = float(np.exp(fit.place[0])) < 1
        return School("wear-out", early_life=early, reason=f"set by the company; by the test: {tested.reason}")
    return tested
