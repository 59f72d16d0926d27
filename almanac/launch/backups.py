"""Backup and restore of the private cluster's database; see `almanac.store.backups`."""

from __future__ import annotations

import tempfile
from datetime import UTC, datetime
from pathlib import Path

from almanac.launch.cluster import DATABASE, Cluster, LaunchError
from almanac.launch.databases import administer, exists
from almanac.store import backups, sealed
from almanac.store.backups import Backup, BackupError
from almanac.store.proven import make_backup

INCOMING, OUTGOING = f"{DATABASE}_incoming", f"{DATABASE}_outgoing"


def dump(cluster: Cluster, file: Path, *, keep: int | None = None, key: str = "", prove: bool = True) -> Backup:
    """Write a backup and prove it by restoring it beside; into a folder under the day and hour, keeping so many of them."""
    if not exists(cluster, DATABASE):
        raise LaunchError("there is no database to back up yet: run bin/start first")
    folder = file if file.is_dir() else None
    wanted = backups.dated(folder, datetime.now(UTC)) if folder else file
    try:
        made = make_backup(cluster.url(), wanted, key=key, unproven=not prove)
        if folder and keep:
            backups.rotate(folder, keep)
    except (BackupError, OSError) as error:
        raise LaunchError(str(error)) from error
    return made


def load(cluster: Cluster, file: Path, *, key_file: Path | None = None) -> None:
    """Restore into a database beside the old one, then swap names: a broken backup, or one of a newer program, changes nothing."""
    if file.suffix == ".age" and key_file is None:
        raise LaunchError(f"{file} is encrypted: name the file of its key with --key-file")
    with tempfile.TemporaryDirectory() as scratch:
        plain = Path(scratch) / "plain.dump" if key_file else file
        try:
            if key_file:
                sealed.unseal(file, key_file, plain)
            administer(cluster, f"DROP DATABASE IF EXISTS {INCOMING} WITH (FORCE)", f"CREATE DATABASE {INCOMING}")
            backups.restore(cluster.url(), plain, INCOMING)
        except BackupError as error:
            administer(cluster, f"DROP DATABASE IF EXISTS {INCOMING} WITH (FORCE)")
            raise LaunchError(f"{file} could not be restored, nothing was changed: {error}") from error
    administer(cluster, f"DROP DATABASE IF EXISTS {OUTGOING} WITH (FORCE)")
    if exists(cluster, DATABASE):
        ended = f"SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = '{DATABASE}'"
        administer(cluster, ended, f"ALTER DATABASE {DATABASE} RENAME TO {OUTGOING}")
    administer(cluster, f"ALTER DATABASE {INCOMING} RENAME TO {DATABASE}", f"DROP DATABASE IF EXISTS {OUTGOING} WITH (FORCE)")
