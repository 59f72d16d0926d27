"""One kind: its pools by age, the shared shape, the school, survival, hazard, and the wave to come."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from datetime import date
from typing import Any, ClassVar, NamedTuple

import numpy as np
from scipy.special import ndtri
from sqlalchemy.orm import Session

from almanac.core.answers.question import Named, Question
from almanac.core.checks import Floats
from almanac.core.demand.failure_rate import AnnualisedRate, rate_of, rates_by_pool
from almanac.core.errors import NoEstimate
from almanac.core.life.acceleration import ClassPace
from almanac.core.life.kind_likelihood import KindLikelihood, most_likely
from almanac.core.life.mix import expected_first_failures, survival_curve
from almanac.core.life.rate import RateEstimate, constant_rate
from almanac.core.life.school import School
from almanac.core.life.survival import SurvivalStep
from almanac.core.life.tenures import AgeCounts, Finds, together
from almanac.core.life.turnbull import survival_steps
from almanac.core.life.wear_nodes import kind_penalty
from almanac.core.parts.declared.kinds import FORECAST_KINDS
from almanac.services.alarms.decided import day_of
from almanac.services.answers.ask import answer_of, ask
from almanac.services.errors import NotFound
from almanac.services.outlook.demand_laws import KindEvidence, LawBook
from almanac.services.outlook.fitted import WearFit, likelihood_of, lives_of
from almanac.services.outlook.inputs import read_inputs
from almanac.services.outlook.pools import Pool, age_counts_of, spans_of
from almanac.services.rates.data_check import left_out
from almanac.services.rates.part_groups import GroupRates, groups_of, life_of_pool

DAYS_A_YEAR = 365.25
YEAR_DAYS = 365
FEWEST_AT_RISK = 5
HALF_A_FAILURE = 0.5
QUARTERS = 12
BAND = 0.95


class PoolName(NamedTuple):
    """What a pool is: a part in a model, at a duty, in some air. lot : day it was made, of a lot that is a pool of its own"""

    part: str
    model: str
    duty: str
    air: str
    lot: date | None = None


@dataclass(frozen=True)
class PoolRates:
    """One pool: its record, the rate it shows by itself, and the rate it has once it borrows from its kind.

    beside : of damage, and of draws without a fault, how many there were and how many a unit-year once they borrow as well
    """

    name: PoolName
    failures: float
    exposure_years: float
    units: int
    raw: RateEstimate
    shrunk: AnnualisedRate | None
    beside: Mapping[str, tuple[float, float]]


@dataclass(frozen=True)
class KindRates:
    """A kind in the schools it takes.

    shape : that of wear-out, 1 where a constant rate is all it takes · band and curve : by age in years, at the mix of duties and air
    observed
    found : of the failures, those that a check found and that lie between two ages
    paces : how fast classes age beside the ordinary one · left_out : lives of the kind that carry nothing into its rates
    age_unknown : units in service of which only a span of ages is known
    """

    kind: str
    school: School
    shape: float
    free_shape: float | None
    failures: float
    open_share: float
    open_findings: int
    found: float
    exposure_years: float
    overall: AnnualisedRate | None
    steps: list[SurvivalStep]
    shown_from: float
    curve_age: Floats
    curve: Floats
    curve_low: Floats
    curve_high: Floats
    hazard: Floats
    served_age: Floats
    served: Floats
    wave: Floats
    pools: list[PoolRates]
    groups: list[GroupRates]
    paces: tuple[ClassPace, ...]
    left_out: int
    age_unknown: int


@dataclass(frozen=True)
class RatesOfKind(Question[KindRates | None]):
    """A kind over all sites: DemandInputs, its log and FittedKind; names of parts and models; lives that carry nothing into its rates."""

    NAME: ClassVar[str] = "rates of a kind"
    VERSION: ClassVar[int] = 5
    inputs: Named
    log: Named
    fitted: Named
    numbers: Mapping[int, str]
    models: Mapping[int, str]
    left_out: int

    def compute(self) -> KindRates | None:
        book = LawBook(self.inputs.content, self.fitted.content)
        return None if book.evidence.fit is None else _Rates(book, book.evidence.fit, self).rates()


def read_kind(session: Session, kind: str) -> KindRates:
    """How parts of a kind die, over all sites.

    Raises
    ------
    NotFound : it is no kind that is forecast, or nothing of it was ever in service
    """
    found = rates_of(session, kind)
    if found is None:
        raise NotFound(f"nothing of kind {kind} was observed in service yet")
    return found


def rates_of(session: Session, kind: str) -> KindRates | None:
    """The same; None where nothing of the kind was ever in service, so that nobody can say.

    Raises
    ------
    NotFound : it is no kind that is forecast
    """
    if kind not in [item.value for item in FORECAST_KINDS]:
        raise NotFound(f"rates are estimated for {', '.join(FORECAST_KINDS)}; {kind} is none of them")
    inputs = read_inputs(session)
    fit = inputs.fit_of(kind)
    numbers = {part.id: part.number for part in inputs.parts if part.kind == kind}
    models = {number: model.full_name for number, model in inputs.models.items()}
    return ask(
        session, RatesOfKind(Named.of(inputs.of_kind(kind)), fit.log, answer_of(session, fit), numbers, models, left_out(session, kind))
    )


def _served(book: LawBook) -> dict[Pool, tuple[Floats, Floats]]:
    """Ages in years and units of every pool in service today."""
    found: dict[Pool, list[tuple[float, float]]] = defaultdict(list)
    for own in book.positions.values():
        for pool, age, enter, units in zip(own.pool.tolist(), own.age_years, own.enter_day, own.units, strict=True):
            if enter <= 0:
                found[own.pools[pool]].append((float(age), float(units)))
    return {pool: (np.array([age for age, _ in rows]), np.array([units for _, units in rows])) for pool, rows in found.items()}


class KindLife(NamedTuple):
    """A kind's life in one school: beta, the gamma of a pool of which nothing is known, the gammas of the pools, and the mix of paces.

    mix : share of the time under observation and log pace, by distinct pace
    """

    shape: float
    a: float
    b: float
    pool_a: Floats
    pool_b: Floats
    mix: list[tuple[float, float]]

    def survival(self, age: Floats) -> Floats:
        """Of a new part at the mix of duties and air that was observed."""
        return mixed_survival(self.shape, self.a, self.b, age, self.mix)

    def hazard(self, age: Floats) -> Floats:
        """Mean failures per unit and year at an age, at the same mix."""
        faster = sum(share * np.exp(self.shape * pace) for share, pace in self.mix)
        return np.asarray(faster * self.a / self.b * self.shape * np.maximum(age, 1e-3) ** (self.shape - 1))


Lives = list[tuple[float, KindLife]]
"""A kind's life in each school that it takes, and how much that one carries."""


def averaged_of(lives: Lives, figure: Callable[[KindLife], Floats]) -> Floats:
    """A figure of a kind over the schools it takes."""
    return np.asarray(sum(share * figure(life) for share, life in lives))


def mixed_survival(shape: float, a: float, b: float, age: Floats, mix: list[tuple[float, float]]) -> Floats:
    """Survival of a part of which it is only known how often each pace occurs."""
    curves = [share * survival_curve(shape, a, b * float(np.exp(-shape * pace)), age) for share, pace in mix]
    return np.asarray(np.minimum(np.sum(curves, axis=0), 1.0))


def _mix(counts: list[AgeCounts], log_pace: Floats) -> list[tuple[float, float]]:
    """Share of the time under observation by distinct pace."""
    years = np.array([pool.exposure for pool in counts])
    paces, place = np.unique(np.round(log_pace, 12), return_inverse=True)
    share = np.bincount(place, years, paces.size) / max(float(years.sum()), 1e-12)
    return [(float(part), float(pace)) for part, pace in zip(share, paces, strict=True)]


def _lives(kind: str, fit: WearFit, likelihood: KindLikelihood, school: School, counts: list[AgeCounts]) -> Lives:
    """A life for each school that the kind takes, the leading one first."""
    shares = [(school.wear_out, True), (1.0 - school.wear_out, False)]
    return [
        (share, _life(kind, fit, likelihood, counts, by_age=by_age))
        for share, by_age in sorted(shares, key=lambda one: -one[0])
        if share > 0
    ]


def _life(kind: str, fit: WearFit, likelihood: KindLikelihood, counts: list[AgeCounts], *, by_age: bool) -> KindLife:
    """The most likely place under the stated prior; a kind without failures has one gamma in common. likelihood : at the pools' paces"""
    failures, unit = likelihood.failures, likelihood.unit
    if fit.place is None:
        years = float(likelihood.hazard(1.0)[0].sum()) * unit
        return KindLife(1.0, 0.5, years, np.full(failures.size, 0.5), np.full(failures.size, years), [(1.0, 0.0)])
    # One constant rate knows no ages, so none that run faster.
    likelihood = likelihood if by_age else likelihood.paced(np.zeros(failures.size))
    place = fit.place if by_age else most_likely(likelihood, kind_penalty(kind), shape=1.0)
    shape, mean, a = (float(value) for value in np.exp(place))
    stretch = unit**shape
    b = a / mean * stretch
    pool_b = (b + likelihood.hazard(shape)[0] * stretch) * np.exp(-shape * likelihood.log_pace)
    return KindLife(shape, a, b, a + failures, pool_b, _mix(counts, likelihood.log_pace))


def lives_by_school(book: LawBook, fit: WearFit, log: Any) -> tuple[dict[Pool, AgeCounts], Lives]:
    """Counts by age of a kind's pools as they are shown, and its life in each school that it takes, its pools in the same order."""
    kind = book.inputs.kind
    asked_of = (log, book.inputs.grouping, book.fitted.record.share.share)
    known, spans, lasting = age_counts_of(*asked_of), spans_of(*asked_of), book.fitted.lasting
    lives = lives_of(known, spans, lasting)
    paced = likelihood_of(kind, lives, book.fitted.stated).paced(fit.acceleration.log_pace)
    return lives_of(known, spans, lasting, seen=True), _lives(kind, fit, paced, book.evidence.school, list(lives.values()))


class _Rates:
    """Rates of one kind, worked out from its laws."""

    def __init__(self, book: LawBook, fit: WearFit, asked: RatesOfKind) -> None:
        self.book, self.fit, self.asked = book, fit, asked
        self.counts, self.lives = lives_by_school(book, fit, asked.log.content)
        self.served = _served(book)

    def rates(self) -> KindRates:
        """All that is shown of the kind."""
        evidence, life = self.book.evidence, self.lives[0][1]
        whole = together(list(self.counts.values()))
        steps, shown_from = _steps(whole)
        age = np.linspace(0.0, max(float(whole.age.max()), 0.5), 81)
        low, high = _band(self.fit, evidence, age, life.mix)
        old, units = _histogram(list(self.served.values()))
        rows, overall = self._pools()
        return KindRates(
            kind=self.book.inputs.kind,
            school=evidence.school,
            shape=max((one for _, one in self.lives), key=lambda one: one.shape != 1.0).shape,
            free_shape=self.fit.free_shape,
            failures=whole.failures,
            open_share=evidence.record.share.share,
            open_findings=self._open_findings(),
            found=float(whole.finds.count.sum()),
            exposure_years=whole.exposure,
            overall=overall,
            steps=steps,
            shown_from=shown_from,
            curve_age=age,
            curve=averaged_of(self.lives, lambda one: one.survival(age)),
            curve_low=low,
            curve_high=high,
            hazard=averaged_of(self.lives, lambda one: one.hazard(age)),
            served_age=old,
            served=units,
            wave=self._wave(),
            pools=sorted(rows, key=lambda row: -(row.shrunk.rate if row.shrunk else 0.0)),
            groups=groups_of(self.fit, self.counts, age, self.asked.numbers) if evidence.school.wear_out > 0 else [],
            paces=self.fit.acceleration.classes,
            left_out=self.asked.left_out,
            age_unknown=sum(int(fleet.spans.units.sum()) for fleet in self.book.inputs.fleets.values()),
        )

    def _wave(self) -> Floats:
        """Expected first failures by coming quarter."""
        none = (np.empty(0), np.empty(0))
        edges, wave = np.linspace(0.0, QUARTERS / 4, QUARTERS + 1), np.zeros(QUARTERS)
        for place, pool in enumerate(self.counts):
            served = self.served.get(pool, none)
            for share, life in self.lives:
                own = None if life.shape == 1.0 else life_of_pool(self.fit, place)
                shape, a, b = own or (life.shape, life.pool_a[place], life.pool_b[place])
                wave += share * expected_first_failures(shape, a, b, *served, edges)
        return wave

    def _open_findings(self) -> int:
        return sum(int(log.at_risk.open.sum() + log.found.open.sum() + log.spanned.open.sum()) for log in self.asked.log.content.values())

    def _pools(self) -> tuple[list[PoolRates], AnnualisedRate | None]:
        """Every pool's rate as the outlook uses it, and the kind's at the present mix of ages."""
        laws = [law for part in self.book.inputs.parts if (law := self.book.part_law(part)) is not None]
        rows = []
        for law in laws:
            used = rates_by_pool(law.law, window_days=YEAR_DAYS)
            side = {name: list(zip(*found, strict=True)) for name, found in self.book.side_by_pool(law.pools).items()}
            for place, (pool, rate) in enumerate(zip(law.pools, used, strict=True)):
                units = round(float(self.served[pool][1].sum())) if pool in self.served else 0
                seen = self.counts.get(pool)
                failures, exposure = (seen.failures, seen.exposure) if seen else (0.0, 0.0)
                part, model = self.asked.numbers[pool.part_id], self.asked.models[pool.model_id]
                name = PoolName(part, model, pool.duty, pool.environment, day_of(pool.lot) if pool.lot else None)
                beside = {stream: (float(found[place][0]), float(found[place][1])) for stream, found in side.items()}
                raw = constant_rate(failures, exposure)
                rows.append(PoolRates(name, failures, exposure, units, raw, rate if units else None, beside))
        return rows, rate_of([law.law for law in laws], window_days=YEAR_DAYS)


def _band(fit: WearFit, evidence: KindEvidence, age: Floats, mix: list[tuple[float, float]]) -> tuple[Floats, Floats]:
    """90% limits of the curve: how far the kind's nodes lie apart, on the log of the cumulative hazard."""
    if evidence.school.wear_out > 0 and (used := fit.nodes_of(evidence.school.wear_out)) is not None:
        nodes = list(zip(used.shape, used.a, used.b, strict=True))
        weight = used.weight
    else:
        assert evidence.nodes is not None
        nodes, weight = [(1.0, a, b) for a, b in zip(evidence.nodes.shape, evidence.nodes.rate, strict=True)], evidence.nodes.weight
    later = np.maximum(age, 1e-3)
    gathered = np.log(-np.log(np.array([mixed_survival(shape, a, b, later, mix) for shape, a, b in nodes])))
    middle = weight @ gathered
    spread = np.sqrt(np.maximum(weight @ gathered**2 - middle**2, 0.0)) * float(ndtri(BAND))
    low, high = np.exp(-np.exp(middle + spread)), np.exp(-np.exp(middle - spread))
    return np.where(age > 0, low, 1.0), np.where(age > 0, high, 1.0)


def _steps(whole: AgeCounts) -> tuple[list[SurvivalStep], float]:
    """Survival from the first age at which five are at risk: before it, few old parts would draw wild steps."""
    risk = whole.at_risk()
    enough = np.flatnonzero(risk >= FEWEST_AT_RISK)
    if enough.size == 0:
        return [], 0.0
    first = float(whole.age[enough[0]])
    later = whole.finds.high > first
    finds = Finds(*(column[later] for column in (whole.finds.low, whole.finds.high, whole.finds.count, whole.finds.early)))
    kept = replace(whole, failed=np.where(whole.age >= first, whole.failed, 0.0), finds=finds)
    # Of failures whose age is spread out, the first shares are too little of one to give a band.
    some = kept.age[np.cumsum(kept.failed) >= HALF_A_FAILURE]
    since = min(float(some[0]) if some.size else np.inf, float(finds.high.min(initial=np.inf)))
    try:
        return [step for step in survival_steps(kept) if step.at_risk >= FEWEST_AT_RISK and step.age >= since], first
    except NoEstimate:
        return [], first


def _histogram(served: list[tuple[Floats, Floats]]) -> tuple[Floats, Floats]:
    """Units in service by half years of age."""
    if not served:
        return np.empty(0), np.empty(0)
    age, units = (np.concatenate([pair[place] for pair in served]) for place in (0, 1))
    half = np.floor(age * 2).astype(int)
    counts = np.bincount(half, units)
    return np.arange(counts.size) / 2, counts.astype(float)
