"""bin/almanac: the calculator, imports, users, backup and restore. Each command imports only what it needs."""

from __future__ import annotations

import sys
from collections.abc import Callable
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING

import click

from almanac.calculator.commands import AS_JSON, calc

if TYPE_CHECKING:
    from almanac.launch.cluster import Cluster

HELP = {"help_option_names": ["-h", "--help"]}
DATA = click.option("--data", type=click.Path(path_type=Path), help="Data folder; by default the one bin/start uses.")


@click.group(context_settings=HELP)
def main() -> None:
    """Parts Almanac on the command line."""


main.add_command(calc)


@main.group()
def page() -> None:
    """Model pages as files."""


@page.command("check")
@click.argument("files", nargs=-1, required=True)
@AS_JSON
def check_pages(files: tuple[str, ...], json_output: bool) -> None:
    """Report every fault of page FILES with its line and cure.

    Exit 0: sound, what is missing is listed as open. Exit 2: something is wrong. With --json a document for each file.
    """
    if json_output:
        _check_as_json(files)
        return
    from almanac.calculator.inputs import InputFaults
    from almanac.calculator.pages import check

    good = True
    for file in files:
        try:
            lines, sound = check(file)
        except InputFaults as faults:
            lines, sound = faults.faults, False
        for line in lines:
            click.echo(line, err=not sound)
        good = good and sound
        if sound:
            click.echo(f"{file}: sound" + (f", {len(lines)} open" if lines else ""))
    sys.exit(0 if good else 2)


def _check_as_json(files: tuple[str, ...]) -> None:
    from almanac.calculator.inputs import InputFaults
    from almanac.calculator.output import as_json
    from almanac.calculator.pages import check_as_document

    good = True
    for file in files:
        try:
            found = check_as_document(file)
        except InputFaults as faults:
            unread = [{"line": None, "place": None, "wanted": words, "got": None, "cure": None} for words in faults.faults]
            found = {"file": file, "faults": unread, "open": [], "noted": []}
        good = good and not found["faults"]
        click.echo(as_json(found))
    sys.exit(0 if good else 2)


@page.command("upgrade")
@click.argument("files", nargs=-1, required=True)
@click.option("--write", is_flag=True, help="Write the files anew; without it only what would change is told.")
def upgrade_pages(files: tuple[str, ...], write: bool) -> None:
    """Bring page FILES to the present form: half the typing, and nothing of it lost.

    Exit 0: every file is told of. Exit 2: one of them is wrong, and none is written.
    """
    from almanac.calculator.inputs import InputFaults
    from almanac.calculator.pages import upgrade

    try:
        made = [(file, *upgrade(file)) for file in files]
    except InputFaults as faults:
        for line in faults.faults:
            click.echo(line, err=True)
        sys.exit(2)
    for file, before, after in made:
        if write and after != before:
            Path(file).write_bytes(after)
        done = "is in the present form" if after == before else "written anew" if write else "would be written anew"
        click.echo(f"{file}: {len(before.decode())} characters, {len(after.decode())} in the present form; {done}")


@page.command("schema")
def print_schema() -> None:
    """Print the JSON Schema of a page file."""
    import json

    from almanac.exchange.pages.schema import page_schema

    click.echo(json.dumps(page_schema(), indent=2, ensure_ascii=False))


def _cluster(data: Path | None) -> Cluster:
    from almanac.launch.cluster import Cluster, default_data

    return Cluster((data or default_data()).absolute())


def _with_database(data: Path | None, work: Callable[[Cluster], None]) -> None:
    """Run work on the private cluster, started for it unless it already runs."""
    from almanac.launch.cluster import LaunchError, running

    try:
        with running(_cluster(data).data) as cluster:
            work(cluster)
    except LaunchError as error:
        raise click.ClickException(str(error)) from error


@main.command()
@click.argument("file", type=click.Path(path_type=Path))
@DATA
@click.option("--keep", type=click.IntRange(1, 1000), help="Of a folder's backups, keep so many of the newest.")
@click.option("--key", default="", envvar="ALMANAC_BACKUP_KEY", help="Encrypt it for this key (age1...), see backup-key.")
@click.option("--unproven", is_flag=True, help="Do not prove it by restoring it beside the database.")
def backup(file: Path, data: Path | None, keep: int | None, key: str, unproven: bool) -> None:
    """Write the whole database to FILE, or to a dated file in the folder FILE, and prove it by restoring it (pg_dump, custom format)."""
    from almanac.launch.backups import dump

    def work(cluster: Cluster) -> None:
        made = dump(cluster, file, keep=keep, key=key, prove=not unproven)
        proven = "" if unproven else ", proven by restoring it"
        click.echo(f"Backup written to {made.file}: {len(made.tables)} tables, {made.rows:,} rows{proven}")

    _with_database(data, work)


@main.command()
@DATA
def doctor(data: Path | None) -> None:
    """Say what is wrong with this installation and what to do; changes nothing. Exit 1 where something is wrong."""
    from almanac.launch.doctor import State, examine, right_now

    found = examine(_cluster(data), now=right_now())
    for check in found:
        click.echo(str(check))
    if any(check.state is State.WRONG for check in found):
        raise SystemExit(1)


@main.command("backup-key")
@click.argument("file", type=click.Path(dir_okay=False, path_type=Path))
def backup_key(file: Path) -> None:
    """Write a new key to FILE, to be kept elsewhere, and print what backups are encrypted for."""
    from almanac.store.backups import BackupError
    from almanac.store.sealed import new_key

    try:
        click.echo(new_key(file))
    except BackupError as error:
        raise click.ClickException(str(error)) from error


@main.command()
@click.argument("file", type=click.Path(exists=True, dir_okay=False, path_type=Path))
@DATA
@click.option("--yes", is_flag=True, help="Do not ask.")
@click.option("--key-file", type=click.Path(exists=True, dir_okay=False, path_type=Path), help="The key of an encrypted backup.")
def restore(file: Path, data: Path | None, yes: bool, key_file: Path | None) -> None:
    """Replace the database by what FILE holds. The old one stays until the new one is complete."""
    from almanac.launch.backups import load

    if not yes:
        click.confirm("This replaces every record in the database by the backup. Go on?", abort=True)
    _with_database(data, lambda cluster: load(cluster, file, key_file=key_file))
    click.echo(f"Restored from {file}")


@main.command("stand-in-provider")
@click.option("--port", default=8490, show_default=True, type=click.IntRange(1, 65535), help="Port on 127.0.0.1.")
def stand_in_provider(port: int) -> None:
    """Run an identity provider that is none, to try signing in through one. It asks for no password."""
    from almanac.launch.provider import run

    run(port)


@main.command("list")
@click.argument("file", type=click.Path(exists=True, dir_okay=False, path_type=Path))
@DATA
@click.option(
    "--source", default="", help="Where the list comes from, under which what was settled is remembered; else the last of its kind."
)
@click.option("--on", type=click.DateTime(["%Y-%m-%d"]), help="The day the list was made; by default today.")
@click.option("--kind", help="What it is a list of; by default its header tells.")
@click.option("--apply", "write", is_flag=True, help="Write what it says, where nothing is left to ask.")
def take_list(file: Path, data: Path | None, source: str, on: datetime | None, kind: str | None, write: bool) -> None:
    """Hold a list (XLSX, ODS, CSV), or each list in a folder, against the record, and say what it changes. Exit 2 where a person has to
    answer first."""
    from almanac.launch import lists

    good = True

    def work(cluster: Cluster) -> None:
        nonlocal good
        for one in lists.lists_in(file):
            good = lists.take_list(cluster, one, source, on.date() if on else None, write=write, kind=kind) and good

    _with_database(data, work)
    sys.exit(0 if good else 2)


@main.command("export")
@click.argument("file", type=click.Path(dir_okay=False, path_type=Path))
@DATA
def export_company(file: Path, data: Path | None) -> None:
    """Write everything on record to FILE, a zip with a CSV a table; bin/almanac import reads it into an empty company."""
    from almanac.launch.archives import write

    _with_database(data, lambda cluster: write(cluster, file))


@main.command("import")
@click.argument("folder", type=click.Path(path_type=Path))
@DATA
@click.option("--check", is_flag=True, help="Only look: report faults and counts, write nothing.")
@click.option("--templates", is_flag=True, help="Write a template of every file into FOLDER instead.")
def import_folder(folder: Path, data: Path | None, check: bool, templates: bool) -> None:
    """Read a company's CSV files from FOLDER: all of it or nothing.

    Files: sites, parts, models, assets, tenures, incidents, stock. --templates writes one of each with an example row.
    Where FOLDER is a zip that bin/almanac export wrote, the whole company is read, into an empty one.
    """
    from almanac.launch.imports import read_folder, write_templates

    if folder.is_file():
        from almanac.launch.archives import read

        _with_database(data, lambda cluster: read(cluster, folder, write=not check))
        return

    if templates:
        write_templates(folder)
        click.echo(f"Templates written to {folder}")
        return
    files = {path.name: path.read_bytes() for path in sorted(folder.glob("*.csv"))} if folder.is_dir() else {}
    if not files:
        click.echo(f"{folder}: no CSV files there", err=True)
        sys.exit(2)
    good = True

    def work(cluster: Cluster) -> None:
        nonlocal good
        good = read_folder(cluster, files, write=not check)

    _with_database(data, work)
    sys.exit(0 if good else 2)


@main.command()
@click.option("--name", help="What the company is called.")
@click.option("--currency", help="Code of its currency, such as EUR.")
@click.option("--time-zone", help="IANA name of its time zone, such as UTC: it decides which day is today.")
@DATA
def company(name: str | None, currency: str | None, time_zone: str | None, data: Path | None) -> None:
    """Say what the company is called, and its currency and time zone. What is not given stays."""
    from almanac.launch.people import describe

    if name is None and currency is None and time_zone is None:
        raise click.UsageError("give at least one of --name, --currency and --time-zone")
    _with_database(data, lambda cluster: describe(cluster, name=name, currency=currency, time_zone=time_zone))
    click.echo("Noted")


@main.group()
def user() -> None:
    """People who may sign in."""


@user.command("add")
@click.argument("login")
@click.argument("name")
@click.option("--role", type=click.Choice(["lead", "technician", "reader"]), required=True)
@click.password_option(help="At least 12 characters; asked for when not given.")
@DATA
def add_user(login: str, name: str, role: str, password: str, data: Path | None) -> None:
    """Add a user LOGIN called NAME."""
    from almanac.launch.people import add

    _with_database(data, lambda cluster: add(cluster, login=login, name=name, role=role, password=password))
    click.echo(f"Added {login}")


@user.command("link")
@click.argument("login")
@DATA
def link_for(login: str, data: Path | None) -> None:
    """A link by which LOGIN chooses a password, once: for when no lead can sign in."""
    from almanac.launch.people import link

    def work(cluster: Cluster) -> None:
        click.echo(f"Open /welcome#{link(cluster, login=login)} on the application's address, within two days")

    _with_database(data, work)


if __name__ == "__main__":
    main()
