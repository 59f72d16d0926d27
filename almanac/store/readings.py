"""Readings of parts, and of what is in service those that are followed by them."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass
from datetime import date, datetime
from typing import NamedTuple

from sqlalchemy import func, select, text
from sqlalchemy.orm import Session

from almanac.store.evidence import CURRENT_REVISION, FAR_DAYS, LATEST_REVISION, LIVED
from almanac.store.models import Asset, Position, Reading, Tenure

READINGS = """
SELECT DISTINCT ON (tenure_id, read_on) tenure_id, read_on, "full" / design
FROM reading WHERE recorded_at <= :known_at AND read_on <= :as_of
ORDER BY tenure_id, read_on, recorded_at DESC, id DESC
"""
SERVING = f"""
SELECT tenure_id, tag, part_id, model_id, duty, site_id, exit_age, retire_day
FROM ({LIVED}) lived WHERE in_service AND tenure_id IN (SELECT tenure_id FROM reading)
"""


class ReadRow(NamedTuple):
    """A reading: its day, and the share of what the part was made for that it could still give."""

    day: date
    share: float


class FollowedRow(NamedTuple):
    """A unit in service with readings: where it serves, its age in days, and days until its machine retires (None: not planned)."""

    tenure_id: int
    tag: str
    part_id: int
    model_id: int
    duty: str
    site_id: int
    age_days: int
    retire_day: int | None


@dataclass(frozen=True)
class Followed:
    """A unit in service and its readings by day, oldest first."""

    row: FollowedRow
    readings: tuple[ReadRow, ...]


def last_reading(session: Session) -> int:
    """Id of the last reading recorded; 0 where there is none."""
    return session.scalar(select(func.max(Reading.id))) or 0


def followed_units(session: Session, *, as_of: date, known_at: datetime, now: bool = True) -> list[Followed]:
    """Units in service with readings, as recorded by a moment; none without a query where nothing was ever read."""
    if last_reading(session) == 0:
        return []
    bound = {"as_of": as_of, "known_at": known_at, "far_days": FAR_DAYS}
    found: dict[int, list[ReadRow]] = defaultdict(list)
    for tenure_id, day, share in session.execute(text(READINGS), {"as_of": as_of, "known_at": known_at}):
        found[tenure_id].append(ReadRow(day, float(share)))
    serving = session.execute(text(SERVING.format(revision=CURRENT_REVISION if now else LATEST_REVISION)), bound)
    units = sorted((FollowedRow(*row) for row in serving), key=lambda row: row.tenure_id)
    return [Followed(row, tuple(found[row.tenure_id])) for row in units if row.tenure_id in found]


def tenure_at(session: Session, *, tag: str, position: str, day: date) -> Tenure | None:
    """What was in a position of a machine on a day."""
    query = (
        select(Tenure)
        .join(Asset, Asset.id == Tenure.asset_id)
        .join(Position, Position.id == Tenure.position_id)
        .where(func.upper(Asset.tag) == tag.upper(), func.lower(Position.key) == position.lower())
        .where(Tenure.fitted_on <= day, (Tenure.removed_on.is_(None)) | (Tenure.removed_on > day))
    )
    return session.scalars(query).first()
