"""The fitted model of a kind: what its life data say of shape, level, pace, and how its pools lie apart."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any, ClassVar

import numpy as np
from scipy.special import expit

from almanac.core import checks
from almanac.core.answers.question import Named, Question
from almanac.core.demand.side_rates import SideRates, side_rates
from almanac.core.forecast.kind_evidence import kind_evidence
from almanac.core.forecast.part_groups import GroupNodes, PartGroups, level_evidence, part_groups
from almanac.core.life.acceleration import Acceleration, accelerations
from almanac.core.life.age_spans import AgeSpans, spread
from almanac.core.life.kind_likelihood import KindLikelihood, leaned, most_likely
from almanac.core.life.lot_ratio import lot_ratios
from almanac.core.life.nodes import KindNodes, kind_nodes
from almanac.core.life.record import KindRecord, PoolRecord, Stream, kind_record, pool_record
from almanac.core.life.school import School, averaged_school
from almanac.core.life.stated import Stated, stated_counts
from almanac.core.life.tenures import AgeCounts, together
from almanac.core.life.wear_nodes import WearNodes, averaged, kind_penalty, level_nodes, wear_nodes
from almanac.core.parts.kinds import Duty, Environment
from almanac.services.outlook.pools import Grouping, Pool, age_counts_of, spans_of, tenure_counts

LEANINGS = 12
LOT_ROUNDS = 4
SETTLED = 0.005
"""Ages nobody knows are weighed by the fit of before until its log shape moves by less, at most so many times."""


@dataclass(frozen=True)
class WearFit:
    """What a kind's lives say by age.

    pools : those of the kind that were ever at risk · failures : (p,) of each, open findings with the settled share · total : of all
    unit : common unit of age, years · log_pace : (p,) · free_shape, gain : None without a failure, as place, (3,) (log beta, log m,
    log a) of the largest marginal under the stated prior, nodes, and level, those of the constant school
    wear_out : how much the wear-out school carries · groups : part groups, in the order of parts, and hazard (3, p) of each pool under the
    three shapes of its group, in years^beta
    """

    pools: list[Pool]
    failures: checks.Floats
    total: float
    unit: float
    acceleration: Acceleration
    free_shape: float | None
    gain: float | None
    place: checks.Floats | None
    nodes: WearNodes | None
    level: WearNodes | None = None
    wear_out: float = 0.0
    parts: tuple[int, ...] = ()
    groups: PartGroups | None = None
    hazard: checks.Floats = field(default_factory=lambda: np.zeros((3, 0)))

    def group_of(self, part_id: int) -> GroupNodes | None:
        """Nodes of a stock part in the wear-out school; one that was never at risk may lie where any other may."""
        if self.groups is None:
            return None
        return self.groups.of[self.parts.index(part_id)] if part_id in self.parts else self.groups.unseen

    def nodes_with(self, own: GroupNodes, share: float) -> GroupNodes:
        """Nodes of a part group in the wear-out school, with so large a share, and in the constant one behind them."""
        level = self.level
        if level is None or share == 1.0:
            return own
        weight = np.concatenate((share * own.weight, (1.0 - share) * level.weight))
        shape, a, b = (np.concatenate((getattr(own, name), getattr(level, name))) for name in ("shape", "a", "b"))
        return replace(own, weight=weight, shape=shape, a=a, b=b)

    def hazard_with(self, own: GroupNodes, share: float) -> checks.Floats:
        """(k, p) H under the same nodes; right for pools whose part group has these shapes."""
        of_shapes = np.repeat(self.hazard, own.weight.size // 3, axis=0)
        return of_shapes if self.level is None or share == 1.0 else np.concatenate((of_shapes, self.level.hazard))

    def nodes_of(self, share: float) -> WearNodes | None:
        """Nodes of the wear-out school, with so large a share, and the constant one."""
        if self.nodes is None or self.level is None or share == 1.0:
            return self.nodes
        return averaged(self.nodes, self.level, share)


@dataclass(frozen=True)
class Lasting:
    """The Weibull by which ages nobody knows are weighed: shape, rate per year^shape of each pool that has some, and of any other."""

    shape: float
    rate: Mapping[Pool, float]
    mean: float

    def of(self, pool: Pool) -> tuple[float, float]:
        """Shape and rate of a pool."""
        return self.shape, self.rate.get(pool, self.mean)


NEVER_FAILED = Lasting(1.0, {}, 0.0)


@dataclass(frozen=True)
class FittedKind:
    """The fitted model of a kind.

    record : what all its pools share · records : of every pool with a tenure · nodes : of the constant rate, None without exposure
    wear : by age, None where nothing was ever at risk · stated : what it begins from, in nodes and wear as if it had been seen
    side : damage, and draws without a fault; none without exposure · lasting : how ages that nobody knows are weighed
    lots : how many times as often a lot of its own fails, at one constant rate
    """

    record: KindRecord
    records: dict[Pool, PoolRecord]
    nodes: KindNodes | None
    wear: WearFit | None
    stated: Stated | None = None
    lasting: Lasting = NEVER_FAILED
    lots: Mapping[Pool, float] = field(default_factory=dict)
    side: tuple[SideRates, ...] = ()


@dataclass(frozen=True)
class FitOfKind(Question[FittedKind]):
    """Life data of a kind's log. group : part number to stock part · air : class of the air at each site · stated : what is believed"""

    NAME: ClassVar[str] = "fitted model"
    VERSION: ClassVar[int] = 6
    kind: str
    group: Mapping[int, int]
    air: Mapping[int, str]
    log: Named
    stated: Stated | None = None

    def compute(self) -> FittedKind:
        logs: Any = self.log.content
        grouping = Grouping(self.group, self.air)
        counts = tenure_counts(logs, grouping)
        record = kind_record([count for pool in sorted(counts) for count in counts[pool]])
        records = {pool: pool_record(counts[pool]) for pool in sorted(counts)}
        share = record.share.share
        failures = [failures_of(own, share) for own in records.values()]
        exposure = [own.exposure_years for own in records.values()]
        believed = (self.stated.worth, self.stated.exposure_years) if self.stated is not None else (0.0, 0.0)
        watched = sum(exposure) + believed[1] > 0
        ratio = _lot_ratio(list(records), failures, exposure, believed) if watched else np.ones(len(records))
        nodes = kind_nodes(failures, np.array(exposure) * ratio, believed) if watched else None
        known, spans = age_counts_of(logs, grouping, share), spans_of(logs, grouping, share)
        lasting = lasting_of(self.kind, known, spans, self.stated)
        lives = lives_of(known, spans, lasting)
        seen = sum(pool.exposure for pool in lives.values()) + believed[1]
        wear = _fitted(self.kind, lives, self.stated) if seen > 0 else None
        lots = {pool: float(one) for pool, one in zip(records, ratio, strict=True) if pool.lot}
        side = _side(list(records.values()), share) if sum(exposure) > 0 else ()
        return FittedKind(record, records, nodes, wear, self.stated, lasting, lots, side)


def lives_of(
    known: Mapping[Pool, AgeCounts], spans: Mapping[Pool, AgeSpans], lasting: Lasting, *, seen: bool = False
) -> dict[Pool, AgeCounts]:
    """Counts by age of every pool, ages nobody knows at every age they may be. seen : as `spread` has it, for what is shown"""
    if not spans:
        return dict(known)
    found = {}
    for pool in sorted({*known, *spans}):
        own = [known[pool]] if pool in known else []
        own += [spread(spans[pool], *lasting.of(pool), seen=seen)] if pool in spans else []
        found[pool] = together(own)
    return found


def lasting_of(kind: str, known: Mapping[Pool, AgeCounts], spans: Mapping[Pool, AgeSpans], stated: Stated | None) -> Lasting:
    """The Weibull of each pool that fits its lives when ages nobody knows are weighed by it: they are weighed again until it holds."""
    found = NEVER_FAILED
    for _ in range(LEANINGS if spans else 0):
        lives = lives_of(known, spans, found)
        likelihood = likelihood_of(kind, lives, stated)
        if likelihood.total <= 0:
            return NEVER_FAILED
        place = most_likely(likelihood, kind_penalty(kind))
        shape, mean, a = (float(value) for value in np.exp(place))
        stretch = likelihood.unit**shape
        rate = (a + likelihood.failures) / (a / mean + likelihood.hazard(shape)[0]) / stretch
        before, found = found, Lasting(shape, dict(zip(lives, rate.tolist(), strict=True)), mean / stretch)
        if abs(float(np.log(found.shape / before.shape))) < SETTLED:
            break
    return found


def failures_of(record: PoolRecord, share: float) -> float:
    """Wear-out failures of a pool: confirmed ones, and open ones at the kind's settled share."""
    return record.count(Stream.CONFIRMED) + share * record.count(Stream.OPEN)


SIDE = (Stream.DAMAGE, Stream.NO_FAULT_DRAW)


def side_events(name: str, record: PoolRecord, share: float) -> float:
    """Events of a side stream in a pool; of an open finding what is no failure is a draw on suspicion."""
    suspected = (1.0 - share) * record.count(Stream.OPEN) if name == Stream.NO_FAULT_DRAW else 0.0
    return record.count(Stream(name)) + suspected


def _side(records: Sequence[PoolRecord], share: float) -> tuple[SideRates, ...]:
    years = [record.exposure_years for record in records]
    return tuple(side_rates(name.value, [side_events(name, record, share) for record in records], years) for name in SIDE)


def likelihood_of(kind: str, lives: Mapping[Pool, AgeCounts], stated: Stated | None = None) -> KindLikelihood:
    """The likelihood of a kind, its finds where the kind's own rates put them, beside what is stated of its mean."""
    pools = leaned(list(lives.values()), kind_penalty(kind)) if lives else []
    return KindLikelihood(pools, None if stated is None else stated_counts(stated))


def _fitted(kind: str, lives: Mapping[Pool, AgeCounts], stated: Stated | None) -> WearFit:
    pools, likelihood = list(lives), likelihood_of(kind, lives, stated)
    if likelihood.total <= 0:
        still = Acceleration((), likelihood.log_pace)
        return WearFit(pools, likelihood.failures, likelihood.total, likelihood.unit, still, None, None, None, None)
    counts = leaned(list(lives.values()), kind_penalty(kind)) if lives else []
    found = _with_lots(kind, likelihood, (pools, counts), _acceleration(likelihood, pools))
    likelihood = likelihood.paced(found.log_pace)
    free = most_likely(likelihood)
    level = most_likely(likelihood, shape=1.0)
    gain = likelihood.value_and_slope(free)[0] - likelihood.value_and_slope(level)[0]
    place = most_likely(likelihood, kind_penalty(kind))
    nodes, flat = wear_nodes(likelihood, kind, best=place), level_nodes(likelihood, kind)
    parts, groups, weight = _groups(kind, likelihood, pools, counts)
    return WearFit(
        pools=pools,
        failures=likelihood.failures,
        total=likelihood.total,
        unit=likelihood.unit,
        acceleration=found,
        free_shape=float(np.exp(free[0])),
        gain=gain,
        place=place,
        nodes=nodes,
        level=flat,
        wear_out=weight,
        parts=parts,
        groups=groups,
        hazard=_hazard(likelihood, pools, parts, groups),
    )


def _groups(kind: str, likelihood: KindLikelihood, pools: list[Pool], counts: list[AgeCounts]) -> tuple[tuple[int, ...], PartGroups, float]:
    """Stock parts that were ever at risk, their part groups, and how much wear-out carries beside one constant rate."""
    parts = tuple(sorted({pool.part_id for pool in pools}))
    evidence = kind_evidence(likelihood, counts, np.searchsorted(parts, [pool.part_id for pool in pools]).astype(np.int64))
    groups = part_groups(evidence, float(np.exp(kind_penalty(kind).median[0])))
    return parts, groups, float(expit(groups.log_evidence - level_evidence(evidence)))


def _hazard(likelihood: KindLikelihood, pools: list[Pool], parts: tuple[int, ...], groups: PartGroups) -> checks.Floats:
    """(3, p) H of each pool under the shapes of its part group, in years^beta."""
    three = [np.unique(groups.of[parts.index(pool.part_id)].shape) for pool in pools]
    of = {shape: likelihood.hazard(shape)[0] * likelihood.unit**shape for shape in {float(shape) for own in three for shape in own}}
    found = [[of[float(shape)][place] for shape in own] for place, own in enumerate(three)]
    return np.maximum(np.array(found, dtype=np.float64).reshape(len(pools), 3).T, 0.0)


def _with_lots(kind: str, likelihood: KindLikelihood, lives: tuple[list[Pool], list[AgeCounts]], found: Acceleration) -> Acceleration:
    """Lots that are pools of their own age as much faster as their record says, whatever pools of the kind are like."""
    pools, counts = lives
    group, lot = (np.array([getattr(pool, name) for pool in pools], dtype=np.int64) for name in ("part_id", "lot"))
    if not lot.any():
        return found
    pace = found.log_pace
    for _ in range(LOT_ROUNDS):
        parts, groups, _ = _groups(kind, likelihood.paced(pace), pools, counts)
        hazard = _hazard(likelihood.paced(found.log_pace), pools, parts, groups)[1]
        shape, level = (np.array(one)[np.searchsorted(parts, group)] for one in zip(*(middle_of(own) for own in groups.of), strict=True))
        ratio = lot_ratios(likelihood.failures, hazard, (level[:, 0], level[:, 1]), group, lot)
        pace = found.log_pace + np.log(ratio) / shape
    return replace(found, log_pace=pace)


def middle_of(group: GroupNodes) -> tuple[float, tuple[float, float]]:
    """The middle shape of a part group, and the gamma (a, b) of its levels there."""
    shape = float(np.unique(group.shape)[1])
    own = group.shape == shape
    weight = group.weight[own] / group.weight[own].sum()
    a = float(weight @ group.a[own])
    return shape, (a, a / float(weight @ (group.a[own] / group.b[own])))


def _lot_ratio(pools: Sequence[Pool], failures: Sequence[float], exposure: Sequence[float], believed: tuple[float, float]) -> checks.Floats:
    """The same where one constant rate is all there is."""
    group, lot = (np.array([getattr(pool, name) for pool in pools], dtype=np.int64) for name in ("part_id", "lot"))
    seen, years = np.array(failures), np.array(exposure)
    ratio = np.ones(len(pools))
    for _ in range(LOT_ROUNDS if lot.any() else 0):
        nodes = kind_nodes(seen, years * ratio, believed)
        ratio = lot_ratios(seen, years, (float(nodes.weight @ nodes.shape), float(nodes.weight @ nodes.rate)), group, lot)
    return ratio


def _acceleration(likelihood: KindLikelihood, pools: list[Pool]) -> Acceleration:
    classes = {
        "duty": ([pool.duty for pool in pools], Duty.OFFICE_HOURS.value),
        "air": ([pool.environment for pool in pools], Environment.OFFICE.value),
    }
    return accelerations(likelihood, most_likely(likelihood), classes)


def school_of(fit: WearFit | None, wanted: str) -> School:
    """The school a kind takes: the one the company set, or both, averaged."""
    if fit is None or fit.place is None:
        return School("constant", early_life=False, reason="no failure of this kind yet: one constant rate, never zero")
    shape = float(np.exp(fit.place[0]))
    found = averaged_school(fit.wear_out, shape)
    if wanted == "constant":
        return School("constant", early_life=False, reason=f"set by the company; by the log {found.reason}")
    if wanted == "wear-out":
        return School("wear-out", early_life=shape < 1, reason=f"set by the company; by the log {found.reason}", wear_out=1.0)
    return found
