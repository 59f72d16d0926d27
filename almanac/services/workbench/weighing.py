"""Repair against replacement of a job's machine, costed as far as somebody knows the prices."""

from __future__ import annotations

from dataclasses import dataclass, replace

from sqlalchemy.orm import Session

from almanac.core.triage.repair import Costs, GoodPart, Options, weigh
from almanac.core.workbench.journal import Standing
from almanac.core.workbench.plan import JobPlan
from almanac.services.clock import Clock
from almanac.services.errors import NotFound
from almanac.services.workbench.planning import restored
from almanac.services.workbench.read import standing_of
from almanac.store import assets, jobs
from almanac.store.models import Asset, Job
from almanac.store.settings import settings_on

DAYS_A_YEAR = 365.25


def costs_of(session: Session, clock: Clock) -> Costs:
    """What a repair is weighed with, as the company decided."""
    company = settings_on(session, clock.today)
    assumed: list[str] = []

    def value(key: str, usual: float) -> float:
        if company.value(key) is None:
            assumed.append(key)
        return float(company.value(key, default=usual))

    costs = Costs(
        labour_per_hour=value("labour_per_hour", 48.0),
        machine_price=value("machine_price", 900.0),
        machine_years=value("machine_years", 6.0),
        setup_minutes=value("setup_minutes", 60.0),
        age_penalty=value("age_penalty", 0.15),
        talk_ratio=value("talk_ratio", 0.5),
    )
    return replace(costs, assumed=tuple(assumed))


def options_of(session: Session, job_id: int, *, clock: Clock) -> Options:
    """Repair, replace and harvest of a job's machine, costed side by side.

    Raises
    ------
    NotFound : there is no such job
    """
    row = jobs.job_row(session, job_id)
    if row is None:
        raise NotFound(f"there is no job {job_id}")
    plan, standing = restored(row.job.plan), standing_of(session, row.job)
    asset = session.get_one(Asset, row.job.asset_id)
    held = assets.open_tenures(session, asset.id)
    replaced = _replaced(session, row.job, plan, standing)
    unpriced = [one.words for one in replaced if one.price is None]
    good = [
        GoodPart(part.name, float(part.price), ((clock.today - tenure.fitted_on).days + tenure.age_at_fitting_days) / DAYS_A_YEAR)
        for place, (tenure, part, _) in held.items()
        if place not in {one.position_id for one in replaced} and part.kind != "battery"
    ]
    risk = sum(step.minutes.mean for step in plan.steps if step.one_way)
    return weigh(
        costs_of(session, clock),
        parts_price=None if unpriced else sum(one.price or 0.0 for one in replaced),
        minutes=row.job.planned_minutes,
        risk_minutes=risk,
        age_years=(clock.today - asset.in_service_on).days / DAYS_A_YEAR,
        good_parts=good,
        unpriced=unpriced,
    )


@dataclass(frozen=True)
class _Replaced:
    position_id: int
    words: str
    price: float | None


def _replaced(session: Session, job: Job, plan: JobPlan, standing: Standing) -> list[_Replaced]:
    """Positions the job replaces, each with the price of its part: the one chosen, else the cheapest that fits, None where none is."""
    positions = {row.key: row for row in assets.positions_of_model(session, job.model_id)}
    keys = [step.position for step in plan.steps if step.position in positions]
    fits = assets.fits_of(session, [positions[key].id for key in keys if key])
    found = []
    for key in keys:
        position = positions[str(key)]
        chosen = standing.swaps.get(str(key), {}).get("part_number")
        part = assets.part_by_number(session, str(chosen)) if chosen else None
        prices = [float(item.price) for fit, item in fits.get(position.id, []) if fit.verdict == "yes"]
        found.append(_Replaced(position.id, position.label, float(part.price) if part else min(prices, default=None)))
    return found
