"""bin/start: database, migrations, demo, web server; one process watches both, restarts what dies, and stops both."""

from __future__ import annotations

import contextlib
import fcntl
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

from almanac.launch.cluster import PROJECT, Cluster, LaunchError, default_data
from almanac.launch.watch import WEBS, WORKERS, Watch, end_leftovers, listen_on

PORT = 8480
STOPPED = threading.Event()


class _Stopped(Exception):
    """The person asked for the end."""


@click.command(context_settings={"help_option_names": ["-h", "--help"]})
@click.option("--port", default=PORT, show_default=True, type=click.IntRange(1, 65535), help="Port on 127.0.0.1.")
@click.option("--data", type=click.Path(path_type=Path), help="Data folder; by default .data in the project.")
@click.option("--reset-demo", is_flag=True, help="Throw the database away and load the demo again.")
@click.option("--empty", is_flag=True, help="Start without the demo; the first user is made in the browser.")
@click.option("--web", "webs", default=WEBS, show_default=True, type=click.IntRange(1, 16), help="Web processes.")
@click.option("--workers", default=WORKERS, show_default=True, type=click.IntRange(1, 16), help="Workers that compute behind the pages.")
def main(port: int, data: Path | None, reset_demo: bool, empty: bool, webs: int, workers: int) -> None:
    """Install what is missing, start the private database and serve Parts Almanac on 127.0.0.1.

    \b
    With --empty it prints a code for the first user, who is made in the browser; or
    without a browser from these variables of the environment:
      ALMANAC_FIRST_LOGIN, ALMANAC_FIRST_NAME, ALMANAC_FIRST_PASSWORD (12 or more)
      ALMANAC_COMPANY, ALMANAC_CURRENCY (EUR), ALMANAC_TIME_ZONE (UTC)
    """
    if reset_demo and empty:
        raise click.UsageError("--reset-demo and --empty exclude one another")
    signal.signal(signal.SIGTERM, _stop)
    signal.signal(signal.SIGINT, _stop)
    try:
        _run((data or default_data()).absolute(), port, reset_demo=reset_demo, empty=empty, processes=(webs, workers))
    except LaunchError as error:
        raise click.ClickException(str(error)) from error
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


def _run(data: Path, port: int, *, reset_demo: bool, empty: bool, processes: tuple[int, int]) -> None:
    cluster = Cluster(data)
    cluster.make_folder()
    # Without a mail server what is sent lands in a folder, and the page says so.
    os.environ.setdefault("ALMANAC_MAIL", f"folder://{data}/outbox")
    _look_at_schedule()
    _look_outside()
    with single_instance(data):
        end_leftovers(data)
        with contextlib.closing(listen_on(port)) as listening:
            watch = Watch(cluster, listening, _pause, webs=processes[0], workers=processes[1])
            _keep_running(watch, port, reset_demo=reset_demo, empty=empty)


def _look_at_schedule() -> None:
    """An hour of backups that is none is said now, and not in the log of a worker at night."""
    if not os.environ.get("ALMANAC_BACKUPS"):
        return
    from almanac.jobs.nightly import schedule_of
    from almanac.store.backups import BackupError

    try:
        schedule_of()
    except BackupError as error:
        raise LaunchError(str(error)) from error


def _look_outside() -> None:
    """What the environment says of the world around is looked at before anything starts."""
    if not {"ALMANAC_URL", "ALMANAC_PROVIDER"} & set(os.environ):
        return
    from almanac.web.outside import outside_of

    try:
        outside_of(os.environ)
    except ValueError as error:
        raise LaunchError(str(error)) from error


def _keep_running(watch: Watch, port: int, *, reset_demo: bool, empty: bool) -> None:
    """Start everything, the web process first: it gets ready while the database starts. Then look after both until the end."""
    if watch.cluster.data != PROJECT / ".data":
        click.echo(f"Data folder: {watch.cluster.data}", err=True)
    watch.prepare()
    try:
        watch.cluster.start()
        # What fills a database takes seconds to import; by now the web process is on its way.
        from almanac.launch.filling import filled

        sign_ins = filled(watch.cluster, reset_demo=reset_demo, empty=empty)
        watch.begin()
        _announce(sign_ins, port)
        watch.run()
    finally:
        watch.stop()
        watch.cluster.stop()


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


def _announce(sign_ins: list[str], port: int) -> None:
    click.echo(f"\nParts Almanac: http://127.0.0.1:{port}")
    if sign_ins:
        click.echo("Demo sign-ins:")
    for line in sign_ins:
        click.echo(f"  {line}")
    click.echo("Ctrl-C stops it.\n")
    sys.stdout.flush()


if __name__ == "__main__":
    main()
