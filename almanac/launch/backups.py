"""Backup and restore around pg_dump and pg_restore."""

from __future__ import annotations

import os
import subprocess
from pathlib import Path

from almanac.launch.cluster import DATABASE, Cluster, LaunchError, binaries
from almanac.launch.databases import administer, exists

INCOMING, OUTGOING = f"{DATABASE}_incoming", f"{DATABASE}_outgoing"


def dump(cluster: Cluster, file: Path) -> None:
    """Write a consistent copy while people go on working; a failed one leaves no file."""
    if not exists(cluster, DATABASE):
        raise LaunchError("there is no database to back up yet: run bin/start first")
    partial = file.with_name(file.name + ".partial")
    try:
        os.close(os.open(partial, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600))  # pg_dump keeps the mode of a file that is there
        partial.chmod(0o600)
    except OSError as error:
        raise LaunchError(f"cannot write {partial}: {error.strerror} (choose another file)") from error
    command = [str(binaries() / "pg_dump"), "--format=custom", "--no-owner", f"--file={partial}"]
    done = subprocess.run(command, env=cluster.tool_environment(), capture_output=True, text=True, check=False)
    if done.returncode != 0:
        partial.unlink(missing_ok=True)
        raise LaunchError(f"the backup failed: {done.stderr.strip().splitlines()[-1]}")
    partial.replace(file)


def load(cluster: Cluster, file: Path) -> None:
    """Restore into a database beside the old one, then swap names: a broken backup changes nothing."""
    administer(cluster, f"DROP DATABASE IF EXISTS {INCOMING} WITH (FORCE)", f"CREATE DATABASE {INCOMING}")
    command = [str(binaries() / "pg_restore"), "--no-owner", "--exit-on-error", f"--dbname={INCOMING}", str(file)]
    done = subprocess.run(command, env=cluster.tool_environment(INCOMING), capture_output=True, text=True, check=False)
    if done.returncode != 0:
        administer(cluster, f"DROP DATABASE {INCOMING} WITH (FORCE)")
        raise LaunchError(f"{file} could not be restored, nothing was changed: {done.stderr.strip().splitlines()[-1]}")
    administer(cluster, f"DROP DATABASE IF EXISTS {OUTGOING} WITH (FORCE)")
    if exists(cluster, DATABASE):
        ended = f"SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = '{DATABASE}'"
        administer(cluster, ended, f"ALTER DATABASE {DATABASE} RENAME TO {OUTGOING}")
    administer(cluster, f"ALTER DATABASE {INCOMING} RENAME TO {DATABASE}", f"DROP DATABASE IF EXISTS {OUTGOING} WITH (FORCE)")
