"""A machine as its page shows it, and as it is changed."""

from __future__ import annotations

from datetime import date
from typing import NamedTuple

from sqlalchemy import func, select, text
from sqlalchemy.orm import Session

from almanac.store.models import Asset, AssetStay, Job, Site

HELD = """
SELECT p.key, p.label, p.kind, q.number, q.name, u.serial, t.fitted_on, t.observed_from, t.age_at_fitting_days, t.age_span_days,
       CASE WHEN q.warranty_days IS NOT NULL AND t.age_span_days = 0 THEN t.fitted_on + q.warranty_days END AS warranty_until,
       r.read_on, r.share
FROM tenure t JOIN position p ON p.id = t.position_id JOIN part q ON q.id = t.part_id JOIN unit u ON u.id = t.unit_id
LEFT JOIN LATERAL (
  SELECT read_on, "full" / design AS share FROM reading d WHERE d.tenure_id = t.id AND NOT withdrawn ORDER BY read_on DESC, id DESC LIMIT 1
) r ON true
WHERE t.asset_id = :asset AND t.removed_on IS NULL ORDER BY p.id
"""
HELD_AT_THE_END = HELD.replace("t.removed_on IS NULL", "t.removed_on = :on AND t.fitted_on <= :on")
READINGS = """
SELECT p.key, p.label, q.kind, q.number, t.id, t.fitted_on, t.removed_on, d.read_on, d."full" / d.design AS share, d.cycles
FROM tenure t JOIN position p ON p.id = t.position_id JOIN part q ON q.id = t.part_id JOIN LATERAL (
  SELECT DISTINCT ON (read_on) read_on, "full", design, cycles, withdrawn FROM reading WHERE tenure_id = t.id
  ORDER BY read_on, recorded_at DESC, id DESC
) d ON NOT d.withdrawn
WHERE t.asset_id = :asset ORDER BY p.id, t.fitted_on, d.read_on
"""
NOT_BY_THEMSELVES = """
SELECT p.label, p.serviceability, p.ordered_unit FROM position p JOIN asset a ON a.model_id = p.model_id
WHERE a.id = :asset AND p.serviceability IN ('soldered', 'staked', 'in_assembly') ORDER BY p.id
"""
EVENTS = """
SELECT i.occurred_on AS day, 'incident' AS what, r.reason AS words, r.finding AS more, i.id AS number
FROM incident i JOIN event_revision r ON r.incident_id = i.id AND r.number = i.latest_number WHERE i.asset_id = :asset
UNION ALL SELECT t.fitted_on, CASE WHEN t.age_span_days > 0 AND t.age_at_fitting_days = 0 THEN 'held' ELSE 'fitted' END,
  q.number, p.label, NULL FROM tenure t JOIN part q ON q.id = t.part_id
  JOIN position p ON p.id = t.position_id WHERE t.asset_id = :asset
UNION ALL SELECT t.removed_on, 'removed', q.number, p.label, NULL FROM tenure t JOIN part q ON q.id = t.part_id
  JOIN position p ON p.id = t.position_id WHERE t.asset_id = :asset AND t.removed_on IS NOT NULL
UNION ALL SELECT y.from_on, 'stands', s.name, '', NULL FROM asset_stay y JOIN site s ON s.id = y.site_id WHERE y.asset_id = :asset
UNION ALL SELECT j.opened_on, 'job', j.symptom, j.state, j.id FROM job j WHERE j.asset_id = :asset
ORDER BY 1 DESC, 2, 3 LIMIT :most
"""
NOTES = """
SELECT e.entry_key::text AS key, coalesce(e.data->>'words', '') AS words, e.data->>'photo' AS photo, e.job_id,
  e.recorded_at::date AS day, u.name AS author
FROM job_entry e JOIN job j ON j.id = e.job_id LEFT JOIN "user" u ON u.id = e.author_id
WHERE j.asset_id = :asset AND e.kind = 'note' AND e.data->>'stays' = 'true' AND NOT EXISTS
  (SELECT 1 FROM job_entry m JOIN job k ON k.id = m.job_id
   WHERE k.asset_id = :asset AND m.kind = 'note' AND m.data->>'mends' = e.entry_key::text)
ORDER BY e.recorded_at, e.id
"""
LACKING = """
SELECT p.label FROM position p JOIN asset a ON a.model_id = p.model_id
WHERE a.id = :asset AND p.kind = ANY(:kinds) AND NOT EXISTS
  (SELECT 1 FROM tenure t WHERE t.asset_id = a.id AND t.position_id = p.id AND t.removed_on IS NULL) ORDER BY p.id
"""


class HeldRow(NamedTuple):
    """A part in a machine, with its last reading. share : of what it was made for
    age_span_days : by so much its age may be less; then nobody knows its warranty either
    """

    key: str
    label: str
    kind: str
    number: str
    name: str
    serial: str | None
    fitted_on: date
    observed_from: date
    age_at_fitting_days: int
    age_span_days: int
    warranty_until: date | None
    read_on: date | None
    share: float | None


class ReadingRow(NamedTuple):
    """A reading of a part that is or was in a machine. share : of what it was made for"""

    key: str
    label: str
    kind: str
    number: str
    tenure_id: int
    fitted_on: date
    removed_on: date | None
    read_on: date
    share: float
    cycles: int | None


class FixedRow(NamedTuple):
    """A place whose part is not replaced by itself. held : how it is held · ordered : what is ordered in its place"""

    label: str
    held: str
    ordered: str | None


class EventRow(NamedTuple):
    """Something that happened. number : of an incident or job

    what : incident, fitted, held (since then at the earliest), removed, stands or job
    """

    day: date
    what: str
    words: str
    more: str
    number: int | None


class NoteRow(NamedTuple):
    """Something that stays with a machine until a later job mends it. key : of its entry · photo : digest, where one was taken"""

    key: str
    words: str
    photo: str | None
    job_id: int
    day: date
    author: str | None


def notes(session: Session, asset_id: int) -> list[NoteRow]:
    """What is known of a machine and not mended, the oldest first."""
    return [NoteRow(*row) for row in session.execute(text(NOTES), {"asset": asset_id})]


def by_tag(session: Session, tag: str) -> Asset | None:
    """A machine by its tag, small and capital letters alike."""
    return session.scalar(select(Asset).where(func.upper(Asset.tag) == tag.strip().upper()))


def locked(session: Session, tag: str) -> tuple[Asset, AssetStay | None] | None:
    """A machine and where it stands, locked until the transaction ends."""
    asset = session.scalar(select(Asset).where(func.upper(Asset.tag) == tag.strip().upper()).with_for_update())
    if asset is None:
        return None
    return asset, session.scalar(select(AssetStay).where(AssetStay.asset_id == asset.id, AssetStay.until_on.is_(None)))


def with_serial(session: Session, serial: str, besides: int) -> str | None:
    """Tag of another machine with a serial."""
    return session.scalar(select(Asset.tag).where(func.upper(Asset.serial) == serial.upper(), Asset.id != besides).limit(1))


def is_busy(session: Session, asset_id: int) -> bool:
    """Whether a job is open on a machine."""
    return session.scalar(select(Job.id).where(Job.asset_id == asset_id, Job.ended_at.is_(None)).limit(1)) is not None


def last_stay(session: Session, asset_id: int) -> int | None:
    """Where a machine stood last."""
    return session.scalar(select(AssetStay.id).where(AssetStay.asset_id == asset_id).order_by(AssetStay.from_on.desc()).limit(1))


def ended_with(session: Session, asset_id: int, on: date) -> list[int]:
    """Tenures that ended with a machine's retirement: on its day, and without an incident that took them out."""
    query = text("""SELECT t.id FROM tenure t WHERE t.asset_id = :asset AND t.removed_on = :on
                    AND NOT EXISTS (SELECT 1 FROM event_line l WHERE l.removed_tenure_id = t.id AND l.action <> 'kept')""")
    return list(session.scalars(query, {"asset": asset_id, "on": on}))


def held(session: Session, asset_id: int) -> list[HeldRow]:
    """What is in a machine."""
    return [HeldRow(*row) for row in session.execute(text(HELD), {"asset": asset_id})]


def held_at_the_end(session: Session, asset_id: int, on: date) -> list[HeldRow]:
    """What was in a machine when it left on a day."""
    return [HeldRow(*row) for row in session.execute(text(HELD_AT_THE_END), {"asset": asset_id, "on": on})]


def readings(session: Session, asset_id: int) -> list[ReadingRow]:
    """Readings of all parts that were ever in a machine, part by part."""
    return [ReadingRow(*row) for row in session.execute(text(READINGS), {"asset": asset_id})]


def fixed(session: Session, asset_id: int) -> list[FixedRow]:
    """What in a machine is not replaced by itself, by its model's page."""
    return [FixedRow(*row) for row in session.execute(text(NOT_BY_THEMSELVES), {"asset": asset_id})]


def lacking(session: Session, asset_id: int, kinds: list[str]) -> list[str]:
    """Positions of some kinds in which nothing is on record."""
    return list(session.scalars(text(LACKING), {"asset": asset_id, "kinds": kinds}))


def events(session: Session, asset_id: int, most: int) -> list[EventRow]:
    """What happened to a machine, the latest first."""
    return [EventRow(*row) for row in session.execute(text(EVENTS), {"asset": asset_id, "most": most})]


def stands_at(session: Session, asset_id: int) -> str | None:
    """Code of the site where a machine stands or stood last."""
    query = select(Site.code).join(AssetStay, AssetStay.site_id == Site.id).where(AssetStay.asset_id == asset_id)
    return session.scalar(query.order_by(AssetStay.from_on.desc()).limit(1))
