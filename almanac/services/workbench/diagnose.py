"""Diagnosis of a job: priors from the fleet's own rates, results multiplied in, the next test, and repair or replace."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date

from sqlalchemy.orm import Session

from almanac.core.errors import ContractError
from almanac.core.parts.declared.kinds import FORECAST_KINDS
from almanac.core.triage.knowledge import Symptom
from almanac.core.triage.repair import Costs, GoodPart, Options, weigh
from almanac.core.triage.table import Advice, Case, Row, next_tests, priors, separates, updated
from almanac.core.workbench.journal import Standing
from almanac.core.workbench.plan import JobPlan
from almanac.exchange.diagnosis.read import read_knowledge, standard, standard_text
from almanac.services.clock import Clock
from almanac.services.errors import Fault, NotFound, Refused
from almanac.services.pages.read import read_rates
from almanac.services.workbench.planning import restored
from almanac.services.workbench.read import standing_of
from almanac.store import assets, jobs, pages, settings
from almanac.store.models import Asset, Job, Setting
from almanac.store.settings import settings_on

KEY = "diagnosis"
DAYS_A_YEAR = 365.25


@dataclass(frozen=True)
class Result:
    """A test that was made, and whether it told anything."""

    test: str
    words: str
    outcome: str
    told: bool


@dataclass(frozen=True)
class Diagnosis:
    """The table of one symptom as it stands."""

    symptom: Symptom
    rows: list[Row]
    results: list[Result]
    advice: list[Advice]
    rates: Mapping[str, float]
    events: Sequence[str]
    old: bool


def knowledge(session: Session, clock: Clock) -> tuple[Symptom, ...]:
    """The company's symptoms, or those that ship with the application."""
    text = settings_on(session, clock.today).value(KEY)
    return read_knowledge(str(text)) if text else standard()


def knowledge_text(session: Session, clock: Clock) -> tuple[str, int]:
    """The knowledge as a file to edit, and the number of the entry it comes from."""
    company = settings_on(session, clock.today)
    return str(company.value(KEY) or standard_text()), company.number("company", "", KEY)


def change_knowledge(session: Session, text: str, *, clock: Clock, author_id: int) -> int:
    """Keep an edited knowledge file; returns its number.

    Raises
    ------
    Refused : it does not follow the format, with the place
    """
    try:
        read_knowledge(text)
    except ContractError as error:
        raise Refused(Fault("text", str(error))) from error
    number = settings.last_number(session, "company", "", KEY) + 1
    row = Setting(scope="company", key=KEY, number=number, value=text, from_on=clock.today, author_id=author_id, recorded_at=clock.now)
    session.add(row)
    session.flush()
    return number


def diagnose(session: Session, job_id: int, symptom_id: str, *, clock: Clock) -> Diagnosis:
    """The table of a symptom for a job's machine, with the job's results in it.

    Raises
    ------
    NotFound : no such job or symptom
    """
    row = jobs.job_row(session, job_id)
    symptom = next((item for item in knowledge(session, clock) if item.id == symptom_id), None)
    if row is None or symptom is None:
        raise NotFound(f"there is no {'symptom ' + symptom_id if row else f'job {job_id}'}")
    asset = session.get_one(Asset, row.job.asset_id)
    standing = standing_of(session, row.job)
    rates, old = kind_rates(session, asset), is_old(session, asset, clock.today)
    try:
        table = priors(symptom, Case(rates, row.job.events, old))
    except ContractError as error:
        raise Refused(Fault("symptom", str(error))) from error
    results: list[Result] = []
    for name, outcome in standing.tests:
        test = symptom.test(name)
        if test is None or outcome not in test.outcomes:
            continue
        results.append(Result(name, test.words, outcome, separates(table, test, outcome)))
        table = updated(table, test, outcome)
    advice = next_tests(symptom, table, [result.test for result in results])
    return Diagnosis(symptom, sorted(table, key=lambda item: -item.posterior), results, advice, rates, row.job.events, old)


def kind_rates(session: Session, asset: Asset) -> dict[str, float]:
    """Failures of each kind in 100 such machines a year: the rate of what is fitted, times how many; 0.5 where there is no record."""
    rates = {item.number: item.rate for item in read_rates(session, asset.model_id)}
    found: dict[str, float] = {kind.value: 0.0 for kind in FORECAST_KINDS}
    for _, part, _ in assets.open_tenures(session, asset.id).values():
        rate = rates.get(part.number)
        if part.kind in found and rate is not None:
            found[part.kind] += 100 * rate
    return {kind: rate or 0.5 for kind, rate in found.items()}


def is_old(session: Session, asset: Asset, today: date) -> bool:
    """Whether a machine is older than most of its model in service."""
    ages = pages.ages_in_service(session, asset.model_id, today)
    return bool(ages) and (today - asset.in_service_on).days > sorted(ages)[len(ages) // 2]


def costs_of(session: Session, clock: Clock) -> Costs:
    """What a repair is weighed with, as the company decided."""
    company = settings_on(session, clock.today)

    def value(key: str, usual: float) -> float:
        return float(company.value(key, default=usual))

    return Costs(
        labour_per_hour=value("labour_per_hour", 48.0),
        machine_price=value("machine_price", 900.0),
        machine_years=value("machine_years", 6.0),
        setup_minutes=value("setup_minutes", 60.0),
        age_penalty=value("age_penalty", 0.15),
        talk_ratio=value("talk_ratio", 0.5),
    )


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
    good = [
        GoodPart(part.name, float(part.price), (clock.today - tenure.fitted_on).days / DAYS_A_YEAR)
        for place, (tenure, part, _) in held.items()
        if place not in {position for position, _ in replaced} and part.kind != "battery"
    ]
    risk = sum(step.minutes.mean for step in plan.steps if step.one_way)
    return weigh(
        costs_of(session, clock),
        parts_price=sum(price for _, price in replaced),
        minutes=row.job.planned_minutes,
        risk_minutes=risk,
        age_years=(clock.today - asset.in_service_on).days / DAYS_A_YEAR,
        good_parts=good,
    )


def _replaced(session: Session, job: Job, plan: JobPlan, standing: Standing) -> list[tuple[int, float]]:
    """Positions the job replaces, each with the price of its part: the one chosen, else the cheapest that fits."""
    positions = {row.key: row for row in assets.positions_of_model(session, job.model_id)}
    keys = [step.position for step in plan.steps if step.position in positions]
    fits = assets.fits_of(session, [positions[key].id for key in keys if key])
    found = []
    for key in keys:
        position = positions[str(key)]
        chosen = standing.swaps.get(str(key), {}).get("part_number")
        part = assets.part_by_number(session, str(chosen)) if chosen else None
        prices = [float(item.price) for fit, item in fits.get(position.id, []) if fit.verdict == "yes"]
        found.append((position.id, float(part.price) if part else min(prices, default=0.0)))
    return found
