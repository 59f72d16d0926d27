"""Machines that report: whose report it is, what is on record of the machine on a day, and what was asked of it before."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, datetime, timedelta
from typing import NamedTuple

from sqlalchemy import func, select, text
from sqlalchemy.orm import Session

from almanac.store.models import Asset, Fits, MachineReport, Part, Position, ReportQuestion, Tenure, Unit, User

NEVER_HELD = """
SELECT p.id, p.key, p.label, p.kind,
  NOT EXISTS (SELECT 1 FROM tenure t WHERE t.asset_id = :asset AND t.position_id = p.id) AS never
FROM position p WHERE p.model_id = :model AND p.kind = ANY(:kinds) AND NOT EXISTS
  (SELECT 1 FROM tenure t WHERE t.asset_id = :asset AND t.position_id = p.id AND t.removed_on IS NULL) ORDER BY p.id
"""
LOG_BEGAN = """SELECT s.log_began_on FROM asset_stay y JOIN site s ON s.id = y.site_id WHERE y.asset_id = :asset
ORDER BY y.from_on DESC LIMIT 1"""
NEAR_READING = """SELECT EXISTS (SELECT 1 FROM reading WHERE tenure_id = :tenure AND NOT withdrawn
AND read_on > :since AND read_on < :until)"""


class QuestionRow(NamedTuple):
    """A question with its machine and where that stands."""

    question: ReportQuestion
    tag: str
    model_id: int
    site: str | None
    settled_by: str | None


class PlaceRow(NamedTuple):
    """A place of a machine of which nothing is on record. never : nothing ever was"""

    position_id: int
    key: str
    label: str
    kind: str
    never: bool


def machine_locked(session: Session, *, tag: str, serial: str) -> tuple[Asset | None, Asset | None]:
    """Machines with a tag and with a serial, locked until the transaction ends."""
    by_tag = session.scalar(select(Asset).where(func.upper(Asset.tag) == tag.upper()).with_for_update()) if tag else None
    by_serial = session.scalars(select(Asset).where(func.upper(Asset.serial) == serial.upper()).with_for_update()).all() if serial else []
    return by_tag, by_serial[0] if len(by_serial) == 1 else None


def report_of(session: Session, asset_id: int | None, calls_itself: str | None) -> MachineReport | None:
    """The latest report of a machine."""
    of = MachineReport.asset_id == asset_id if asset_id is not None else MachineReport.calls_itself == calls_itself
    return session.scalar(select(MachineReport).where(of))


def held_on(session: Session, asset_id: int, day: date) -> list[tuple[Tenure, Position, Part, Unit]]:
    """What was in a machine on a day."""
    query = (
        select(Tenure, Position, Part, Unit)
        .join(Position, Position.id == Tenure.position_id)
        .join(Part, Part.id == Tenure.part_id)
        .join(Unit, Unit.id == Tenure.unit_id)
        .where(Tenure.asset_id == asset_id, Tenure.fitted_on <= day, (Tenure.removed_on.is_(None)) | (Tenure.removed_on > day))
        .order_by(Position.id)
    )
    return [(tenure, position, part, unit) for tenure, position, part, unit in session.execute(query)]


def empty_places(session: Session, asset: Asset, kinds: Sequence[str]) -> list[PlaceRow]:
    """Places of a machine of which nothing is on record."""
    rows = session.execute(text(NEVER_HELD), {"asset": asset.id, "model": asset.model_id, "kinds": list(kinds)})
    return [PlaceRow(*row) for row in rows]


def parts_for(session: Session, positions: Sequence[int]) -> dict[int, list[Part]]:
    """Parts that fit each of some places."""
    query = select(Fits.position_id, Part).join(Part, Part.id == Fits.part_id)
    found: dict[int, list[Part]] = {}
    for position, part in session.execute(query.where(Fits.position_id.in_(positions), Fits.verdict == "yes").order_by(Part.id)):
        found.setdefault(position, []).append(part)
    return found


def log_began(session: Session, asset_id: int) -> date | None:
    """Since when incidents are written down where a machine stands or stood last."""
    found: date | None = session.scalar(text(LOG_BEGAN), {"asset": asset_id})
    return found


def read_near(session: Session, tenure_id: int, day: date, apart: timedelta) -> bool:
    """Whether a part was read within some days of a day."""
    found = session.scalar(text(NEAR_READING), {"tenure": tenure_id, "since": day - apart, "until": day + apart})
    return bool(found)


def questions_of(session: Session, asset_id: int) -> list[ReportQuestion]:
    """All that was ever asked of a machine's reports."""
    return list(session.scalars(select(ReportQuestion).where(ReportQuestion.asset_id == asset_id).order_by(ReportQuestion.id)))


def open_questions(session: Session, *, most: int) -> tuple[int, list[QuestionRow]]:
    """How many questions are open, and some of them, the oldest first."""
    total = session.scalar(select(func.count()).select_from(ReportQuestion).where(ReportQuestion.settled_at.is_(None))) or 0
    where = text("""(SELECT s.code FROM asset_stay y JOIN site s ON s.id = y.site_id WHERE y.asset_id = asset.id
                     ORDER BY y.from_on DESC LIMIT 1)""")
    query = (
        select(ReportQuestion, Asset.tag, Asset.model_id, where, User.name)
        .join(Asset, Asset.id == ReportQuestion.asset_id)
        .outerjoin(User, User.id == ReportQuestion.settled_by_id)
        .where(ReportQuestion.settled_at.is_(None))
        .order_by(ReportQuestion.raised_on, ReportQuestion.id)
        .limit(most)
    )
    return total, [QuestionRow(*row) for row in session.execute(query)]


def strangers(session: Session, *, most: int) -> list[MachineReport]:
    """Reports of machines that are not on record, the latest first."""
    query = select(MachineReport).where(MachineReport.asset_id.is_(None)).order_by(MachineReport.reported_at.desc()).limit(most)
    return list(session.scalars(query))


def reporting(session: Session, since: datetime) -> tuple[int, int, int]:
    """Machines that ever reported, those that did since a moment, and all that are in use."""
    ever, lately = session.execute(
        select(func.count(), func.count().filter(MachineReport.reported_at >= since)).where(MachineReport.asset_id.is_not(None))
    ).one()
    in_use = session.scalar(select(func.count()).select_from(Asset).where(Asset.retired_on.is_(None))) or 0
    return ever, lately, in_use
