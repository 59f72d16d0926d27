"""Keeps database and web server running: what dies is started again, until the launcher itself is stopped."""

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
MOST_DEATHS, WITHIN_SECONDS = 6, 60.0
"""A part that fails to come up this often in this time will not be mended by another start; one that ran is started always."""


class Watch:
    """The running product: a database cluster and the web process in front of it, on a socket that outlives them.

    pause : sleeps, and raises when the person asked for the end
    """

    def __init__(self, cluster: Cluster, listening: socket.socket, pause: Callable[[float], None]) -> None:
        self.cluster, self.pause = cluster, pause
        self._listening, self._register = listening, Register(cluster.data)
        self._web: subprocess.Popen[bytes] | None = None
        self._deaths: list[float] = []
        self._answered = False

    @property
    def _port(self) -> int:
        return int(self._listening.getsockname()[1])

    def prepare_web(self) -> None:
        """Start a web process that gets ready while the database starts; it serves once `start_web` tells it where that is."""
        descriptor = self._listening.fileno()
        log = str(self.cluster.data / "log" / "web.log")
        command = [sys.executable, "-m", "almanac.launch.front", "--socket", str(descriptor), "--log", log]
        environment = {**os.environ, "OPENBLAS_NUM_THREADS": "1"}
        # In a process group of its own, so that Ctrl-C reaches only the launcher, which ends it.
        self._web = subprocess.Popen(
            command, env=environment, cwd=PROJECT, start_new_session=True, pass_fds=[descriptor], stdin=subprocess.PIPE
        )
        self._register.note([one for one in [process_of(self._web.pid)] if one])

    def start_web(self) -> None:
        """Have the web process serve, and wait until it answers.

        Raises
        ------
        LaunchError : it ended, or did not answer in time
        """
        self._tell_web()
        assert self._web is not None
        deadline = time.monotonic() + READY_SECONDS
        while time.monotonic() < deadline and self._web.poll() is None:
            if self._is_ready():
                self._answered = True
                return
            self.pause(0.1)
        raise LaunchError("the web server did not answer; its last words are above")

    def _tell_web(self) -> None:
        """Tell a web process that waits, or a new one, where the database is: from then on it serves."""
        if self._web is None or self._web.poll() is not None:
            self.prepare_web()
        assert self._web is not None
        assert self._web.stdin is not None
        told = json.dumps({"database": self.cluster.url(), "secret": self.cluster.key("secret")})
        with contextlib.suppress(BrokenPipeError):
            self._web.stdin.write(f"{told}\n".encode())
            self._web.stdin.close()

    def _is_ready(self, timeout: float = 5.0) -> bool:
        try:
            with urllib.request.urlopen(f"http://127.0.0.1:{self._port}/health/ready", timeout=timeout) as reply:
                return bool(reply.status == 200)
        except (OSError, urllib.error.HTTPError):
            return False

    def run(self) -> None:
        """Look after both until `pause` raises.

        Raises
        ------
        LaunchError : a part does not come up again and again
        """
        while True:
            self.pause(LOOK_SECONDS)
            if not self.cluster.is_alive():
                click.echo("the database ended; starting it again", err=True)
                self._restart_database()
            if self._web is not None and self._web.poll() is not None:
                click.echo(f"the web server ended (code {self._web.returncode}); starting it again", err=True)
                if not self._answered:
                    self._count_failure("the web server")
                self._answered = False
                self._tell_web()  # without waiting: the database may need help meanwhile
            elif not self._answered:
                self._answered = self._is_ready(timeout=1.0)

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
            self.stop_web()  # it knows the database by its old port
            self._tell_web()

    def _count_failure(self, what: str) -> None:
        now = time.monotonic()
        self._deaths = [*(death for death in self._deaths if now - death < WITHIN_SECONDS), now]
        if len(self._deaths) > MOST_DEATHS:
            log = self.cluster.data / "log" / "web.log"
            raise LaunchError(
                f"{what} did not come up {len(self._deaths)} times within a minute: see {log} and {self.cluster.folder / 'server.log'}"
            )

    def stop_web(self) -> None:
        """Let the web process finish what it has begun, then end it."""
        web = self._web
        if web is None or web.poll() is not None:
            return
        if web.stdin is not None:
            with contextlib.suppress(BrokenPipeError):
                web.stdin.close()
        web.terminate()
        try:
            web.wait(GRACE_SECONDS)
        except subprocess.TimeoutExpired:
            os.killpg(web.pid, signal.SIGKILL)
            web.wait(GRACE_SECONDS)


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
