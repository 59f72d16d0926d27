"""Keeps database, web servers and workers running: what dies is started again, until the launcher itself is stopped."""

from __future__ import annotations

import contextlib
import json
import os
import signal
import socket
import subprocess
import sys
import time
import urllib.error
import urllib.request
from collections.abc import Callable
from pathlib import Path

import click

from almanac.launch.cluster import PROJECT, Cluster, LaunchError
from almanac.launch.processes import Register, process_of

READY_SECONDS = 60.0
GRACE_SECONDS = 12.0
LOOK_SECONDS, RETRY_SECONDS = 0.2, 2.0
WEBS, WORKERS = 2, 1
CAME_UP_SECONDS = 6.0
MOST_DEATHS, WITHIN_SECONDS = 6, 60.0
"""A part that fails to come up this often in this time will not be mended by another start; one that ran is started always."""


class Part:
    """A process of the product beside the database: it gets ready as soon as it is started, and begins once it is told where that is."""

    def __init__(self, name: str, command: list[str], *, passed: tuple[int, ...] = ()) -> None:
        self.name, self._command, self._passed = name, command, passed
        self._process: subprocess.Popen[bytes] | None = None
        self._told_at = 0.0

    def prepare(self) -> None:
        """Start the process; it waits."""
        # In a process group of its own, so that Ctrl-C reaches only the launcher, which ends it.
        self._process = subprocess.Popen(
            self._command,
            env={**os.environ, "OPENBLAS_NUM_THREADS": "1"},
            cwd=PROJECT,
            start_new_session=True,
            pass_fds=self._passed,
            stdin=subprocess.PIPE,
        )

    def tell(self, words: dict[str, str]) -> None:
        """Have it begin; one that ended is started first."""
        if self._process is None or self._process.poll() is not None:
            self.prepare()
        assert self._process is not None
        assert self._process.stdin is not None
        self._told_at = time.monotonic()
        with contextlib.suppress(BrokenPipeError):
            self._process.stdin.write(f"{json.dumps(words)}\n".encode())
            self._process.stdin.close()

    @property
    def pid(self) -> int | None:
        return None if self._process is None else self._process.pid

    @property
    def has_ended(self) -> bool:
        return self._process is not None and self._process.poll() is not None

    @property
    def code(self) -> int | None:
        return None if self._process is None else self._process.returncode

    @property
    def came_up(self) -> bool:
        """Whether it had begun for a while before it ended: something killed it then, it did not fail to start."""
        return time.monotonic() - self._told_at > CAME_UP_SECONDS

    def ask_to_stop(self) -> None:
        """Have it finish what it has begun, and end."""
        process = self._process
        if process is None or process.poll() is not None:
            return
        if process.stdin is not None:
            with contextlib.suppress(BrokenPipeError):
                process.stdin.close()
        process.terminate()

    def stop(self) -> None:
        """Wait until it has ended, and insist after a while."""
        process = self._process
        if process is None or process.poll() is not None:
            return
        try:
            process.wait(GRACE_SECONDS)
        except subprocess.TimeoutExpired:
            os.killpg(process.pid, signal.SIGKILL)
            process.wait(GRACE_SECONDS)


class Watch:
    """The running product: a database cluster, web processes on a socket that outlives them, and workers behind them.

    pause : sleeps, and raises when the person asked for the end
    """

    def __init__(
        self, cluster: Cluster, listening: socket.socket, pause: Callable[[float], None], *, webs: int = WEBS, workers: int = WORKERS
    ) -> None:
        self.cluster, self.pause = cluster, pause
        self._listening, self._register = listening, Register(cluster.data)
        self._deaths: list[float] = []
        descriptor, logs = listening.fileno(), cluster.data / "log"
        self._web = [_web_part(descriptor, logs / _log_of("web", number)) for number in range(webs)]
        self._workers = [_worker_part(logs / _log_of("worker", number)) for number in range(workers)]

    @property
    def _parts(self) -> list[Part]:
        return [*self._web, *self._workers]

    @property
    def _port(self) -> int:
        return int(self._listening.getsockname()[1])

    def prepare(self) -> None:
        """Start the first web process, which gets ready while the database starts; the others follow once it serves."""
        self._web[0].prepare()
        self._note()

    def begin(self) -> None:
        """Have the first web process serve, wait until it answers, and start the others.

        Raises
        ------
        LaunchError : it ended, or did not answer in time
        """
        self._web[0].tell(self._words())
        self._note()
        deadline = time.monotonic() + READY_SECONDS
        while time.monotonic() < deadline and not self._web[0].has_ended:
            if self._is_ready():
                break
            self.pause(0.1)
        else:
            raise LaunchError("the web server did not answer; its last words are above")
        for part in self._parts[1:]:
            part.tell(self._words())
        self._note()

    def _words(self) -> dict[str, str]:
        """What a process is told: secrets among it, which so stand in no list of processes and in no environment."""
        return {"database": self.cluster.url(), "secret": self.cluster.key("secret")}

    def _note(self) -> None:
        self._register.note([one for part in self._parts if part.pid is not None and (one := process_of(part.pid))])

    def _is_ready(self, timeout: float = 5.0) -> bool:
        try:
            with urllib.request.urlopen(f"http://127.0.0.1:{self._port}/health/ready", timeout=timeout) as reply:
                return bool(reply.status == 200)
        except (OSError, urllib.error.HTTPError):
            return False

    def run(self) -> None:
        """Look after all of it until `pause` raises.

        Raises
        ------
        LaunchError : a part does not come up again and again
        """
        while True:
            self.pause(LOOK_SECONDS)
            if not self.cluster.is_alive():
                click.echo("the database ended; starting it again", err=True)
                self._restart_database()
            for part in self._parts:
                if part.has_ended:
                    self._start_again(part)

    def _start_again(self, part: Part) -> None:
        click.echo(f"the {part.name} ended (code {part.code}); starting it again", err=True)
        if not part.came_up:
            self._count_failure(f"the {part.name}")
        part.tell(self._words())  # without waiting: the database may need help meanwhile
        self._note()

    def _restart_database(self) -> None:
        before = self.cluster.port
        try:
            self.cluster.start()
        except LaunchError as error:  # a full disk, say: it is tried again, and given up after a while
            click.echo(str(error), err=True)
            self._count_failure("the database")
            self.pause(RETRY_SECONDS)
            return
        if self.cluster.port != before:
            self.stop()  # they know the database by its old port
            for part in self._parts:
                part.tell(self._words())
            self._note()

    def _count_failure(self, what: str) -> None:
        now = time.monotonic()
        self._deaths = [*(death for death in self._deaths if now - death < WITHIN_SECONDS), now]
        if len(self._deaths) > MOST_DEATHS:
            logs = self.cluster.data / "log"
            raise LaunchError(
                f"{what} did not come up {len(self._deaths)} times within a minute: see {logs} and {self.cluster.folder / 'server.log'}"
            )

    def stop(self) -> None:
        """Let every process finish what it has begun, then end it."""
        for part in self._parts:
            part.ask_to_stop()
        for part in self._parts:
            part.stop()


def _log_of(name: str, number: int) -> str:
    return f"{name}.log" if number == 0 else f"{name}-{number + 1}.log"


def _web_part(descriptor: int, log: Path) -> Part:
    command = [sys.executable, "-m", "almanac.launch.front", "--socket", str(descriptor), "--log", str(log)]
    return Part("web server", command, passed=(descriptor,))


def _worker_part(log: Path) -> Part:
    return Part("worker", [sys.executable, "-m", "almanac.launch.work", "--log", str(log)])


def listen_on(port: int) -> socket.socket:
    """The socket the product is reached by, held by the launcher so that a web process that dies loses no connection.

    Raises
    ------
    LaunchError : somebody else serves there
    """
    listening = socket.socket()
    listening.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listening.bind(("127.0.0.1", port))
    except OSError as error:
        listening.close()
        raise LaunchError(f"port {port} is in use: stop what serves there, or choose another with --port") from error
    listening.listen(1024)
    return listening


def end_leftovers(data: Path) -> None:
    """End what a killed launcher of this folder left running."""
    if ended := Register(data).end_leftovers():
        click.echo(f"Ended {ended} process{'es' if ended > 1 else ''} that an earlier start had left running", err=True)
