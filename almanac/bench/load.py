"""bin/load: many people at once on the product as it runs, reading and now and then writing; what each address takes, side by side."""

from __future__ import annotations

import contextlib
import http.client
import json
import random
import shutil
import signal
import subprocess
import sys
import tempfile
import threading
import time
from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path

import click

from almanac.bench.fleet import load_fleet
from almanac.demo.catalog import USERS
from almanac.launch.cluster import PROJECT, Cluster, free_port

READS = (
    "/api/v1/outlook",
    "/api/v1/outlook/parts/OB-P14-60",
    "/api/v1/outlook/parts/OF-P14",
    "/api/v1/rates/battery",
    "/api/v1/models",
    "/api/v1/models/1",
    "/api/v1/incidents?limit=80",
    "/api/v1/session",
)
WRITE_EVERY = 60
"""One request in so many writes."""
READY_SECONDS = 600.0


@dataclass
class Seen:
    """Milliseconds by address, and what went wrong."""

    took: dict[str, list[float]] = field(default_factory=lambda: defaultdict(list))
    errors: list[str] = field(default_factory=list)
    stale: int = 0
    lock: threading.Lock = field(default_factory=threading.Lock)


class Person:
    """One session on a connection of its own; hung up by `close`, or where signing in failed."""

    def __init__(self, port: int) -> None:
        self._connection = http.client.HTTPConnection("127.0.0.1", port, timeout=60)
        self._cookies: dict[str, str] = {}
        self._token = ""
        try:
            self._sign_in()
        except BaseException:
            self.close()
            raise

    def _sign_in(self) -> None:
        self._token = json.loads(self.ask("GET", "/api/v1/session")[1])["csrf_token"]
        login, _, _, password = USERS[0]
        status, body, _ = self.ask("POST", "/api/v1/session", {"login": login, "password": password})
        if status != 200:
            raise RuntimeError(f"sign-in was answered with {status}")
        self._token = json.loads(body)["csrf_token"]

    def close(self) -> None:
        """Hang up."""
        self._connection.close()

    def ask(self, method: str, path: str, body: object = None) -> tuple[int, bytes, bool]:
        """Status, body, and whether a newer answer was said to be on its way."""
        cookies = "; ".join(f"{name}={value}" for name, value in self._cookies.items())
        headers = {"Cookie": cookies, "X-CSRF-Token": self._token, "Content-Type": "application/json"}
        self._connection.request(method, path, json.dumps(body) if body is not None else None, headers)
        reply = self._connection.getresponse()
        found = reply.read()
        for cookie in reply.headers.get_all("Set-Cookie") or []:
            name, value = cookie.split(";")[0].split("=", 1)
            self._cookies[name] = value
        return reply.status, found, reply.getheader("Almanac-Newer") is not None


@contextlib.contextmanager
def product(*, webs: int, workers: int, data: Path | None = None) -> Iterator[int]:
    """The product on a data folder, a new one with the demo by default; yields its port."""
    folder = Path(tempfile.mkdtemp(prefix="almanac-load-", dir="/tmp"))
    folder.chmod(0o711)
    port, at = free_port(), data or folder / "data"
    command = [sys.executable, "-m", "almanac.launch.start", "--data", str(at), "--port", str(port)]
    with (folder / "launcher.log").open("ab") as log:
        launcher = subprocess.Popen([*command, "--web", str(webs), "--workers", str(workers)], cwd=PROJECT, stdout=log, stderr=log)
    try:
        yield port
    finally:
        launcher.send_signal(signal.SIGTERM)
        launcher.wait(60)
        shutil.rmtree(folder, ignore_errors=True)


@dataclass(frozen=True)
class Known:
    """Seconds from the first page on: until the outlook is known, and until all that is going to be read is."""

    outlook: float
    all: float


def wait_until_known(port: int) -> Known:
    """Ask for everything that is going to be read until all of it is known, the outlook first."""
    with contextlib.closing(first_person(port)) as person:
        begun = time.monotonic()
        _wait(person, READS[:1])
        outlook = time.monotonic() - begun
        _ask_all(person)
        _wait(person, READS)
        return Known(outlook, time.monotonic() - begun)


def first_person(port: int) -> Person:
    """Somebody signed in, as soon as the product answers."""
    deadline = time.monotonic() + READY_SECONDS
    while time.monotonic() < deadline:
        with contextlib.suppress(OSError, http.client.HTTPException, RuntimeError):
            return Person(port)
        time.sleep(0.1)
    raise TimeoutError("the product did not start")


def _ask_all(person: Person) -> None:
    """Ask for everything once, so that workers take it up together."""
    for path in READS:
        person.ask("GET", path)


def _wait(person: Person, paths: tuple[str, ...]) -> None:
    deadline = time.monotonic() + READY_SECONDS
    for path in paths:
        while (status := person.ask("GET", path)[0]) != 200:
            if status != 202 or time.monotonic() > deadline:
                raise RuntimeError(f"{path} did not become known: {status}")
            time.sleep(0.1)


def run(port: int, *, sessions: int, pause: float, seconds: float) -> Seen:
    """So many sessions for a while, with a pause between what each asks."""
    people = [Person(port) for _ in range(sessions)]
    seen, ends = Seen(), time.monotonic() + seconds  # signing in is slow on purpose, and no part of it
    threads = [threading.Thread(target=_go, args=(person, seen, ends, pause, seed)) for seed, person in enumerate(people)]
    for thread in threads:
        thread.start()
    for thread, person in zip(threads, people, strict=True):
        thread.join()
        person.close()
    return seen


def _go(person: Person, seen: Seen, ends: float, pause: float, seed: int) -> None:
    chance = random.Random(seed)  # noqa: S311 - which page is turned to
    while time.monotonic() < ends:
        path, method, body = chance.choice(READS), "GET", None
        if chance.random() * WRITE_EVERY < 1:
            path, method = "/api/v1/scenarios", "POST"
            change = {"do": "season", "factor": 2.0, "on": "2027-06-01", "until": "2027-09-01", "kinds": ["fan"]}
            body = {"name": f"load {seed} {time.monotonic_ns()}", "changes": [change]}
        begun = time.perf_counter()
        try:
            status, _, newer = person.ask(method, path, body)
        except (OSError, http.client.HTTPException) as error:
            status, newer = 0, False
            seen.errors.append(f"{path}: {type(error).__name__}")
        with seen.lock:
            seen.took[f"{method} {path}"].append((time.perf_counter() - begun) * 1000)
            seen.stale += newer
            if status not in (200, 201, 202):
                seen.errors.append(f"{path}: {status}")
        if pause:
            time.sleep(pause * chance.uniform(0.5, 1.5))


def _show(title: str, seen: Seen, seconds: float) -> None:
    every = sorted(took for own in seen.took.values() for took in own)
    rate = len(every) / seconds
    click.echo(f"\n{title}: {len(every):,} requests, {rate:.0f} a second, {len(seen.errors)} errors, {seen.stale} with newer ones coming")
    for name, own in sorted(seen.took.items()):
        ordered = sorted(own)
        middle, most = ordered[len(ordered) // 2], ordered[int(len(ordered) * 0.95)]
        click.echo(f"  {name:<44} {len(own):>6}  p50 {middle:>7.1f} ms  p95 {most:>7.1f} ms")
    for words in sorted(set(seen.errors))[:5]:
        click.echo(f"  ! {words}")


@click.command(context_settings={"help_option_names": ["-h", "--help"]})
@click.option("--sessions", default=32, show_default=True, type=click.IntRange(1, 200))
@click.option("--seconds", default=60, show_default=True, type=click.IntRange(5, 600), help="For each run.")
@click.option("--web", "webs", default=(1, 2), show_default=True, multiple=True, type=int, help="Numbers of web processes to compare.")
@click.option("--workers", default=1, show_default=True, type=click.IntRange(1, 8))
@click.option("--assets", type=click.IntRange(1000, 500_000), help="On a generated fleet of this many machines instead of the demo.")
@click.option("--data", type=click.Path(path_type=Path, exists=True), help="A data folder to run on; a new one with the demo by default.")
@click.option("--memory", type=click.IntRange(1000, 1_000_000), help="Only show what memory does over so many requests.")
def main(
    sessions: int, seconds: int, webs: tuple[int, ...], workers: int, assets: int | None, data: Path | None, memory: int | None
) -> None:
    """Load a Parts Almanac that is started for it on loopback, the client on the same machine, and print what each address took."""
    if memory:
        from almanac.bench.flat import measure_flat

        measure_flat(memory, webs=max(webs), workers=workers)
        return
    with tempfile.TemporaryDirectory(prefix="almanac-load-", dir="/tmp") as made:
        if assets:
            data = generated(Path(made), assets)
        _compare(webs, workers, data, sessions=sessions, seconds=seconds)


def generated(folder: Path, assets: int) -> Path:
    """A generated fleet of so many machines in a data folder of its own."""
    folder.chmod(0o711)
    cluster = Cluster(folder / "data")
    cluster.make_folder()
    cluster.start()
    try:
        load_fleet(cluster, assets)
    finally:
        cluster.stop()
    return cluster.data


def _compare(webs: tuple[int, ...], workers: int, data: Path | None, *, sessions: int, seconds: float) -> None:
    for count in webs:
        with product(webs=count, workers=workers, data=data) as port:
            known = wait_until_known(port)
            click.echo(f"\n{count} web, {workers} workers: outlook after {known.outlook:.1f} s, all of it after {known.all:.1f} s")
            _show("A second between clicks", run(port, sessions=sessions, pause=1.0, seconds=seconds), seconds)
            _show("Without a pause", run(port, sessions=sessions, pause=0.0, seconds=seconds), seconds)


if __name__ == "__main__":
    main()
