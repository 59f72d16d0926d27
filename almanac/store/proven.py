"""A backup that has its name only once it was proven, and sealed where a key is given: whatever ends it before leaves none."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path

from sqlalchemy import create_engine, text

from almanac.store import backups, sealed
from almanac.store.backups import Backup, BackupError

ONE_AT_A_TIME = "SELECT pg_try_advisory_lock(hashtext('almanac backup'))"


class Busy(BackupError):
    """Another backup of this database is being made."""


def make_backup(url: str, file: Path, *, key: str = "", unproven: bool = False) -> Backup:
    """Write a backup, prove it by restoring it beside the database, and encrypt it for a key.

    Returns
    -------
    Backup : its file ends with .age where it is encrypted

    Raises
    ------
    Busy : another one is being made · BackupError : it could not be made or proven, or there is no such key; no file is left
    OSError : no room
    """
    if file.suffix == ".age" and not key:
        raise BackupError(f"{file.name} is a name of an encrypted backup: give a key, or another name")
    draft = file.with_name(file.name + ".partial")
    closed = draft.with_name(draft.name + ".age")
    with _alone(url):
        try:
            made = backups.dump(url, draft)
            if not unproven:
                backups.prove(url, draft)
            ready, final = draft, file
            if key:
                sealed.seal(draft, key, closed)
                ready, final = closed, file.with_name(file.name.removesuffix(".age") + ".age")
            backups.manifest_of(draft).replace(backups.manifest_of(file))
            ready.replace(final)
        finally:
            for left in (draft, closed, backups.manifest_of(draft)):
                left.unlink(missing_ok=True)
    return replace(made, file=final)


@contextmanager
def _alone(url: str) -> Iterator[None]:
    # The lock is the connection's: no transaction stays open for it.
    engine = create_engine(url, isolation_level="AUTOCOMMIT")
    try:
        with engine.connect() as holder:
            if not holder.scalar(text(ONE_AT_A_TIME)):
                raise Busy("another backup is being made: wait until it is done")
            yield
    finally:
        engine.dispose()
