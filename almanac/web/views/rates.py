"""How parts of each kind die."""

from __future__ import annotations

from datetime import date, timedelta

from flask import Blueprint

from almanac.core.checks import Floats
from almanac.core.demand.failure_rate import AnnualisedRate
from almanac.core.life.outcomes import DEAD_ON_ARRIVAL_DAYS
from almanac.core.life.record import Stream
from almanac.services.clock import read_clock
from almanac.services.rates.data_check import data_check
from almanac.services.rates.kind import KindRates, PoolName, PoolRates, rates_of
from almanac.services.rates.part_groups import GroupRates
from almanac.services.rates.pool import counted_as, read_pool
from almanac.services.starting_points import StartingPoint, read_start, state_start, stated_of, stated_words
from almanac.store.models import Role
from almanac.store.settings import settings_on
from almanac.web.access import author_id
from almanac.web.api import endpoint
from almanac.web.database import session
from almanac.web.schemas import rates as schemas

blueprint = Blueprint("rates", __name__, url_prefix="/api/v1")
QUARTER_DAYS = 365.25 / 4
MOST_STEPS = 300


@endpoint(blueprint, "/rates/<kind>", access=Role.READER, replies=schemas.KindRatesReply, kept="dear")
def kind_rates(kind: str) -> schemas.KindRatesReply:
    """A kind's survival, hazard, school and pools; nothing where none of it was ever seen in service."""
    found = rates_of(session(), kind)
    return schemas.KindRatesReply(kind=kind, rates=None if found is None else _of_kind(found))


def _of_kind(found: KindRates) -> schemas.KindRatesView:
    every = max(1, -(-len(found.steps) // MOST_STEPS))
    return schemas.KindRatesView(
        kind=found.kind,
        school=found.school.name,
        wear_out=found.school.wear_out,
        early_life=found.school.early_life,
        reason=found.school.reason,
        shape=found.shape,
        free_shape=found.free_shape,
        failures=found.failures,
        open_share=found.open_share,
        open_findings=found.open_findings,
        found=found.found,
        exposure_years=found.exposure_years,
        overall=_interval(found.overall),
        survival=[schemas.SurvivalPoint.model_validate(step, extra="ignore") for step in found.steps[::every]],
        shown_from=found.shown_from,
        curve=[
            schemas.CurvePoint(age=float(age), survival=float(survival), low=float(low), high=float(high), hazard=float(hazard))
            for age, survival, low, high, hazard in zip(
                found.curve_age, found.curve, found.curve_low, found.curve_high, found.hazard, strict=True
            )
        ],
        served=[schemas.ServedBar(age=float(age), units=float(units)) for age, units in zip(found.served_age, found.served, strict=True)],
        wave=_wave(found, read_clock(session()).today),
        pools=[_pool(pool) for pool in found.pools],
        groups=[_group(group, found.curve_age) for group in found.groups],
        paces=[schemas.ClassPaceView.model_validate(pace, extra="ignore") for pace in found.paces],
        left_out=found.left_out,
        age_unknown=found.age_unknown,
    )


@endpoint(blueprint, "/rates/<kind>/start", access=Role.READER, replies=schemas.StartView)
def starting_point(kind: str) -> schemas.StartView:
    """What a kind begins from, as the company states it."""
    clock = read_clock(session())
    start, number = read_start(session(), kind, clock)
    stated = stated_of(settings_on(session(), clock.today), kind)
    return schemas.StartView(
        fields=schemas.StartFields(**vars(start)), number=number, words=None if stated is None else stated_words(stated, kind)
    )


@endpoint(blueprint, "/rates/<kind>/start", method="POST", access=Role.LEAD, replies=schemas.StartStated, status=201)
def state_a_starting_point(kind: str, json: schemas.StartIn) -> schemas.StartStated:
    """State what a kind begins from, or take it back where nobody knows."""
    start = StartingPoint(**json.fields.model_dump())
    clock = read_clock(session())
    number = state_start(session(), kind, start, expected_number=json.expected_number, clock=clock, author_id=author_id())
    return schemas.StartStated(number=number)


@endpoint(blueprint, "/pool-lives", access=Role.READER, replies=schemas.PoolLivesView)
def pool_lives(query: schemas.PoolLivesQuery) -> schemas.PoolLivesView:
    """Every life a pool's rate is counted from."""
    found = read_pool(session(), PoolName(query.part, query.model, query.duty, query.air, query.lot))
    return schemas.PoolLivesView(
        kind=found.kind,
        exposure_years=found.exposure_years,
        confirmed=found.confirmed,
        open=found.open,
        left_out=found.left_out,
        before=found.before,
        lives=[
            schemas.LifeView(
                tag=row.tag,
                site=row.site,
                part=row.part,
                fitted_on=row.fitted_on,
                from_age=row.from_age,
                exit_age=row.exit_age,
                age_span=row.age_span,
                seen_good=row.seen_good,
                late=row.entry_age > DEAD_ON_ARRIVAL_DAYS,
                counted_as=counted_as(row),
                incident_id=row.incident_id,
            )
            for row in found.rows
        ],
    )


def _interval(rate: AnnualisedRate | None) -> schemas.RateInterval | None:
    return schemas.RateInterval.model_validate(rate, extra="ignore") if rate else None


def _wave(found: KindRates, today: date) -> list[schemas.WaveBar]:
    starts = [today + timedelta(days=round(place * QUARTER_DAYS)) for place in range(found.wave.size)]
    return [schemas.WaveBar(starts_on=day, expected=float(value)) for day, value in zip(starts, found.wave, strict=True)]


def _pool(pool: PoolRates) -> schemas.PoolRatesView:
    return schemas.PoolRatesView(
        **pool.name._asdict(),
        failures=pool.failures,
        exposure_years=pool.exposure_years,
        units=pool.units,
        raw=pool.raw.rate,
        raw_low=pool.raw.low,
        raw_high=pool.raw.high if pool.raw.rate is not None else None,
        shrunk=_interval(pool.shrunk),
        damage=_beside(pool, Stream.DAMAGE),
        suspicion=_beside(pool, Stream.NO_FAULT_DRAW),
    )


def _beside(pool: PoolRates, stream: Stream) -> schemas.BesideRate | None:
    if stream not in pool.beside:
        return None
    seen, rate = pool.beside[stream]
    return schemas.BesideRate(seen=seen, rate=rate)


def _group(group: GroupRates, ages: Floats) -> schemas.GroupRatesView:
    """Over the ages of its kind."""
    return schemas.GroupRatesView(
        part=group.part,
        failures=group.failures,
        exposure_years=group.exposure_years,
        shape=group.shape,
        low=group.low,
        high=group.high,
        differs=group.differs,
        curve=[schemas.GroupCurvePoint(age=float(age), hazard=float(hazard)) for age, hazard in zip(ages, group.hazard, strict=True)],
    )


@endpoint(blueprint, "/data-check", access=Role.READER, replies=schemas.DataChecks, kept="cheap")
def data_checks() -> schemas.DataChecks:
    """What in the record the rates count in part, wrongly or not at all."""
    return schemas.DataChecks(
        checks=[
            schemas.DataCheckView(
                key=found.check.key,
                title=found.check.title,
                effect=found.check.effect,
                left_out=found.check.left_out,
                count=found.count,
                rows=[schemas.OddRowView(**row._asdict()) for row in found.rows],
            )
            for found in data_check(session())
        ]
    )
