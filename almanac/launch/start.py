"""bin/start: database, migrations, demo, web server; one process watches both, restarts what dies, and stops both."""

from __future__ import annotations

import contextlib
import fcntl
import getpass
import os
import signal
import sys
import threading
import time
from collections.abc import Iterator
from pathlib import Path
from types import FrameType
from typing import IO

import click
from sqlalchemy import Engine
from sqlalchemy.exc import OperationalError
from sqlalchemy.orm import Session

from almanac.demo import catalog
from almanac.launch.cluster import PROJECT, Cluster, LaunchError, default_data
from almanac.launch.databases import is_demo, is_empty, load_demo, open_database
from almanac.launch.watch import Watch, end_leftovers, listen_on
from almanac.services.accounts import create_user
from almanac.services.clock import read_clock
from almanac.services.company_settings import describe_company
from almanac.services.errors import Refused
from almanac.store.models import Role

PORT = 8480
STOPPED = threading.Event()


class _Stopped(Exception):
    """The person asked for the end."""


@click.command(context_settings={"help_option_names": ["-h", "--help"]})
@click.option("--port", default=PORT, show_default=True, type=click.IntRange(1, 65535), help="Port on 127.0.0.1.")
@click.option("--data", type=click.Path(path_type=Path), help="Data folder; by default .data in the project.")
@click.option("--reset-demo", is_flag=True, help="Throw the database away and load the demo again.")
@click.option("--empty", is_flag=True, help="Start without the demo and make the first user on the command line.")
def main(port: int, data: Path | None, reset_demo: bool, empty: bool) -> None:
    """Install what is missing, start the private database and serve Parts Almanac on 127.0.0.1."""
    if reset_demo and empty:
        raise click.UsageError("--reset-demo and --empty exclude one another")
    signal.signal(signal.SIGTERM, _stop)
    signal.signal(signal.SIGINT, _stop)
    try:
        _run((data or default_data()).absolute(), port, reset_demo=reset_demo, empty=empty)
    except LaunchError as error:
        raise click.ClickException(str(error)) from error
    except OperationalError as error:
        raise click.ClickException(f"the database refused: {str(error.orig).strip().splitlines()[0]}") from error
    except OSError as error:
        raise click.ClickException(f"{error.filename or 'the data folder'}: {error.strerror}") from error
    except _Stopped:
        click.echo("Stopped.", err=True)


def _stop(_signal: int, _frame: FrameType | None) -> None:
    """The first signal ends it; later ones must not cut the ending short. Raised inside a finalizer, the exception would be
    swallowed by the interpreter, so the waiting loops look at the flag as well."""
    signal.signal(signal.SIGTERM, signal.SIG_IGN)
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    STOPPED.set()
    raise _Stopped


def _pause(seconds: float) -> None:
    if STOPPED.is_set():
        raise _Stopped
    time.sleep(seconds)


def _run(data: Path, port: int, *, reset_demo: bool, empty: bool) -> None:
    cluster = Cluster(data)
    cluster.make_folder()
    with single_instance(data):
        end_leftovers(data)
        with contextlib.closing(listen_on(port)) as listening, _started(cluster):
            engine = open_database(cluster, reset=reset_demo)
            _fill(engine, empty=empty)
            watch = Watch(cluster, listening, _pause)
            try:
                watch.start_web()
                _announce(engine, port)
                engine.dispose()
                watch.run()
            finally:
                watch.stop_web()


@contextlib.contextmanager
def single_instance(data: Path) -> Iterator[IO[str]]:
    """Hold the data folder; the lock falls with the process, however it ends."""
    (data / "lock").touch(mode=0o600)
    with (data / "lock").open("w") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError as error:
            raise LaunchError(f"another Parts Almanac runs on {data}: stop it, or choose another folder with --data") from error
        yield lock


@contextlib.contextmanager
def _started(cluster: Cluster) -> Iterator[None]:
    if cluster.data != PROJECT / ".data":
        click.echo(f"Data folder: {cluster.data}", err=True)
    try:
        cluster.start()
        yield
    finally:
        cluster.stop()


def _fill(engine: Engine, *, empty: bool) -> None:
    if not is_empty(engine):
        return
    if not empty:
        click.echo("Loading the demo company", err=True)
        load_demo(engine)
        return
    if not sys.stdin.isatty() and os.environ.get("ALMANAC_FIRST_PASSWORD") is None:
        raise LaunchError("--empty asks for the first user: run it in a terminal, or make one with bin/almanac user add")
    click.echo("The database is empty.", err=True)
    _describe_company(engine)
    click.echo("The first user is a lead.", err=True)
    login, name = click.prompt("Login"), click.prompt("Full name")
    while True:
        password = os.environ.get("ALMANAC_FIRST_PASSWORD") or getpass.getpass("Password (12 characters or more): ")
        try:
            with Session(engine) as session:
                create_user(session, login=login, name=name, role=Role.LEAD, password=password)
                session.commit()
            return
        except Refused as error:
            if os.environ.get("ALMANAC_FIRST_PASSWORD"):
                raise LaunchError(str(error)) from error
            click.echo(f"  {error}", err=True)


def _describe_company(engine: Engine) -> None:
    while True:
        name = click.prompt("Company")
        currency, zone = click.prompt("Currency", default="EUR"), click.prompt("Time zone", default="UTC")
        try:
            with Session(engine) as session:
                describe_company(session, clock=read_clock(session), name=name, currency=currency.upper(), time_zone=zone)
                session.commit()
            return
        except Refused as error:
            click.echo(f"  {error}", err=True)


def _announce(engine: Engine, port: int) -> None:
    click.echo(f"\nParts Almanac: http://127.0.0.1:{port}")
    if is_demo(engine):
        click.echo("Demo sign-ins:")
        for login, name, role, password in catalog.USERS:
            click.echo(f"  {role:<10} {login:<7} {password:<18} {name}")
    click.echo("Ctrl-C stops it.\n")
    sys.stdout.flush()


if __name__ == "__main__":
    main()
