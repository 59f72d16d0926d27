"""The product under attack: started by its own launcher on a data folder of its own, and people signed in to it."""

from __future__ import annotations

import contextlib
import os
import shutil
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from dataclasses import dataclass, field
from json import dumps
from pathlib import Path
from typing import Any

import requests
from sqlalchemy import create_engine, text

from almanac.demo import catalog
from almanac.launch.cluster import PROJECT, Cluster, free_port
from almanac.launch.processes import Process, Register, process_of

PATIENCE_SECONDS = 240.0
LEAD, TECHNICIAN = catalog.USERS[0], catalog.USERS[1]


class Person:
    """Somebody signed in: keeps cookies and the token that guards writes."""

    def __init__(self, address: str, login: str, password: str) -> None:
        self.address, self.http = address, requests.Session()
        state = self.http.get(f"{address}/api/v1/session", timeout=60).json()
        self.token, self.key = state["csrf_token"], ""
        reply = self.post("/api/v1/session", {"login": login, "password": password})
        reply.raise_for_status()

    def get(self, path: str, **more: Any) -> requests.Response:
        """A page; one that is being computed is asked for until it is there."""
        deadline = time.monotonic() + PATIENCE_SECONDS
        while (reply := self.http.get(self.address + path, timeout=120, **more)).status_code == 202 and time.monotonic() < deadline:
            time.sleep(0.5)
        return reply

    def send_file(self, path: str, name: str, data: bytes) -> requests.Response:
        """A file, as the address it goes to takes it."""
        if path.endswith("/pages/file"):
            return self.post(path, {"text": data.decode(), "reason": "", "write": False})
        if path.startswith("/api/v1/reports"):
            return self._report(path, data)
        field = {"/api/v1/photos": "photo", "/api/v1/imports?write=true": "files"}.get(path, "file")
        said = {"said": dumps({"list_on": "2026-11-01"})} if "/lists" in path else None
        return self.post(path, files={field: (name, data)}, data=said)

    def _report(self, path: str, data: bytes) -> requests.Response:
        """What a machine prints, brought with a key of its own."""
        if not self.key:
            self.key = self.post("/api/v1/tokens", {"name": "attack", "scope": "report", "days": 1}).json()["token"]
        headers = {"Authorization": f"Bearer {self.key}", "Content-Type": "text/plain"}
        return requests.post(self.address + path, data=data, headers=headers, timeout=120)

    def post(self, path: str, json: Any = None, *, key: str | None = None, **more: Any) -> requests.Response:
        headers = {"X-CSRF-Token": self.token, **({"Idempotency-Key": key} if key else {}), **more.pop("headers", {})}
        return self.http.post(self.address + path, json=json, headers=headers, timeout=120, **more)


@dataclass
class Product:
    """A running product: its launcher, its data folder, its address."""

    data: Path
    port: int
    launcher: subprocess.Popen[bytes] | None = None
    words: list[str] = field(default_factory=list)

    @property
    def address(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    def start(self) -> None:
        """Start the launcher; returns at once."""
        command = [sys.executable, "-m", "almanac.launch.start", "--data", str(self.data), "--port", str(self.port)]
        log = (self.data.parent / "launcher.log").open("ab")
        self.launcher = subprocess.Popen(command, cwd=PROJECT, stdin=subprocess.DEVNULL, stdout=log, stderr=log)

    def seconds_until_ready(self, patience: float = PATIENCE_SECONDS) -> float:
        """How long until it answers that it is ready.

        Raises
        ------
        TimeoutError : it did not within `patience` seconds
        """
        begun = time.monotonic()
        while time.monotonic() - begun < patience:
            with contextlib.suppress(requests.RequestException):
                if requests.get(f"{self.address}/health/ready", timeout=2).status_code == 200:
                    return time.monotonic() - begun
            time.sleep(0.05)
        raise TimeoutError(f"not ready within {patience:g} s")

    def web(self) -> list[Process]:
        """The web processes, as the launcher wrote them down."""
        return Register(self.data).leftovers()

    def postmaster(self) -> Process | None:
        """The database server."""
        with contextlib.suppress(OSError, ValueError, IndexError):
            return process_of(int((self.data / "postgres" / "postmaster.pid").read_text().splitlines()[0]))
        return None

    def backend(self) -> Process | None:
        """One of the database's own processes that serves a connection of the web server."""
        master = self.postmaster()
        others = [pid for pid in Cluster(self.data)._own_processes() if master is None or pid != master.pid]
        return process_of(max(others)) if others else None

    def scalar(self, query: str, **values: Any) -> Any:
        """One value straight from the database."""
        cluster = Cluster(self.data)
        cluster.port = cluster._running_port() or 0
        engine = create_engine(cluster.url())
        with engine.connect() as connection:
            found = connection.scalar(text(query), values)
        engine.dispose()
        return found

    def stop(self) -> None:
        """End the launcher and whatever it left."""
        if self.launcher is not None and self.launcher.poll() is None:
            self.launcher.send_signal(signal.SIGTERM)
            with contextlib.suppress(subprocess.TimeoutExpired):
                self.launcher.wait(40)
            if self.launcher.poll() is None:
                self.launcher.kill()
        Register(self.data).end_leftovers()
        Cluster(self.data).stop()


@contextlib.contextmanager
def running_product() -> Iterator[Product]:
    """The product with the demo on a temporary data folder; stopped and removed at the end."""
    folder = Path(tempfile.mkdtemp(prefix="almanac-attack-", dir="/tmp"))
    folder.chmod(0o711)
    product = Product(folder / "data", free_port())
    product.start()
    try:
        product.seconds_until_ready()
        yield product
    finally:
        product.stop()
        shutil.rmtree(folder, ignore_errors=True)


def kill(process: Process) -> None:
    """End a process as a power cut would: no word, no cleaning up."""
    os.kill(process.pid, signal.SIGKILL)
