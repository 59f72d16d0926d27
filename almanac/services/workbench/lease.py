"""One device works on a job at a time: a lease of two minutes with a heartbeat; taking over is recorded."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta
from uuid import UUID, uuid4

from sqlalchemy.orm import Session

from almanac.services.clock import Clock
from almanac.services.errors import NeedsConfirmation, NotFound, Stale
from almanac.store import jobs
from almanac.store.models import Job, JobEntry, User

LEASE = timedelta(minutes=2)


@dataclass(frozen=True)
class Device:
    """A browser at the bench, with who sits before it."""

    key: UUID
    user_id: int


def locked_job(session: Session, job_id: int) -> Job:
    """A job, locked until the transaction ends.

    Raises
    ------
    NotFound : there is no such job
    """
    job = jobs.job_for_update(session, job_id)
    if job is None:
        raise NotFound(f"there is no job {job_id}")
    return job


def take_lease(session: Session, job_id: int, device: Device, *, takeover: bool, clock: Clock) -> datetime:
    """Take or renew the lease of a job; returns until when it holds.

    Raises
    ------
    NotFound : there is no such job · NeedsConfirmation : another device holds it; ask, then come with `takeover`
    """
    job = locked_job(session, job_id)
    now = jobs.database_now(session)
    if held_by_other(job, device, now):
        if not takeover:
            holder = session.get_one(User, job.lease_user_id) if job.lease_user_id else None
            name = holder.name if holder else "somebody"
            raise NeedsConfirmation(
                "takeover",
                f"{name} has job {job_id} in hand elsewhere. Take it over? It is recorded; what was not sent from there is refused.",
                {"holder": name},
            )
        write_entry(session, job, "takeover", {"from_user": job.lease_user_id}, clock=clock, author_id=device.user_id)
    job.lease_user_id, job.lease_device, job.lease_until = device.user_id, device.key, now + LEASE
    session.flush()
    return job.lease_until


def held_by_other(job: Job, device: Device, now: datetime) -> bool:
    """Whether another device holds a lease that has not run out."""
    return job.lease_device not in (None, device.key) and job.lease_until is not None and job.lease_until > now


def require_lease(session: Session, job: Job, device: Device) -> None:
    """Refuse what comes from a device that lost the job; one that finds it free takes it.

    Raises
    ------
    Stale : another device has the job in hand
    """
    now = jobs.database_now(session)
    if held_by_other(job, device, now):
        holder = session.get_one(User, job.lease_user_id) if job.lease_user_id else None
        name = holder.name if holder else "another device"
        raise Stale(f"{name} took this job over: nothing was written from here; take it back or leave it")
    job.lease_user_id, job.lease_device, job.lease_until = device.user_id, device.key, now + LEASE


def release_lease(session: Session, job_id: int, device: Device) -> None:
    """Give a job back; nothing happens when another device holds it."""
    job = locked_job(session, job_id)
    if job.lease_device == device.key:
        job.lease_user_id, job.lease_device, job.lease_until = None, None, None
        session.flush()


def write_entry(
    session: Session,
    job: Job,
    kind: str,
    data: Mapping[str, object],
    *,
    clock: Clock,
    author_id: int | None,
    key: UUID | None = None,
    done_at: datetime | None = None,
) -> JobEntry:
    """Append an entry to a locked job's journal."""
    entry = JobEntry(
        job_id=job.id,
        number=jobs.last_entry_number(session, job.id) + 1,
        entry_key=key or uuid4(),
        kind=kind,
        data=dict(data),
        done_at=done_at or clock.now,
        recorded_at=clock.now,
        author_id=author_id,
    )
    session.add(entry)
    session.flush()
    return entry
