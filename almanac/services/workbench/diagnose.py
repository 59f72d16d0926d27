"""Diagnosis of a job: priors from the fleet's own rates, results multiplied in, the next test, and repair or replace."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Any

from sqlalchemy.orm import Session

from almanac.core.errors import ContractError
from almanac.core.parts.declared.kinds import FORECAST_KINDS
from almanac.core.triage.complaint import ranked
from almanac.core.triage.knowledge import Symptom, Test
from almanac.core.triage.results import Result, conflicts, heard
from almanac.core.triage.table import Advice, Case, Row, next_tests, priors, separates, updated
from almanac.core.workbench.journal import Standing
from almanac.exchange.diagnosis.read import read_knowledge, standard, standard_text
from almanac.services.clock import Clock
from almanac.services.errors import Fault, NotFound, Refused
from almanac.services.pages.read import read_rates
from almanac.services.workbench.read import standing_of
from almanac.store import assets, jobs, pages, settings
from almanac.store.models import Asset, Job, Setting
from almanac.store.settings import settings_on

KEY = "diagnosis"
MOST_RETURNS = 20


@dataclass(frozen=True)
class Told:
    """A test that was made, and whether it told anything. job : an earlier one that the machine came back from"""

    test: str
    words: str
    outcome: str
    told: bool
    job: int | None


@dataclass(frozen=True)
class Diagnosis:
    """The table of one symptom as it stands.

    against : sentences on results that do not go together · replaced : kinds that an earlier job replaced by tested parts, with the
    share of them that was · new : kinds whose replacement was new, so that it may be bad itself · returns : earlier jobs, latest first
    """

    symptom: Symptom
    rows: list[Row]
    results: list[Told]
    against: list[str]
    advice: list[Advice]
    rates: Mapping[str, float]
    events: Sequence[str]
    old: bool
    replaced: Mapping[str, float]
    new: Sequence[str]
    returns: Sequence[int]


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
    before = earlier_jobs(session, row.job)
    replaced, new = _replaced_before(session, asset, before)
    try:
        first = priors(symptom, Case(rates, row.job.events, old, replaced))
    except ContractError as error:
        raise Refused(Fault("symptom", str(error))) from error
    results = [Result(one.test, one.outcome, job.id) for job, earlier in reversed(before) for one in earlier.tests if one.of(symptom.id)]
    results += [Result(one.test, one.outcome) for one in standing.tests if one.of(symptom.id)]
    made, table, told = heard(symptom, results), first, []
    for test, result in made.counted:
        told.append(Told(test.id, test.words, result.outcome, separates(table, test, result.outcome), result.job))
        table = updated(table, test, result.outcome)
    told += [Told(test.id, test.words, one.outcome, told=False, job=one.job) for test, both in made.contradicting for one in both]
    against = [twice_words(test, both) for test, both in made.contradicting] + [
        pair_words(*pair) for pair in conflicts(first, made.counted)
    ]
    done = [test.id for test, result in made.counted if result.job is None]
    return Diagnosis(
        symptom,
        sorted(table, key=lambda item: -item.posterior),
        told,
        against,
        next_tests(symptom, table, done),
        rates,
        row.job.events,
        old,
        replaced,
        new,
        [job.id for job, _ in before],
    )


def unknown_result(session: Session, data: Mapping[str, Any], clock: Clock) -> list[str]:
    """Why a test's result cannot be written: a symptom, test or outcome that the company's knowledge does not have."""
    known = knowledge(session, clock)
    symptom = next((item for item in known if item.id == data.get("symptom")), None)
    if symptom is None:
        return [f"there is no symptom {data.get('symptom')}: choose what the complaint is most like"]
    test = symptom.test(str(data.get("test")))
    if test is None:
        return [f"{symptom.words}: there is no test {data.get('test')}; read the diagnosis again, it may have been edited"]
    if data.get("outcome") not in test.outcomes:
        return [f"{test.words}: the outcome is one of {', '.join(test.outcomes)}"]
    return []


def likely_symptoms(session: Session, words: str, clock: Clock) -> list[tuple[Symptom, float]]:
    """Symptoms a complaint may be about, likeliest first; none where no word of it is known."""
    return ranked(words, knowledge(session, clock))


def earlier_jobs(session: Session, job: Job) -> list[tuple[Job, Standing]]:
    """Jobs the machine came back from, latest first, each as it stood (rule D4)."""
    found: list[tuple[Job, Standing]] = []
    while job.reopens_id is not None and len(found) < MOST_RETURNS:
        job = session.get_one(Job, job.reopens_id)
        found.append((job, standing_of(session, job)))
    return found


def _replaced_before(session: Session, asset: Asset, before: Sequence[tuple[Job, Standing]]) -> tuple[dict[str, float], list[str]]:
    """Kinds replaced by tested parts with their share, and kinds replaced by new ones, which may be bad from the start (rule D4)."""
    changed = {key for _, standing in before for key, swap in standing.swaps.items() if not swap.get("refitted")}
    places = {row.id: row.key for row in assets.positions_of_model(session, asset.model_id)}
    held: Counter[str] = Counter()
    tested: Counter[str] = Counter()
    new: set[str] = set()
    for place, (tenure, part, _) in assets.open_tenures(session, asset.id).items():
        held[part.kind] += 1
        if places.get(place) not in changed:
            continue
        if tenure.age_at_fitting_days > 0:
            tested[part.kind] += 1
        else:
            new.add(part.kind)
    return {kind: count / held[kind] for kind, count in tested.items()}, sorted(new)


def twice_words(test: Test, both: Sequence[Result]) -> str:
    """A test that was made twice with two answers."""
    said = ", then ".join(f'"{one.outcome}"' for one in both)
    return f"{test.words}: {said}. It counts for neither until one of them is taken back."


def pair_words(one: tuple[Test, Result], other: tuple[Test, Result]) -> str:
    """Two results that hardly go together."""
    first, second = (f'{test.words}: "{result.outcome}"' for test, result in (one, other))
    return f"{first} and {second} hardly go together under any one cause: repeat one of them, or two things are wrong at once."


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
