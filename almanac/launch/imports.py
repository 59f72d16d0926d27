"""Importing a folder from the command line."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

import click

from almanac.launch.cluster import Cluster
from almanac.launch.databases import one_session
from almanac.services.clock import read_clock
from almanac.services.importing.run import run_import
from almanac.services.importing.specs import FILES
from almanac.services.words import count


def write_templates(folder: Path) -> None:
    """One template a file, with an example row."""
    folder.mkdir(parents=True, exist_ok=True)
    for name, spec in FILES.items():
        (folder / f"{name}.csv").write_bytes(spec.template())


def read_folder(cluster: Cluster, files: Mapping[str, bytes], *, write: bool) -> bool:
    """Check the files and write them if asked and nothing is wrong; True when nothing was."""
    with one_session(cluster) as session:
        report = run_import(session, files, clock=read_clock(session), author_id=None, write=write)
    for fault in report.faults:
        place = f"line {fault.line}, column {fault.column}: " if fault.line else ""
        click.echo(f"{fault.file}: {place}{fault.message}", err=True)
    for name, rows in report.rows.items():
        click.echo(f"{name}.csv: {rows:,} rows")
    if report.faults:
        click.echo(f"{count(len(report.faults), 'fault')}; nothing was written", err=True)
    elif write:
        click.echo("Imported")
    return not report.faults
