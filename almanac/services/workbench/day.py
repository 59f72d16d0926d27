"""The bench's day: who has what, where each job stands and what it waits for, and what comes up beside the jobs."""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import timedelta

from sqlalchemy.orm import Session

from almanac.core.workbench.journal import JobState, Standing
from almanac.core.workbench.plan import JobPlan
from almanac.core.workbench.way import Way, loose, way_of
from almanac.services.clock import Clock
from almanac.services.readings import worn_limits
from almanac.services.stores.issue import waited
from almanac.services.words import count, day
from almanac.services.workbench.planning import restored
from almanac.services.workbench.read import read_jobs, standing_of
from almanac.store import assets, jobs
from almanac.store import day as store
from almanac.store.day import PlannedSwap, WornUnit
from almanac.store.jobs import JobRow
from almanac.store.models import Job

AHEAD_DAYS, PAST_DAYS = 183, 30
"""Planned swaps are shown so far ahead, and so long after their day while nobody withdrew them."""
MOST_SWAPS = 6
NEAR = 0.03
"""Units within so much of the share they are swapped at are shown too."""
MOST_WORN = 12
READY, GOES, WAITS, STOPPED = "ready", "goes", "waits", "stopped"


@dataclass(frozen=True)
class DayJob:
    """A job in hand. stands : where, in words · note : what that means for the machine, or when it goes on
    tone : ready, goes, waits, stopped · way : how far it is, None while nobody knows its steps
    """

    row: JobRow
    targets: list[str]
    stands: str
    note: str
    tone: str
    way: Way | None


@dataclass(frozen=True)
class Day:
    """What is to do at the bench. worn : packs and drives read below or near the share at which they are swapped, with that share, the
    lowest first, and how many
    """

    jobs: list[DayJob]
    swaps: list[PlannedSwap]
    worn: list[tuple[WornUnit, float]]
    worn_count: int
    open_findings: int


def read_day(session: Session, *, clock: Clock) -> Day:
    """Jobs in hand with where they stand, planned swaps, parts read as worn, findings to settle."""
    asked = {item.row.job_id: item.row.subject for item in jobs.open_approvals(session)}
    reader = _Reader(session, clock, asked)
    limits = worn_limits(session, clock)
    worn, worn_count = store.worn_units(session, {number: limit + NEAR for number, limit in limits.items()}, most=MOST_WORN)
    return Day(
        jobs=[reader.of(row) for row in read_jobs(session, ended=False)],
        swaps=store.planned_swaps(session, since=clock.today - timedelta(days=PAST_DAYS), until=clock.today + timedelta(days=AHEAD_DAYS))[
            :MOST_SWAPS
        ],
        worn=[(one, limits[one.part_number]) for one in worn],
        worn_count=worn_count,
        open_findings=store.open_findings(session),
    )


@dataclass
class _Reader:
    """Reads where jobs stand; labels of a model's positions are read once."""

    session: Session
    clock: Clock
    asked: dict[int, str]
    labels: dict[int, dict[str, str]] = field(default_factory=dict)

    def of(self, row: JobRow) -> DayJob:
        """A job with where it stands."""
        plan, standing = restored(row.job.plan), standing_of(self.session, row.job)
        way = way_of(plan, standing)
        stands, note, tone = self._stands(row.job, plan, standing, way)
        return DayJob(row, self._targets(row.job, plan), stands, note, tone, way)

    def _targets(self, job: Job, plan: JobPlan) -> list[str]:
        if job.model_id not in self.labels:
            self.labels[job.model_id] = {one.key: one.label for one in assets.positions_of_model(self.session, job.model_id)}
        return [self.labels[job.model_id].get(key, key) for key in plan.wanted or plan.targets]

    def _stands(self, job: Job, plan: JobPlan, standing: Standing, way: Way | None) -> tuple[str, str, str]:
        state = JobState(job.state)
        if job.id in self.asked and state is not JobState.STOPPED:
            return "waits for an approval", f"asked about: {_words(self.asked[job.id])}", WAITS
        if state is JobState.WAITING:
            return self._waits(job, standing)
        if state is JobState.STOPPED:
            return "stopped", "; ".join((*standing.danger, *standing.referral)), STOPPED
        if state is JobState.WATCHING:
            return "back in use, watched", f"since {day(job.watch_from)}" if job.watch_from else "", GOES
        return _parked(standing) if state is JobState.PARKED else _goes(plan, standing, way)

    def _waits(self, job: Job, standing: Standing) -> tuple[str, str, str]:
        """What a job waits for, and what comes: for a part without a number nobody can say when."""
        if standing.waiting_for != "part":
            return f"waits for {standing.waiting_for or 'something'}", "", WAITS
        if standing.waiting_part is None:
            return "waits for a part", "its number was not said: nobody knows when it comes", WAITS
        stands = f"waits for {standing.waiting_part}"
        site = assets.site_on(self.session, job.asset_id, self.clock.today)
        found = waited(self.session, job, standing.waiting_part, site) if site is not None else None
        if found is None:
            return stands, "no part has that number", WAITS
        if found.kept:
            return stands, "it lies there, kept for this machine", GOES
        if found.due_on is None:
            return stands, "nothing is on its way: order or send one", STOPPED
        return stands, f"comes on {day(found.due_on)}, {found.due_with}", WAITS


def _parked(standing: Standing) -> tuple[str, str, str]:
    """How somebody left it."""
    how = standing.parked or {}
    where = f"screws: {how['screws_where']}" if how.get("screws_where") else _out(standing)
    return "parked", "; ".join(part for part in (str(how.get("words") or ""), where) if part), WAITS


def _goes(plan: JobPlan, standing: Standing, way: Way | None) -> tuple[str, str, str]:
    """How far it is; where nobody knows its steps, what was done."""
    if plan.plain:
        return "steps typed as they are done", _out(standing), GOES
    if way is None:
        return "diagnosis", f"{count(len(standing.tests), 'test')} done" if standing.tests else "no test done yet", GOES
    stands = "to be closed" if way.done == way.steps else f"step {way.done + 1} of {way.steps}"
    return stands, _out(standing), GOES if way.done else READY


def _out(standing: Standing) -> str:
    """What lies beside the machine."""
    screws, leads = loose(standing)
    if not screws and not leads:
        return "nothing is out"
    parts = [count(number, name) for number, name in ((screws, "screw"), (leads, "lead")) if number]
    return f"{' and '.join(parts)} out"


def _words(subject: str) -> str:
    return subject.replace("_", " ").replace(":", " of ")
