"""Jobs and their journals as rows."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, datetime
from typing import Any, NamedTuple
from uuid import UUID

from sqlalchemy import func, or_, select
from sqlalchemy.orm import Session, aliased

from almanac.core.workbench.approvals import Approval
from almanac.store.models import ApprovalRow, Asset, DeviceModel, Job, JobEntry, Part, Role, Shelf, Site, StockMove, User


class JobRow(NamedTuple):
    """A job in a list, with what names it."""

    job: Job
    tag: str
    model: str
    site_code: str
    site: str
    opened_by: str | None
    lease_user: str | None


def _rows() -> Any:
    opener, holder = aliased(User), aliased(User)
    return (
        select(Job, Asset.tag, DeviceModel.maker + " " + DeviceModel.name, Site.code, Site.name, opener.name, holder.name)
        .join(Asset, Asset.id == Job.asset_id)
        .join(DeviceModel, DeviceModel.id == Job.model_id)
        .join(Site, Site.id == Job.site_id)
        .outerjoin(opener, opener.id == Job.opened_by)
        .outerjoin(holder, holder.id == Job.lease_user_id)
    )


def job_rows(session: Session, *, states: Sequence[str] | None = None, tag: str | None = None, limit: int = 200) -> list[JobRow]:
    """Jobs in some states or of one machine, those in hand first, then the latest."""
    query = _rows().order_by(Job.ended_at.is_not(None), Job.id.desc()).limit(limit)
    if states is not None:
        query = query.where(Job.state.in_(states))
    if tag is not None:
        query = query.where(func.upper(Asset.tag) == tag.strip().upper())
    return [JobRow(*row) for row in session.execute(query)]


def job_row(session: Session, job_id: int) -> JobRow | None:
    """One job with what names it."""
    row = session.execute(_rows().where(Job.id == job_id)).one_or_none()
    return JobRow(*row) if row else None


def job_for_update(session: Session, job_id: int) -> Job | None:
    """A job, locked until the transaction ends: entries are numbered and leases given one at a time."""
    return session.scalar(select(Job).where(Job.id == job_id).with_for_update().execution_options(populate_existing=True))


def open_job_of(session: Session, asset_id: int, ended: Sequence[str]) -> int | None:
    """A job of a machine that is not ended."""
    return session.scalar(select(Job.id).where(Job.asset_id == asset_id, Job.state.not_in(ended)).order_by(Job.id.desc()).limit(1))


def entries(session: Session, job_id: int) -> list[tuple[JobEntry, str | None]]:
    """The journal in order, with who wrote each entry."""
    query = select(JobEntry, User.name).outerjoin(User, User.id == JobEntry.author_id).where(JobEntry.job_id == job_id)
    return [(entry, name) for entry, name in session.execute(query.order_by(JobEntry.number))]


def known_keys(session: Session, keys: Sequence[UUID]) -> dict[UUID, int]:
    """Entries that were written already, by the key their device gave them, with their job."""
    query = select(JobEntry.entry_key, JobEntry.job_id).where(JobEntry.entry_key.in_(keys))
    return {key: job for key, job in session.execute(query)}


def last_entry_number(session: Session, job_id: int) -> int:
    """Number of the latest entry, 0 when there is none."""
    return session.scalar(select(func.max(JobEntry.number)).where(JobEntry.job_id == job_id)) or 0


def taken_minutes(session: Session, model_id: int) -> list[tuple[float, float]]:
    """Planned and taken minutes of the closed jobs of a model that were opened up."""
    query = select(Job.planned_minutes, Job.taken_minutes).where(
        Job.model_id == model_id, Job.state == "closed", Job.taken_minutes > 0, Job.planned_minutes > 0
    )
    return [(planned, taken) for planned, taken in session.execute(query) if taken is not None]


def database_now(session: Session) -> datetime:
    """The database's clock: the one clock all web processes share, so that leases agree."""
    return session.scalars(select(func.now())).one()


class AskedApproval(NamedTuple):
    """An approval with the names of who asked and who answered, and the machine it is about."""

    row: ApprovalRow
    tag: str
    asked_by: str
    answered_by: str | None


def _approvals() -> Any:
    asker, answerer = aliased(User), aliased(User)
    return (
        select(ApprovalRow, Asset.tag, asker.name, answerer.name)
        .join(Job, Job.id == ApprovalRow.job_id)
        .join(Asset, Asset.id == Job.asset_id)
        .join(asker, asker.id == ApprovalRow.asked_by_id)
        .outerjoin(answerer, answerer.id == ApprovalRow.answered_by_id)
        .order_by(ApprovalRow.id)
    )


def approvals_of(session: Session, job_id: int) -> list[AskedApproval]:
    """What was asked on a job, in order."""
    return [AskedApproval(*row) for row in session.execute(_approvals().where(ApprovalRow.job_id == job_id))]


def open_approvals(session: Session) -> list[AskedApproval]:
    """What nobody answered yet, the longest asked first; of a job that ended only its machine's release can still be."""
    alive = or_(Job.ended_at.is_(None), ApprovalRow.kind == Approval.RELEASE.value)
    return [AskedApproval(*row) for row in session.execute(_approvals().where(ApprovalRow.answered_at.is_(None), alive))]


def open_approval(session: Session, job_id: int, kind: str, subject: str) -> ApprovalRow | None:
    """The same question of a job that nobody answered yet."""
    query = select(ApprovalRow).where(ApprovalRow.job_id == job_id, ApprovalRow.kind == kind, ApprovalRow.subject == subject)
    return session.scalar(query.where(ApprovalRow.answered_at.is_(None)))


def approvers(session: Session) -> list[int]:
    """Active users who may work and so approve."""
    return list(session.scalars(select(User.id).where(User.active, User.role.in_([Role.TECHNICIAN.value, Role.LEAD.value]))))


def stopped_jobs(session: Session, asset_id: int) -> list[Job]:
    """Jobs of a machine that a dangerous pack or mains inside ever stopped, in order."""
    stopped = select(JobEntry.job_id).where(JobEntry.kind.in_(["danger", "refer"]))
    return list(session.scalars(select(Job).where(Job.asset_id == asset_id, Job.id.in_(stopped)).order_by(Job.id)))


class NotedEntry(NamedTuple):
    """An entry of some job's journal, with its machine and author."""

    job_id: int
    tag: str
    kind: str
    data: dict[str, Any]
    on: date
    author: str | None


def noted_entries(session: Session, *, since: date, kinds: Sequence[str]) -> list[NotedEntry]:
    """Entries of some kinds, of all jobs: those since a day, and whatever still stops a job that is not ended."""
    query = (
        select(JobEntry.job_id, Asset.tag, JobEntry.kind, JobEntry.data, func.date(JobEntry.recorded_at), User.name)
        .join(Job, Job.id == JobEntry.job_id)
        .join(Asset, Asset.id == Job.asset_id)
        .outerjoin(User, User.id == JobEntry.author_id)
        .where(JobEntry.kind.in_(kinds), or_(JobEntry.recorded_at >= since, JobEntry.kind.in_(["danger", "refer"])))
        .where(or_(JobEntry.kind.not_in(["step", "correct"]), JobEntry.data.has_key("contradicts")))
        .order_by(JobEntry.id)
    )
    return [NotedEntry(*row) for row in session.execute(query)]


def counted_at_bench(session: Session, *, since: date) -> list[dict[str, Any]]:
    """Stock moves booked because a shelf held more than was booked, by the job that found it."""
    query = (
        select(
            StockMove.quantity,
            Part.number,
            Site.code.label("site"),
            Job.id.label("job_id"),
            Asset.tag,
            StockMove.moved_on.label("on"),
            User.name.label("author"),
        )
        .join(Shelf, Shelf.id == StockMove.shelf_id)
        .join(Part, Part.id == Shelf.part_id)
        .join(Site, Site.id == Shelf.site_id)
        .join(Job, Job.incident_id == StockMove.incident_id)
        .join(Asset, Asset.id == Job.asset_id)
        .outerjoin(User, User.id == StockMove.author_id)
        .where(StockMove.cause == "counted", StockMove.moved_on >= since)
        .order_by(StockMove.id)
    )
    return [dict(row) for row in session.execute(query).mappings()]
