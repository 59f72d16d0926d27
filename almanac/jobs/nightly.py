"""Backups by themselves: once a day, by one worker, proven by restoring them, the oldest taken away."""

from __future__ import annotations

import logging
import os
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import UTC, datetime, time, timedelta
from pathlib import Path

from sqlalchemy import create_engine
from sqlalchemy.orm import Session

from almanac.services.words import count
from almanac.store import backups
from almanac.store.backups import BackupError
from almanac.store.models import BackupRun
from almanac.store.proven import Busy, make_backup

LOG = logging.getLogger(__name__)
FOLDER, AT, KEEP, KEY = "ALMANAC_BACKUPS", "ALMANAC_BACKUPS_AT", "ALMANAC_BACKUPS_KEEP", "ALMANAC_BACKUP_KEY"
USUAL_AT, USUAL_KEEP = "02:30", 14
AGAIN = timedelta(hours=1)
"""A backup that failed is tried again after so long."""


@dataclass(frozen=True)
class Schedule:
    """Where backups go, at which hour of the server's clock (UTC), how many are kept, for which key they are encrypted."""

    folder: Path
    at: time
    keep: int
    key: str = ""


def schedule_of(environment: Mapping[str, str] = os.environ) -> Schedule | None:
    """What the environment asks for; None where it asks for no backups.

    Raises
    ------
    BackupError : an hour or number that is none
    """
    folder = environment.get(FOLDER, "").strip()
    if not folder:
        return None
    try:
        at = time.fromisoformat(environment.get(AT, USUAL_AT))
        keep = int(environment.get(KEEP, USUAL_KEEP))
    except ValueError as error:
        raise BackupError(f"{AT} is an hour such as {USUAL_AT}, {KEEP} a number such as {USUAL_KEEP}: {error}") from error
    return Schedule(Path(folder), at, max(keep, 1), environment.get(KEY, "").strip())


def newest(folder: Path) -> datetime | None:
    """When the newest backup of a folder was made; None where there is none."""
    found = [path for path in folder.glob(f"{backups.PREFIX}*") if path.suffix in (backups.SUFFIX, ".age")]
    made = []
    for path in found:
        try:
            made.append(backups.read_manifest(path).made_at)
        except BackupError:
            LOG.warning("%s stands without what it held", path)
    return max(made, default=None)


def due(schedule: Schedule, now: datetime, *, tried: datetime | None = None) -> bool:
    """Whether the backup of today, or of yesterday before its hour, is still to be made. tried : when it last failed here"""
    planned = datetime.combine(now.date(), schedule.at, UTC)
    planned = planned if planned <= now else planned - timedelta(days=1)
    made = newest(schedule.folder)
    return (made is None or made < planned) and (tried is None or now - tried >= AGAIN)


def back_up(url: str, schedule: Schedule, *, now: datetime) -> bool:
    """Make the backup that is due, unless another is being made; what came of it is on record. False where it failed."""
    file = backups.dated(schedule.folder, now)
    try:
        schedule.folder.mkdir(parents=True, exist_ok=True, mode=0o700)
        made = make_backup(url, file, key=schedule.key)
        words, good = f"{count(len(made.tables), 'table')}, {count(made.rows, 'row')}, proven by restoring it; {_rotated(schedule)}", True
    except Busy:
        return True
    except (BackupError, OSError) as error:
        LOG.error("backup: %s", error)
        words, good = str(error), False
    engine = create_engine(url)
    with Session(engine) as session:
        session.add(BackupRun(at=datetime.now(UTC), file=file.name, good=good, words=words))
        session.commit()
    engine.dispose()
    return good


def _rotated(schedule: Schedule) -> str:
    """The oldest taken away, in words; that they stay makes a good backup no bad one."""
    try:
        return f"{count(len(backups.rotate(schedule.folder, schedule.keep)), 'older one')} taken away"
    except OSError as error:
        return f"older ones could not be taken away: {error.strerror}"
