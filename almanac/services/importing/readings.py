"""Readings in an import: each names what was in a position of a machine on its day, in the same import or in the database."""

from __future__ import annotations

from collections import defaultdict
from datetime import date

from sqlalchemy import func, insert, select
from sqlalchemy.orm import Session

from almanac.services.clock import Clock
from almanac.services.importing.known import upper
from almanac.services.importing.parse import Parsed, Record
from almanac.services.readings import MOST_SHARE
from almanac.store.bulk import among
from almanac.store.models import Asset, Position, Reading, Tenure

Place = tuple[str, str]
Stretch = tuple[date, date | None]


def read_tenures(session: Session, parsed: Parsed) -> dict[Place, list[tuple[int, Stretch]]]:
    """Tenures of the machines that readings name, by upper-case tag and position; nothing is asked where there are no readings."""
    tags = sorted({upper(record["tag"]) for record in parsed.of("readings")})
    found: dict[Place, list[tuple[int, Stretch]]] = defaultdict(list)
    if not tags:
        return found
    query = (
        select(Tenure.id, Asset.tag, Position.key, Tenure.fitted_on, Tenure.removed_on)
        .join(Asset, Asset.id == Tenure.asset_id)
        .join(Position, Position.id == Tenure.position_id)
        .where(among(func.upper(Asset.tag), tags))
    )
    for row in session.execute(query):
        found[row.tag.upper(), row.key.upper()].append((row.id, (row.fitted_on, row.removed_on)))
    return found


def check_readings(parsed: Parsed, known: dict[Place, list[tuple[int, Stretch]]], *, today: date) -> None:
    """Add a fault for every reading of nothing, of a day to come, or of more than twice what the part was made for."""
    lives: dict[Place, list[Stretch]] = defaultdict(list, {place: [stretch for _, stretch in rows] for place, rows in known.items()})
    for record in parsed.of("tenures"):
        if record["fitted_on"]:
            lives[_place(record)].append((record["fitted_on"], record["removed_on"]))
    for record in parsed.of("readings"):
        day, full, design = record["read_on"], record["full"], record["design"]
        if day and day > today:
            parsed.fault("readings.csv", record.line, "read_on", f"{day} is in the future: today is {today}")
        elif day and not any(_within(day, stretch) for stretch in lives[_place(record)]):
            message = f"nothing is on record in {record['position']} of {record['tag']} on {day}: add it to tenures.csv or correct the row"
            parsed.fault("readings.csv", record.line, "read_on", message)
        if design is not None and design == 0:
            parsed.fault("readings.csv", record.line, "design", "a capacity above 0 was wanted")
        elif full is not None and design is not None and full > MOST_SHARE * design:
            parsed.fault("readings.csv", record.line, "full", f"{full} is more than twice the design capacity, {design}")


def write_readings(session: Session, parsed: Parsed, *, clock: Clock, author_id: int | None) -> None:
    """Write checked readings, after the tenures of the same import."""
    known = read_tenures(session, parsed)
    rows = []
    for record in parsed.of("readings"):
        tenure_id = next(identifier for identifier, stretch in known[_place(record)] if _within(record["read_on"], stretch))
        rows.append(
            {
                "tenure_id": tenure_id,
                "read_on": record["read_on"],
                "full": float(record["full"]),
                "design": float(record["design"]),
                "recorded_at": clock.now,
                "author_id": author_id,
            }
        )
    if rows:
        session.execute(insert(Reading), rows)


def _within(day: date, stretch: Stretch) -> bool:
    fitted, removed = stretch
    return fitted <= day and (removed is None or day < removed)


def _place(record: Record) -> Place:
    return upper(record["tag"]), upper(record["position"])
