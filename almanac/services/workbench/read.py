"""Reading jobs: the list, and one job with all that its journal adds up to."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from itertools import pairwise

from sqlalchemy.orm import Session

from almanac.core.workbench.closing import closing_refusals, mismatches
from almanac.core.workbench.entries import StillOut, beneath, count_questions
from almanac.core.workbench.gates import Gate, GateRules
from almanac.core.workbench.journal import ENDED, Entry, JobState, Standing, fold, open_gates
from almanac.core.workbench.minutes import LearntMinutes
from almanac.core.workbench.plan import JobPlan, JobStep, Phase
from almanac.core.workbench.settling import OpenFact, open_facts
from almanac.services.clock import Clock
from almanac.services.errors import NotFound
from almanac.services.pages.library import read_library
from almanac.services.pages.plan import learnt_of
from almanac.services.stores.issue import Waited, waited
from almanac.services.workbench.planning import restored
from almanac.store import assets, jobs, stores
from almanac.store.jobs import AskedApproval, JobRow
from almanac.store.models import Asset, Job, JobEntry
from almanac.store.settings import settings_on
from almanac.store.stores import IssuedRow

LONGEST_GAP = timedelta(minutes=30)
"""A longer pause between two entries is no bench time."""
BY_SERVER = frozenset({"takeover", "plan", "close", "abandon", "watch", "report", "waive", "approve", "release", "refer"})
"""Entries that a use case of their own writes; their time is the server's, which need not agree with the device's."""
IN_HAND = tuple(state.value for state in JobState if state not in ENDED)


@dataclass(frozen=True)
class Written:
    """An entry of the journal with who wrote it."""

    entry: JobEntry
    author: str | None


@dataclass(frozen=True)
class JobReading:
    """Everything the bench shows of a job."""

    row: JobRow
    asset: Asset
    plan: JobPlan
    standing: Standing
    next_step: JobStep | None
    gates: tuple[Gate, ...]
    beneath: list[StillOut]
    mismatches: list[str]
    blocking: list[str]
    facts: list[OpenFact]
    questions: list[str]
    learnt: LearntMinutes
    minutes_so_far: float
    journal: list[Written]
    approvals: list[AskedApproval]
    issued: list[IssuedRow]
    waited: Waited | None
    server_now: datetime


def gate_rules(session: Session, clock: Clock) -> GateRules:
    """Seconds the power button is held, as the company decided."""
    usual = GateRules()
    return GateRules(hold_seconds=float(settings_on(session, clock.today).value("hold_seconds", default=usual.hold_seconds)))


def entry_of(row: JobEntry) -> Entry:
    """An entry as the core folds it."""
    return Entry(row.kind, row.data)


def standing_of(session: Session, job: Job) -> Standing:
    """What a job's journal adds up to."""
    return fold(restored(job.plan), [entry_of(row) for row, _ in jobs.entries(session, job.id)])


def read_jobs(session: Session, *, ended: bool, tag: str | None = None) -> list[JobRow]:
    """Jobs in hand, or those that ended, latest first."""
    states = sorted(ENDED) if ended else IN_HAND
    return jobs.job_rows(session, states=states, tag=tag)


def read_job(session: Session, job_id: int, *, clock: Clock) -> JobReading:
    """One job.

    Raises
    ------
    NotFound : there is no such job
    """
    row = jobs.job_row(session, job_id)
    if row is None:
        raise NotFound(f"there is no job {job_id}")
    plan = restored(row.job.plan)
    journal = [Written(entry, author) for entry, author in jobs.entries(session, job_id)]
    standing = fold(plan, [entry_of(item.entry) for item in journal])
    coming = standing.next_step(plan)
    return JobReading(
        row=row,
        asset=session.get_one(Asset, row.job.asset_id),
        plan=plan,
        standing=standing,
        next_step=coming,
        beneath=beneath(plan, standing) if coming is not None and coming.phase == Phase.CLOSING else [],
        gates=open_gates(plan, standing, gate_rules(session, clock)),
        mismatches=mismatches(plan, standing),
        blocking=closing_refusals(plan, standing, opened=bool(standing.done)),
        facts=_visible_facts(session, row.job, plan, standing),
        questions=_questions(plan, standing),
        learnt=learnt_of(session, row.job.model_id),
        minutes_so_far=bench_minutes([item.entry for item in journal]),
        journal=journal,
        approvals=jobs.approvals_of(session, job_id),
        issued=stores.issued_to(session, job_id),
        waited=_waited(session, row.job, standing, clock),
        server_now=jobs.database_now(session),
    )


def _waited(session: Session, job: Job, standing: Standing, clock: Clock) -> Waited | None:
    """How it stands with the part a job waits for."""
    site = assets.site_on(session, job.asset_id, clock.today) if standing.waiting_part else None
    return waited(session, job, standing.waiting_part, site) if site is not None and standing.waiting_part else None


def _visible_facts(session: Session, job: Job, plan: JobPlan, standing: Standing) -> list[OpenFact]:
    """Facts of what lies open now that nobody has settled on this job."""
    settled = {(item.get("position"), item.get("name")) for item in standing.settled}
    page = read_library(session).get(job.model_id)
    if page is None:
        return []
    return [fact for fact in open_facts(page.whole, plan) if fact.after_step in standing.done and (fact.position, fact.name) not in settled]


def _questions(plan: JobPlan, standing: Standing) -> list[str]:
    return [question for step in plan.steps if step.id in standing.counts for question in count_questions(step, standing.counts[step.id])]


def bench_minutes(rows: Sequence[JobEntry]) -> float:
    """Minutes at the bench: from entry to entry of the device, without the time it was parked or waiting and without long pauses."""
    total, away = timedelta(), False
    for before, row in pairwise([row for row in rows if row.kind not in BY_SERVER]):
        away = before.kind in ("park", "wait") or (away and before.kind != "resume")
        gap = row.done_at - before.done_at
        if not away and timedelta() < gap <= LONGEST_GAP:
            total += gap
    return total.total_seconds() / 60
