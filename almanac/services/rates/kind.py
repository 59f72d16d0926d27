"""One kind: its pools by age, the shared shape, the school, survival, hazard, and the wave to come."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass, replace
from typing import NamedTuple

import numpy as np
from scipy.special import ndtri
from sqlalchemy.orm import Session

from almanac.core.checks import Floats
from almanac.core.demand.failure_rate import AnnualisedRate, rate_of, rates_by_pool
from almanac.core.errors import NoEstimate
from almanac.core.life.acceleration import ClassPace
from almanac.core.life.kind_likelihood import most_likely
from almanac.core.life.mix import expected_first_failures, survival_curve
from almanac.core.life.rate import RateEstimate, constant_rate
from almanac.core.life.school import School
from almanac.core.life.survival import SurvivalStep
from almanac.core.life.tenures import AgeCounts, Finds, together
from almanac.core.life.turnbull import survival_steps
from almanac.core.life.wear_nodes import kind_penalty
from almanac.core.parts.kinds import FORECAST_KINDS
from almanac.services.errors import NotFound
from almanac.services.outlook.content import Content
from almanac.services.outlook.fleet_change import Pool
from almanac.services.outlook.inputs import Inputs, read_inputs
from almanac.services.outlook.laws import KindEvidence, LawBook
from almanac.services.outlook.lives import KindFit
from almanac.services.rates.data_check import left_out

DAYS_A_YEAR = 365.25
YEAR_DAYS = 365
FEWEST_AT_RISK = 5
QUARTERS = 12
BAND = 0.95


class PoolName(NamedTuple):
    """What a pool is: a part in a model, at a duty, in some air."""

    part: str
    model: str
    duty: str
    air: str


@dataclass(frozen=True)
class PoolRates:
    """One pool: its record, the rate it shows by itself, and the rate it has once it borrows from its kind."""

    name: PoolName
    failures: float
    exposure_years: float
    units: int
    raw: RateEstimate
    shrunk: AnnualisedRate | None


@dataclass(frozen=True)
class KindRates:
    """A kind in its school. shape is 1 under the constant one; band and curve are by age in years, at the mix of duties and air observed.

    found : of the failures, those that a check found and that lie between two ages
    paces : how fast classes age beside the ordinary one · left_out : lives of the kind that carry nothing into its rates
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
    paces: tuple[ClassPace, ...]
    left_out: int


def read_kind(session: Session, kind: str) -> KindRates:
    """How parts of a kind die, over all sites.

    Raises
    ------
    NotFound : it is no kind that is forecast, or nothing of it was ever in service
    """
    if kind not in [item.value for item in FORECAST_KINDS]:
        raise NotFound(f"rates are estimated for {', '.join(FORECAST_KINDS)}; {kind} is none of them")
    inputs = read_inputs(session)
    book = LawBook(inputs, content=Content(inputs))
    evidence = book.kinds.get(kind)
    if evidence is None or evidence.fit is None:
        raise NotFound(f"nothing of kind {kind} was observed in service yet")
    return _rates(kind, book, evidence, left_out(session, kind))


def _name(inputs: Inputs, pool: Pool) -> PoolName:
    model = inputs.models[pool.model_id]
    part = next(item for item in inputs.parts if item.id == pool.part_id)
    return PoolName(part.number, f"{model.maker} {model.name}", pool.duty, pool.environment)


def _served(book: LawBook, kind: str) -> dict[Pool, tuple[Floats, Floats]]:
    """Ages in years and units of every pool in service today."""
    found: dict[Pool, list[tuple[float, float]]] = defaultdict(list)
    for part, own in book.positions.items():
        if book.kind_of.get(part) == kind:
            for pool, age, enter, units in zip(own.pools, own.age_years, own.enter_day, own.units, strict=True):
                if enter <= 0:
                    found[pool].append((float(age), float(units)))
    return {pool: (np.array([age for age, _ in rows]), np.array([units for _, units in rows])) for pool, rows in found.items()}


class Lives(NamedTuple):
    """A kind's life in its school: beta, the gamma of a pool of which nothing is known, the gammas of the pools, and the mix of paces.

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


def _lives(kind: str, fit: KindFit, school: School, counts: list[AgeCounts]) -> Lives:
    """The most likely place under the stated prior; a kind without failures has one gamma in common."""
    failures, unit = fit.likelihood.failures, fit.likelihood.unit
    if fit.place is None:
        years = float(fit.likelihood.hazard(1.0)[0].sum()) * unit
        return Lives(1.0, 0.5, years, np.full(failures.size, 0.5), np.full(failures.size, years), [(1.0, 0.0)])
    by_age = school.name == "wear-out"
    # One constant rate knows no ages, so none that run faster.
    likelihood = fit.likelihood if by_age else fit.likelihood.paced(np.zeros(failures.size))
    place = fit.place if by_age else most_likely(likelihood, kind_penalty(kind), shape=1.0)
    shape, mean, a = (float(value) for value in np.exp(place))
    stretch = unit**shape
    b = a / mean * stretch
    pool_b = (b + likelihood.hazard(shape)[0] * stretch) * np.exp(-shape * likelihood.log_pace)
    return Lives(shape, a, b, a + failures, pool_b, _mix(counts, likelihood.log_pace))


def _rates(kind: str, book: LawBook, evidence: KindEvidence, nothing: int) -> KindRates:
    fit = evidence.fit
    assert fit is not None
    whole = together(evidence.lives.counts)
    lives = _lives(kind, fit, evidence.school, evidence.lives.counts)
    served = _served(book, kind)
    steps, shown_from = _steps(whole)
    age = np.linspace(0.0, max(float(whole.age.max()), 0.5), 81)
    low, high = _band(fit, evidence, age, lives.mix)
    none = (np.empty(0), np.empty(0))
    edges, wave = np.linspace(0.0, QUARTERS / 4, QUARTERS + 1), np.zeros(QUARTERS)
    for place, pool in enumerate(evidence.lives.pools):
        wave += expected_first_failures(lives.shape, lives.pool_a[place], lives.pool_b[place], *served.get(pool, none), edges)
    old, units = _histogram(list(served.values()))
    rows, overall = _pools(book, kind, evidence, served)
    return KindRates(
        kind=kind,
        school=evidence.school,
        shape=lives.shape,
        free_shape=fit.free_shape,
        failures=whole.failures,
        open_share=evidence.record.share.share,
        open_findings=_open_findings(book, kind),
        found=float(whole.finds.count.sum()),
        exposure_years=whole.exposure,
        overall=overall,
        steps=steps,
        shown_from=shown_from,
        curve_age=age,
        curve=lives.survival(age),
        curve_low=low,
        curve_high=high,
        hazard=lives.hazard(age),
        served_age=old,
        served=units,
        wave=wave,
        pools=sorted(rows, key=lambda row: -(row.shrunk.rate if row.shrunk else 0.0)),
        paces=fit.acceleration.classes,
        left_out=nothing,
    )


def _open_findings(book: LawBook, kind: str) -> int:
    ages, group = book.inputs.ages, book.inputs.group
    claims = [*((row.part_id, row.open) for row in ages.at_risk), *((row.part_id, row.open) for row in ages.finds)]
    return sum(count for part, count in claims if book.kind_of.get(group.get(part, -1)) == kind)


def _pools(
    book: LawBook, kind: str, evidence: KindEvidence, served: dict[Pool, tuple[Floats, Floats]]
) -> tuple[list[PoolRates], AnnualisedRate | None]:
    """Every pool's rate as the outlook uses it, and the kind's at the present mix of ages."""
    counts = dict(zip(evidence.lives.pools, evidence.lives.counts, strict=True))
    laws = [law for part, of in book.kind_of.items() if of == kind and (law := book.part_law(part)) is not None]
    rows = []
    for law in laws:
        used = rates_by_pool(law.law, window_days=YEAR_DAYS)
        for pool, rate in zip(law.pools, used, strict=True):
            units = int(served[pool][1].sum()) if pool in served else 0
            seen = counts.get(pool)
            failures, exposure = (seen.failures, seen.exposure) if seen else (0.0, 0.0)
            rows.append(
                PoolRates(_name(book.inputs, pool), failures, exposure, units, constant_rate(failures, exposure), rate if units else None)
            )
    return rows, rate_of([law.law for law in laws], window_days=YEAR_DAYS)


def _band(fit: KindFit, evidence: KindEvidence, age: Floats, mix: list[tuple[float, float]]) -> tuple[Floats, Floats]:
    """90% limits of the curve: how far the kind's nodes lie apart, on the log of the cumulative hazard."""
    if evidence.school.name == "wear-out" and fit.nodes is not None:
        nodes = list(zip(fit.nodes.shape, fit.nodes.a, fit.nodes.b, strict=True))
        weight = fit.nodes.weight
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
    try:
        return [step for step in survival_steps(kept) if step.at_risk >= FEWEST_AT_RISK], first
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
