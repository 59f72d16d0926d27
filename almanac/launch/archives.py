"""The whole company as files, from the command line."""

from __future__ import annotations

from pathlib import Path

import click

from almanac.launch.cluster import Cluster, LaunchError
from almanac.launch.databases import one_session
from almanac.services.archive import read_archive, write_archive
from almanac.services.clock import read_clock
from almanac.services.errors import Refused


def write(cluster: Cluster, file: Path) -> None:
    """Write FILE whole, or leave none."""
    partial = file.with_name(file.name + ".partial")
    try:
        with one_session(cluster) as session, partial.open("wb") as target:
            made_on = read_clock(session).today.isoformat()
            session.rollback()
            connection = session.connection(execution_options={"isolation_level": "REPEATABLE READ"})
            found = write_archive(connection, target, made_on=made_on)
    except OSError as error:
        raise LaunchError(f"cannot write {partial}: {error.strerror} (choose another file)") from error
    partial.chmod(0o600)
    partial.replace(file)
    click.echo(f"{found.total:,} rows of {len(found.rows)} tables written to {file}")


def read(cluster: Cluster, file: Path, *, write: bool) -> None:
    """Read FILE into an empty company; without `write` only see whether that could be done."""
    with one_session(cluster) as session, file.open("rb") as content:
        try:
            found = read_archive(session.connection(), content)
        except Refused as refused:
            session.rollback()
            raise LaunchError(str(refused)) from refused
        if not write:
            session.rollback()
    click.echo(f"{found.total:,} rows of {len(found.rows)} tables {'read' if write else 'could be read; nothing was written'}")
