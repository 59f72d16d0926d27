"""What is wrong with an installation, and what to do about it; looks, and changes nothing."""

from __future__ import annotations

import os
import shutil
import stat
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from enum import StrEnum
from pathlib import Path
from urllib.parse import urlsplit

from sqlalchemy import create_engine
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from almanac.jobs.nightly import schedule_of
from almanac.launch.cluster import DATABASE, PROJECT, Cluster, LaunchError, binaries
from almanac.launch.databases import exists
from almanac.services.words import count
from almanac.store.backups import BackupError, known_schemas
from almanac.store.operation import Operation, look, schema_at

LEAST_FREE = 2 * 10**9
"""Bytes of disk below which a day's work or a backup may not fit."""
OLDEST_BACKUP = timedelta(hours=26)
MAIL = ("", "folder", "smtp", "smtps")


class State(StrEnum):
    """How one thing stands."""

    GOOD = "good"
    LOOK = "look"
    WRONG = "wrong"


@dataclass(frozen=True)
class Check:
    """One thing looked at. cure : what to do, empty where nothing is to be done"""

    state: State
    what: str
    cure: str = ""

    def __str__(self) -> str:
        return f"{self.state.value:<6}{self.what}" + (f": {self.cure}" if self.cure else "")


def examine(cluster: Cluster, *, now: datetime) -> list[Check]:
    """Everything about an installation, in the order it is built."""
    found = [*_programs(), *_folder(cluster.data), *_settings()]
    if not cluster.folder.exists():
        return [*found, Check(State.LOOK, "there is no database yet", "run bin/start")]
    return [*found, *_database(cluster, now)]


def _programs() -> Iterator[Check]:
    try:
        yield Check(State.GOOD, f"PostgreSQL programs in {binaries()}")
    except LaunchError as error:
        yield Check(State.WRONG, "no PostgreSQL programs", str(error))
    built = (PROJECT / "frontend" / "dist" / "index.html").is_file()
    yield Check(State.GOOD, "the pages are built") if built else Check(State.WRONG, "the pages are not built", "run bin/start once")


def _folder(data: Path) -> Iterator[Check]:
    if not data.is_dir():
        yield Check(State.LOOK, f"the data folder {data} is not there yet", "run bin/start")
        return
    free = shutil.disk_usage(data).free
    words = f"{free / 1e9:.1f} GB are free for {data}"
    yield Check(State.GOOD, words) if free >= LEAST_FREE else Check(State.WRONG, words, "make room: backups and answers need some")
    keys = data / "keys.json"
    if keys.exists() and stat.S_IMODE(keys.stat().st_mode) & 0o077:
        yield Check(State.WRONG, f"others can read {keys}", f"chmod 600 {keys}, then change the password of the database")


def _settings() -> Iterator[Check]:
    place = os.environ.get("ALMANAC_MAIL", "")
    known = urlsplit(place).scheme in MAIL
    yield (
        Check(State.GOOD, "mail has a way" if place else "mail goes to the outbox folder")
        if known
        else Check(State.WRONG, "ALMANAC_MAIL names no way", "begin it with smtp:// or smtps://")
    )
    try:
        schedule = schedule_of()
    except BackupError as error:
        yield Check(State.WRONG, "the hour of backups cannot be read", str(error))
        return
    if schedule is None:
        yield Check(State.LOOK, "no backups are made by themselves", "set ALMANAC_BACKUPS, see docs/operations.md")
    elif not schedule.key:
        yield Check(State.LOOK, "backups are not encrypted", "bin/almanac backup-key FILE, then ALMANAC_BACKUP_KEY")


def _database(cluster: Cluster, now: datetime) -> Iterator[Check]:
    if not cluster.attach():
        yield Check(State.LOOK, "the almanac does not run here", "run bin/start")
        return
    try:
        if not exists(cluster, DATABASE):
            yield Check(State.LOOK, "there is no database yet", "run bin/start")
            return
        engine = create_engine(cluster.url())
        with Session(engine) as session:
            at = of_schema(schema_at(session))
            found = look(session) if at.state is State.GOOD else None
        engine.dispose()
    except (SQLAlchemyError, LaunchError) as error:
        yield Check(State.WRONG, "the database does not answer", str(error).splitlines()[0])
        return
    yield at
    if found is not None:
        yield from of_operation(found, now)


def of_schema(schema: str) -> Check:
    """Whether this program and a database are of one release."""
    known = known_schemas()
    if schema == known[-1]:
        return Check(State.GOOD, f"the database is at {schema}, as this program wants it")
    if schema in known:
        return Check(State.LOOK, f"the database is at {schema}, this program at {known[-1]}", "run bin/start, which brings it up to date")
    return Check(State.WRONG, f"the database is at {schema}, which this program does not know", "install the newer release")


def of_operation(now_is: Operation, now: datetime) -> Iterator[Check]:
    """What one look at a running almanac tells."""
    leads = now_is.people.get("lead", 0)
    yield (
        Check(State.GOOD, f"{count(leads, 'lead')} may decide")
        if leads
        else Check(State.WRONG, "nobody is a lead", "bin/almanac user add LOGIN NAME --role lead")
    )
    if now_is.workers:
        yield Check(State.GOOD, f"{count(now_is.workers, 'worker')} at work behind the pages")
    else:
        yield Check(State.WRONG, "no worker gives a sign of life", "run bin/start, and read log/worker.log")
    if failed := now_is.work.get("failed", 0):
        yield Check(State.LOOK, f"{count(failed, 'answer')} could not be computed", "a lead finds them under Work behind the pages")
    yield _backups(now_is, now)


def _backups(now_is: Operation, now: datetime) -> Check:
    if now_is.backup_failed:
        return Check(State.WRONG, "the last backup failed", "a lead finds why under What people did")
    if now_is.last_good is None:
        return Check(State.LOOK, "no backup was ever made by itself", "set ALMANAC_BACKUPS, or run bin/almanac backup yourself")
    age = now - now_is.last_good
    words = f"the last proven backup is {age.total_seconds() / 3600:.0f} hours old"
    return (
        Check(State.GOOD, words)
        if age <= OLDEST_BACKUP
        else Check(State.WRONG, words, "look whether a worker runs and its folder has room")
    )


def right_now() -> datetime:
    """The moment of the look."""
    return datetime.now(UTC)
