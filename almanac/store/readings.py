"""Readings of parts, and of what is in service those that are followed by them."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from typing import NamedTuple

from sqlalchemy import func, select, text
from sqlalchemy.orm import Session

from almanac.core.life.accepted import NO_LOT, Accepted, OwnLot
from almanac.store.evidence import CURRENT_REVISION, EVER, FAR_DAYS, LATEST_REVISION, LIVED
from almanac.store.life_data import EPOCH
from almanac.store.models import Asset, Position, Reading, Tenure
from almanac.store.observed import note

READINGS = """
SELECT tenure_id, read_on, share FROM (
  SELECT DISTINCT ON (d.tenure_id, d.read_on) d.tenure_id, d.read_on, d."full" / d.design AS share, d.withdrawn
  FROM reading d JOIN tenure t ON t.id = d.tenure_id AND t.part_id = ANY(:parts)
  WHERE d.recorded_at <= :known_at AND d.read_on <= :as_of
  ORDER BY d.tenure_id, d.read_on, d.recorded_at DESC, d.id DESC
) latest WHERE NOT withdrawn ORDER BY tenure_id, read_on
"""
HELD = """
SELECT tenure_id, read_on, "full", design FROM (
  SELECT DISTINCT ON (tenure_id, read_on) tenure_id, read_on, "full", design, withdrawn FROM reading WHERE tenure_id = ANY(:tenures)
  ORDER BY tenure_id, read_on, recorded_at DESC, id DESC
) latest WHERE NOT withdrawn
"""
SERVING = f"""
SELECT tenure_id, tag, part_id, model_id, duty, site_id, exit_age, retire_day, age_span,
       (SELECT u.made_on FROM tenure w JOIN unit u ON u.id = w.unit_id WHERE w.id = tenure_id) AS made_on
FROM ({LIVED}) lived WHERE in_service AND part_id = ANY(:parts) AND tenure_id IN (SELECT tenure_id FROM reading)
"""


class ReadRow(NamedTuple):
    """A reading: its day, and the share of what the part was made for that it could still give."""

    day: date
    share: float


class FollowedRow(NamedTuple):
    """A unit in service with readings: where it serves, its age in days, and days until its machine retires (None: not planned).

    lot : a lot that is a pool of its own, 0 for none · age_span : its age may be less by so many days
    """

    tenure_id: int
    tag: str
    part_id: int
    model_id: int
    duty: str
    site_id: int
    age_days: int
    retire_day: int | None
    age_span: int = 0
    lot: int = NO_LOT


@dataclass(frozen=True)
class Followed:
    """A unit in service and its readings by day, oldest first."""

    row: FollowedRow
    readings: tuple[ReadRow, ...]


def last_reading(session: Session) -> int:
    """Id of the last reading recorded; 0 where there is none."""
    return session.scalar(select(func.max(Reading.id))) or 0


def note_readings() -> None:
    """Note what readings are read from, where they are known already."""
    note(READINGS)


def followed_units(
    session: Session, parts: Collection[int], *, as_of: date, known_at: datetime | None = None, decided: Accepted = ()
) -> list[Followed]:
    """Units of some parts in service with readings, as recorded by a moment, by now where none is given."""
    if last_reading(session) == 0:
        return []
    bound = {"as_of": as_of, "known_at": known_at or EVER, "parts": sorted(parts)}
    found: dict[int, list[ReadRow]] = defaultdict(list)
    for tenure_id, day, share in session.execute(text(READINGS), bound):
        found[tenure_id].append(ReadRow(day, float(share)))
    if not found:
        return []
    statement = SERVING.format(revision=CURRENT_REVISION if known_at is None else LATEST_REVISION)
    serving = session.execute(text(statement), {**bound, "far_days": FAR_DAYS})
    lots = {(one.part, EPOCH + timedelta(days=one.made)): one.number for one in decided if isinstance(one, OwnLot)}
    units = sorted(
        (FollowedRow(*(*row[:-1], lots.get((row.part_id, row.made_on), NO_LOT))) for row in serving), key=lambda row: row.tenure_id
    )
    return [Followed(row, tuple(found[row.tenure_id])) for row in units if row.tenure_id in found]


def readings_held(session: Session, tenures: Collection[int]) -> dict[tuple[int, date], tuple[float, float]]:
    """Full and design capacity by tenure and day, of some tenures."""
    rows = session.execute(text(HELD), {"tenures": sorted(tenures)})
    return {(tenure, day): (float(full), float(design)) for tenure, day, full, design in rows}


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
