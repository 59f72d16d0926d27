"""The failure log: pages of it by key, one incident whole, and what a machine holds."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from datetime import date, datetime
from typing import Any

from sqlalchemy import ColumnElement, Select, and_, exists, func, or_, select, tuple_
from sqlalchemy.orm import Session, aliased

from almanac.store.models import Asset, DeviceModel, EventLine, EventRevision, Incident, Part, Position, Site, Tenure, User

RemovedPart, FittedPart, ShelfSite = aliased(Part), aliased(Part), aliased(Site)


@dataclass(frozen=True)
class LogFilter:
    """What to show of the log; None means any."""

    finding: str | None = None
    kind: str | None = None
    site_code: str | None = None
    part_number: str | None = None
    model_id: int | None = None
    words: str | None = None
    since: date | None = None
    until: date | None = None


@dataclass(frozen=True)
class PageKey:
    """Where a page of the log ends: open findings first, then the latest day, then the latest incident."""

    is_open: bool
    occurred_on: date
    incident_id: int


@dataclass(frozen=True)
class LogLine:
    """One position an incident touched."""

    position_id: int
    position: str
    kind: str
    action: str
    finding: str
    removed_part: str | None
    removed_name: str | None
    fitted_part: str | None
    shelf_site: str | None
    fitted_on: date | None
    age_days: int | None
    age_span_days: int | None


@dataclass(frozen=True)
class LogEntry:
    """An incident as its latest revision has it."""

    incident_id: int
    number: int
    occurred_on: date
    recorded_at: datetime
    tag: str
    model: str
    site_code: str
    site: str
    finding: str
    reason: str
    minutes: int | None
    note: str
    last_good_on: date | None
    author: str | None
    lines: list[LogLine] = field(default_factory=list)


COLUMNS: tuple[Any, ...] = (
    Incident.id,
    EventRevision.number,
    EventRevision.occurred_on,
    EventRevision.recorded_at,
    Asset.tag,
    DeviceModel.maker + " " + DeviceModel.name,
    Site.code,
    Site.name,
    EventRevision.finding,
    EventRevision.reason,
    EventRevision.minutes,
    EventRevision.note,
    EventRevision.last_good_on,
    User.name,
    EventRevision.id,
)
LATEST = and_(EventRevision.incident_id == Incident.id, EventRevision.number == Incident.latest_number)


def _entries(which: ColumnElement[bool] = LATEST) -> Select[Any]:
    """Revisions of incidents with what names them; `which` joins the latest revision or all of them."""
    return (
        select(*COLUMNS)
        .select_from(Incident)
        .join(EventRevision, which)
        .join(Asset, Asset.id == Incident.asset_id)
        .join(DeviceModel, DeviceModel.id == Asset.model_id)
        .join(Site, Site.id == Incident.site_id)
        .outerjoin(User, User.id == EventRevision.author_id)
    )


def _filtered(query: Select[Any], wanted: LogFilter) -> Select[Any]:
    conditions = [
        EventRevision.finding == wanted.finding if wanted.finding else None,
        Site.code == wanted.site_code if wanted.site_code else None,
        Asset.model_id == wanted.model_id if wanted.model_id else None,
        Incident.occurred_on >= wanted.since if wanted.since else None,
        Incident.occurred_on <= wanted.until if wanted.until else None,
    ]
    if wanted.kind or wanted.part_number:
        touched = exists().where(EventLine.revision_id == EventRevision.id)
        if wanted.kind:
            touched = touched.where(Position.id == EventLine.position_id, Position.kind == wanted.kind)
        if wanted.part_number:
            touched = touched.where(
                Part.number == wanted.part_number, or_(Part.id == EventLine.removed_part_id, Part.id == EventLine.fitted_part_id)
            )
        conditions.append(touched)
    if wanted.words:
        like = f"%{wanted.words.replace('%', '').replace('_', '')}%"
        conditions.append(or_(Asset.tag.ilike(like), EventRevision.reason.ilike(like), EventRevision.note.ilike(like)))
    return query.where(*[condition for condition in conditions if condition is not None])


def log_page(session: Session, wanted: LogFilter, *, after: PageKey | None, limit: int) -> list[LogEntry]:
    """Up to `limit` entries after a key: open findings first, then the latest."""
    query = _filtered(_entries(), wanted).order_by(Incident.is_open.desc(), Incident.occurred_on.desc(), Incident.id.desc()).limit(limit)
    if after:
        key = tuple_(Incident.is_open, Incident.occurred_on, Incident.id)
        query = query.where(key < tuple_(*_bound(after)))
    return _with_lines(session, [tuple(row) for row in session.execute(query)])


def _bound(key: PageKey) -> tuple[Any, ...]:
    return (key.is_open, key.occurred_on, key.incident_id)


def log_count(session: Session, wanted: LogFilter) -> int:
    """Entries that a filter lets through."""
    if wanted == LogFilter():  # every entry names what it is joined to
        return session.scalar(select(func.count()).select_from(Incident)) or 0
    return session.scalar(_filtered(_entries(), wanted).with_only_columns(func.count(), maintain_column_froms=True)) or 0


def _with_lines(session: Session, rows: list[tuple[Any, ...]]) -> list[LogEntry]:
    lines = _lines_of(session, [row[14] for row in rows])
    return [replace(LogEntry(*row[:14]), lines=lines.get(row[14], [])) for row in rows]


def _lines_of(session: Session, revision_ids: list[int]) -> dict[int, list[LogLine]]:
    query = (
        select(
            EventLine.revision_id,
            EventLine.position_id,
            Position.label,
            Position.kind,
            EventLine.action,
            EventLine.finding,
            RemovedPart.number,
            RemovedPart.name,
            FittedPart.number,
            ShelfSite.code,
            Tenure.fitted_on,
            EventRevision.occurred_on - Tenure.fitted_on + Tenure.age_at_fitting_days,
            Tenure.age_span_days,
        )
        .join(EventRevision, EventRevision.id == EventLine.revision_id)
        .join(Position, Position.id == EventLine.position_id)
        .outerjoin(RemovedPart, RemovedPart.id == EventLine.removed_part_id)
        .outerjoin(FittedPart, FittedPart.id == EventLine.fitted_part_id)
        .outerjoin(ShelfSite, ShelfSite.id == EventLine.shelf_site_id)
        .outerjoin(Tenure, Tenure.id == EventLine.removed_tenure_id)
        .where(EventLine.revision_id.in_(revision_ids))
        .order_by(EventLine.revision_id, EventLine.number)
    )
    found: dict[int, list[LogLine]] = {}
    for revision_id, *values in session.execute(query):
        found.setdefault(revision_id, []).append(LogLine(*values))
    return found


def history(session: Session, incident_id: int) -> list[LogEntry]:
    """Every revision of an incident, the first one first; empty when there is no such incident."""
    every = EventRevision.incident_id == Incident.id
    query = _entries(every).where(Incident.id == incident_id).order_by(EventRevision.number)
    return _with_lines(session, [tuple(row) for row in session.execute(query)])


def same_day_incident(session: Session, asset_id: int, position_ids: list[int], day: date) -> int | None:
    """An incident already recorded for one of these positions of an asset on a day."""
    query = (
        select(Incident.id)
        .join(EventRevision, LATEST)
        .join(EventLine, EventLine.revision_id == EventRevision.id)
        .where(Incident.asset_id == asset_id, Incident.occurred_on == day, EventLine.position_id.in_(position_ids))
        .order_by(Incident.id.desc())
        .limit(1)
    )
    return session.scalar(query)


def incident_for_update(session: Session, incident_id: int) -> Incident | None:
    """An incident, locked until the transaction ends."""
    return session.scalar(select(Incident).where(Incident.id == incident_id).with_for_update())


def latest_revision(session: Session, incident: Incident) -> EventRevision:
    """The revision that holds."""
    query = select(EventRevision).where(EventRevision.incident_id == incident.id, EventRevision.number == incident.latest_number)
    return session.scalars(query).one()


def revision_lines(session: Session, revision_id: int) -> list[EventLine]:
    """Lines of a revision in order."""
    return list(session.scalars(select(EventLine).where(EventLine.revision_id == revision_id).order_by(EventLine.number)))


def fitted_since(session: Session, removed_tenure_id: int) -> tuple[str, date] | None:
    """The machine, and the day, into which the unit of an ended tenure was fitted afterwards; None while it was fitted nowhere."""
    before, after = aliased(Tenure), aliased(Tenure)
    query = (
        select(Asset.tag, after.fitted_on)
        .select_from(after)
        .join(before, before.id == removed_tenure_id)
        .join(Asset, Asset.id == after.asset_id)
        .where(after.unit_id == before.unit_id, after.id != before.id, after.fitted_on >= before.removed_on)
        .order_by(after.fitted_on.desc(), after.id.desc())
        .limit(1)
    )
    found = session.execute(query).first()
    return (found[0], found[1]) if found else None
