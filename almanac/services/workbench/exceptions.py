"""What went another way than the rules have it, for a lead: waivers, own approvals, quarantines, lost screws, failed tests, returns."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta
from typing import Any

from sqlalchemy.orm import Session

from almanac.core.workbench.journal import JobState, Waiver
from almanac.core.workbench.screws import ENDS, FOUND, INSIDE, WORDS
from almanac.services.clock import Clock
from almanac.services.ledger.evidence import watch_rules
from almanac.services.workbench.read import standing_of
from almanac.store import jobs
from almanac.store.job_exceptions import drives_in_custody, recovered_at_bench
from almanac.store.jobs import JobRow, NotedEntry

SHOWN_DAYS = 90
LONG_DAYS = 14
"""A job in hand for longer is an exception."""


@dataclass(frozen=True)
class Exceptional:
    """One thing a lead should know. cure : how it is settled, None where it stays as it is on record · unit_id : of a drive in custody"""

    what: str
    words: str
    job_id: int
    tag: str
    on: date
    by: str | None
    cure: str | None
    unit_id: int | None = None


def read_exceptions(session: Session, *, clock: Clock) -> list[Exceptional]:
    """What is open first, then what is on record of the last ninety days, the latest first."""
    since = clock.today - timedelta(days=SHOWN_DAYS)
    noted = jobs.noted_entries(session, since=since, kinds=["waive", "approve", "danger", "refer", "screw", "step", "correct"])
    found = [one for entry in noted if (one := _of_entry(session, entry)) is not None]
    for row in jobs.job_rows(session, limit=1000):
        found += _of_job(session, row, clock, since)
    found += [*_booked_at_the_bench(session, since), *_not_from_a_shelf(session, since), *_in_custody(session, clock)]
    return sorted(found, key=lambda one: (one.cure is None, -one.on.toordinal(), -one.job_id))


def _of_entry(session: Session, entry: NotedEntry) -> Exceptional | None:
    data = entry.data

    def said(what: str, words: str, cure: str | None = None) -> Exceptional:
        return Exceptional(what, words, entry.job_id, entry.tag, entry.on, entry.author, cure)

    if entry.kind in ("step", "correct"):
        against = "; ".join(data.get("contradicts") or ())
        return said("contradiction", f"{against}. Fitted all the same: {data.get('reason')}") if against else None
    if entry.kind == "waive":
        return said("own approval" if data.get("own") else "waived", Waiver(str(data["name"]), str(data["reason"])).words(data["gate"]))
    if entry.kind == "approve":
        return said("own approval", f"{data['gate']} approved by the one who works: {data.get('reason', '')}") if data.get("own") else None
    if entry.kind == "screw":
        return _of_screw(session, entry, said)
    job = jobs.job_row(session, entry.job_id)
    standing = standing_of(session, job.job) if job else None
    signs = ", ".join(data.get("signs") or ())
    if standing is not None and standing.released:
        return said("was stopped", f"{signs}; {standing.decision} since")
    pack = entry.kind == "danger"
    cure = "a lead releases it with the fire and safety officer" if pack else "licensed work under the local code, then a lead releases it"
    return said("quarantine" if pack else "mains, referred", signs, cure)


def _of_screw(session: Session, entry: NotedEntry, said: Any) -> Exceptional | None:
    group, end = str(entry.data.get("group")), str(entry.data.get("end"))
    if end not in ENDS or end == FOUND:
        return None
    job = jobs.job_row(session, entry.job_id)
    inside = end == INSIDE and job is not None and group in standing_of(session, job.job).ends.inside
    cure = "found, or searched by a second person; no power until then" if inside else None
    found: Exceptional = said("screw", f"{entry.data.get('count', 1)} x {group}: {WORDS[end]}", cure)
    return found


def _of_job(session: Session, row: JobRow, clock: Clock, since: date) -> list[Exceptional]:
    job, found = row.job, []

    def said(what: str, words: str, on: date, cure: str | None) -> Exceptional:
        return Exceptional(what, words, job.id, row.tag, on, row.lease_user or row.opened_by, cure)

    days = (clock.today - job.opened_on).days
    if job.ended_at is None and job.state != JobState.WATCHING and days > LONG_DAYS:
        found.append(
            said("open for long", f"{job.state} for {days} days: {job.symptom}", job.opened_on, "close it, or end it with its reason")
        )
    if job.state == JobState.WATCHING and job.watch_from is not None:
        until = job.watch_from + timedelta(days=watch_rules(session, clock).days)
        if until < clock.today:
            found.append(said("past its watch", f"watched until {until.isoformat()}: {job.symptom}", until, "settle its finding"))
    if job.failed_test and job.opened_on >= since:
        found.append(said("failed test", f"not cured: {job.symptom}", job.opened_on, None if job.ended_at else "find the cause, or end it"))
    if job.reopens_id is not None and job.opened_on >= since:
        found.append(said("came back", f"of job {job.reopens_id}, {job.symptom}", job.opened_on, None))
    return found


def _not_from_a_shelf(session: Session, since: date) -> list[Exceptional]:
    """Parts that were not new."""
    return [
        Exceptional(
            "not from a shelf",
            f"{row.number} was fitted from {row.bucket.replace('_', ' ')}",
            row.job_id,
            row.tag,
            row.on,
            row.author,
            None,
        )
        for row in recovered_at_bench(session, since)
    ]


def _in_custody(session: Session, clock: Clock) -> list[Exceptional]:
    """Drives out of their machines: where each is, by the last word on it; one of long ago is asked for."""
    found = []
    for row in drives_in_custody(session):
        serial = f", serial {row.serial}" if row.serial else ""
        long = (clock.today - row.on).days > LONG_DAYS
        cure = "write where it is now: returned, wiped, destroyed, or who has it" if long else None
        words = f"{row.number}{serial}: {row.words}"
        found.append(Exceptional("drive out", words, row.job_id, row.tag, row.on, row.author, cure, row.unit_id))
    return found


def _booked_at_the_bench(session: Session, since: date) -> list[Exceptional]:
    """Counts booked because a shelf held more than it said (rule N10)."""
    rows = jobs.counted_at_bench(session, since=since)
    return [
        Exceptional("counted at the bench", f"{row['quantity']:+d} {row['number']} at {row['site']}", row["job_id"], row["tag"], row["on"],
                    row["author"], None)
        for row in rows
    ]  # fmt: skip
