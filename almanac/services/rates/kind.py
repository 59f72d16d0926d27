"""One kind: its pools by age, the shared shape, the school, survival, hazard, and the wave to come."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass
from functools import lru_cache
from typing import NamedTuple

import numpy as np
from sqlalchemy.orm import Session

from almanac.core.checks import Floats
from almanac.core.errors import NoEstimate
from almanac.core.life.hierarchy import PoolLikelihood, SharedShape, fit_shared_shape
from almanac.core.life.mix import YearlyRate, expected_first_failures, survival_curve, yearly_rate
from almanac.core.life.rate import RateEstimate, constant_rate
from almanac.core.life.school import School, choose_school
from almanac.core.life.survival import SurvivalStep, kaplan_meier
from almanac.core.life.tenures import AgeCounts
from almanac.core.parts.kinds import FORECAST_KINDS
from almanac.services.errors import NotFound
from almanac.services.outlook.inputs import Inputs, read_inputs
from almanac.services.outlook.laws import LawBook
from almanac.store import ages as store

DAYS_A_YEAR = 365.25
FEWEST_AT_RISK = 5
QUARTERS = 12


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
    shrunk: YearlyRate | None


@dataclass(frozen=True)
class KindRates:
    """A kind in its school. shape is 1 under the constant one; band and curve are by age in years."""

    kind: str
    school: School
    shape: float
    free_shape: float | None
    failures: float
    open_share: float
    open_findings: int
    exposure_years: float
    overall: YearlyRate | None
    steps: list[SurvivalStep]
    shown_from: float
    curve_age: Floats
    curve: Floats
    hazard: Floats
    served_age: Floats
    served: Floats
    wave: Floats
    pools: list[PoolRates]


def read_kind(session: Session, kind: str) -> KindRates:
    """How parts of a kind die, over all sites.

    Raises
    ------
    NotFound : it is no kind that is forecast, or nothing of it was ever in service
    """
    if kind not in [item.value for item in FORECAST_KINDS]:
        raise NotFound(f"rates are estimated for {', '.join(FORECAST_KINDS)}; {kind} is none of them")
    inputs = read_inputs(session)
    risk, served = store.at_risk(session, as_of=inputs.clock.today, known_at=inputs.clock.now)
    pools, share, waiting = _pools(inputs, kind, risk)
    if not pools:
        raise NotFound(f"nothing of kind {kind} was observed in service yet")
    return _rates(kind, pools, _served(inputs, kind, served), share, waiting)


def _pools(inputs: Inputs, kind: str, rows: list[store.AgeRow]) -> tuple[dict[PoolName, AgeCounts], float, int]:
    """Counts by age in years of every pool of a kind; open findings weigh with the kind's settled share."""
    evidence = LawBook(inputs).kinds.get(kind)
    share = evidence.record.share.share if evidence else 0.5
    found: dict[PoolName, dict[int, list[float]]] = defaultdict(lambda: defaultdict(lambda: [0.0, 0.0, 0.0]))
    waiting = 0
    for row in rows:
        name = _name(inputs, kind, row.part_id, row.model_id, row.duty, row.site_id)
        if name is None:
            continue
        total = found[name][row.day]
        total[0] += row.entered
        total[1] += row.gone
        total[2] += row.confirmed + share * row.open
        waiting += row.open
    return {name: _counts(days) for name, days in sorted(found.items())}, share, waiting


def _name(inputs: Inputs, kind: str, part_id: int, model_id: int, duty: str, site_id: int) -> PoolName | None:
    leader = inputs.group.get(part_id)
    part = next((item for item in inputs.parts if item.id == leader), None)
    if part is None or part.kind != kind:
        return None
    air = next(site.environment for site in inputs.sites if site.id == site_id)
    model = inputs.models[model_id]
    return PoolName(part.number, f"{model.maker} {model.name}", duty, air)


def _counts(days: dict[int, list[float]]) -> AgeCounts:
    age = np.array(sorted(days), dtype=np.float64)
    table = np.array([days[int(day)] for day in age])
    return AgeCounts(age / DAYS_A_YEAR, table[:, 0], table[:, 1], table[:, 2], 0)


def _served(inputs: Inputs, kind: str, rows: list[store.ServedRow]) -> dict[PoolName, tuple[Floats, Floats]]:
    found: dict[PoolName, dict[int, float]] = defaultdict(lambda: defaultdict(float))
    for row in rows:
        name = _name(inputs, kind, row.part_id, row.model_id, row.duty, row.site_id)
        if name is not None:
            found[name][row.day] += row.units
    return {name: (np.array(list(days)) / DAYS_A_YEAR, np.array(list(days.values()))) for name, days in found.items()}


def together(pools: list[AgeCounts]) -> AgeCounts:
    """All pools as one."""
    age, place = np.unique(np.concatenate([pool.age for pool in pools]), return_inverse=True)
    columns = [np.concatenate([getattr(pool, name) for pool in pools]) for name in ("entered", "left", "failed")]
    entered, left, failed = (np.bincount(place, column, age.size).astype(float) for column in columns)
    return AgeCounts(age, entered, left, failed, sum(pool.dropped for pool in pools))


class _Key(NamedTuple):
    """Content of a kind's counts, so that an equal log is not searched again."""

    kind: str
    content: tuple[bytes, ...]


_SEEN: dict[_Key, list[AgeCounts]] = {}


@lru_cache(maxsize=16)
def _fitted(key: _Key) -> tuple[SharedShape, SharedShape | None, float]:
    """The kind under its stated prior, without one, and the gain of the latter over a shape of 1."""
    pools = _SEEN.pop(key)
    with_prior = fit_shared_shape(pools, kind=key.kind)
    if with_prior.no_failures:
        return with_prior, None, 0.0
    free = fit_shared_shape(pools)
    return with_prior, free, free.loglik - PoolLikelihood(pools).at(1.0)[0]


def _rates(
    kind: str, pools: dict[PoolName, AgeCounts], served: dict[PoolName, tuple[Floats, Floats]], share: float, waiting: int
) -> KindRates:
    counts = list(pools.values())
    key = _Key(kind, tuple(part.tobytes() for pool in counts for part in (pool.age, pool.entered, pool.left, pool.failed)))
    _SEEN[key] = counts
    try:
        worn, free, gain = _fitted(key)
    finally:
        _SEEN.pop(key, None)
    whole = together(counts)
    school = choose_school(whole.failures, shape=free.shape if free else None, gain=gain if free else None)
    fit = worn if school.name == "wear-out" else _constant(counts)
    level = fit.posterior()
    steps, shown_from = _steps(whole)
    age = np.linspace(0.0, max(float(whole.age.max()), 0.5), 81)
    mean = _overall(fit)
    nothing = (np.empty(0), np.empty(0))
    gammas = zip(level[0], level[1], strict=True)
    rows = [
        _pool(name, pool, fit.shape, gamma, served.get(name, nothing)) for (name, pool), gamma in zip(pools.items(), gammas, strict=True)
    ]
    edges, wave = np.linspace(0.0, QUARTERS / 4, QUARTERS + 1), np.zeros(QUARTERS)
    for place, name in enumerate(pools):
        if name in served:
            wave += expected_first_failures(fit.shape, level[0][place], level[1][place], *served[name], edges)
    old, units = _histogram(list(served.values()))
    return KindRates(
        kind=kind,
        school=school,
        shape=fit.shape,
        free_shape=free.shape if free else None,
        failures=whole.failures,
        open_share=share,
        open_findings=waiting,
        exposure_years=whole.exposure,
        overall=_kind_rate(rows),
        steps=steps,
        shown_from=shown_from,
        curve_age=age,
        curve=survival_curve(fit.shape, *mean, age),
        hazard=mean[0] / mean[1] * fit.shape * np.maximum(age, 1e-3) ** (fit.shape - 1),
        served_age=old,
        served=units,
        wave=wave,
        pools=sorted(rows, key=lambda row: -(row.shrunk.rate if row.shrunk else 0.0)),
    )


def _constant(pools: list[AgeCounts]) -> SharedShape:
    """The kind at a shape of 1: the constant school with the same borrowing."""
    likelihood = PoolLikelihood(pools)
    value, prior, hazard = likelihood.at(1.0)
    unit = likelihood.unit
    return SharedShape(1.0, prior.shape, prior.rate * unit, value, prior.boundary, prior.no_failures, likelihood.failures, hazard * unit)


def _overall(fit: SharedShape) -> tuple[float, float]:
    """The kind's own gamma: a new pool of which nothing is known."""
    return fit.prior_shape, fit.prior_rate


def _steps(whole: AgeCounts) -> tuple[list[SurvivalStep], float]:
    """Survival from the first age at which five are at risk: before it, few old parts would draw wild steps."""
    risk = whole.at_risk()
    enough = np.flatnonzero(risk >= FEWEST_AT_RISK)
    if enough.size == 0:
        return [], 0.0
    first = float(whole.age[enough[0]])
    kept = AgeCounts(whole.age, whole.entered, whole.left, np.where(whole.age >= first, whole.failed, 0.0), whole.dropped)
    try:
        return [step for step in kaplan_meier(kept) if step.at_risk >= FEWEST_AT_RISK], first
    except NoEstimate:
        return [], first


def _pool(name: PoolName, pool: AgeCounts, shape: float, gamma: tuple[float, float], served: tuple[Floats, Floats]) -> PoolRates:
    return PoolRates(
        name=name,
        failures=pool.failures,
        exposure_years=pool.exposure,
        units=int(served[1].sum()),
        raw=constant_rate(pool.failures, pool.exposure),
        shrunk=yearly_rate(shape, *gamma, *served),
    )


def _kind_rate(rows: list[PoolRates]) -> YearlyRate | None:
    """The kind's rate at its present units; the interval adds the pools' as if each were off the same way, which is on the safe side."""
    total = sum(row.units for row in rows if row.shrunk)
    if total == 0:
        return None
    weigh = [(row.units / total, row.shrunk) for row in rows if row.shrunk]
    return YearlyRate(*(sum(part * getattr(rate, name) for part, rate in weigh) for name in ("rate", "low", "high")))


def _histogram(served: list[tuple[Floats, Floats]]) -> tuple[Floats, Floats]:
    """Units in service by half years of age."""
    if not served:
        return np.empty(0), np.empty(0)
    age, units = (np.concatenate([pair[place] for pair in served]) for place in (0, 1))
    half = np.floor(age * 2).astype(int)
    counts = np.bincount(half, units)
    return np.arange(counts.size) / 2, counts.astype(float)
