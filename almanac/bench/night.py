"""The register of a large fleet, a machine's page, and a night of reports through the door of the product as it runs."""

from __future__ import annotations

import contextlib
import http.client
import json
import statistics
import tempfile
import threading
import time
from collections.abc import Callable
from datetime import UTC, datetime
from functools import partial
from pathlib import Path
from queue import Empty, SimpleQueue
from urllib.parse import quote

from sqlalchemy.orm import Session

from almanac.bench.load import first_person, generated, product, wait_until_known
from almanac.bench.measure import show
from almanac.launch.cluster import Cluster
from almanac.launch.databases import open_database
from almanac.services.clock import read_clock
from almanac.services.fleet.night import Night, nights

SENDERS = 4
LOOKS = (
    "?most=100",
    "?most=100&sort=failed&descending=true",
    "?most=100&sort=site&model=1&youngest=2&oldest=4",
    "?most=100&sort=age&wanted=retiring&site=GUL",
    "?most=100&wanted=worn",
    "?most=100&first=5000&sort=model",
)


def measure_night(assets: int, reports: int) -> None:
    """Print what the register, a machine's page and so many reports take, on a generated fleet."""
    with tempfile.TemporaryDirectory(prefix="almanac-night-", dir="/tmp") as made:
        data = generated(Path(made), assets)
        brought = _brought(data, reports)
        with product(webs=2, workers=1, data=data) as port:
            wait_until_known(port)  # the worker is done with what it computes ahead: nothing is timed beside it
            _measure(port, brought)


def _measure(port: int, brought: list[Night]) -> None:
    with contextlib.closing(first_person(port)) as person:
        for look in LOOKS:
            _time(f"Register {look}", partial(person.ask, "GET", f"/api/v1/fleet/machines{look}"))
        _time("A machine's page", partial(person.ask, "GET", f"/api/v1/machines/{brought[len(brought) // 2].tag}"))
        made_key = person.ask("POST", "/api/v1/tokens", {"name": "bench", "scope": "report", "days": 1})[1]
        key = str(json.loads(made_key)["token"])
        took = _bring(port, key, brought)
        show(f"{len(brought):,} reports from {SENDERS} senders", took, "s")
        show("Reports an hour at that pace", len(brought) / took * 3600, "")
        show("The first thousand of them once more", _bring(port, key, brought[:1000]), "s")


def _brought(data: Path, reports: int) -> list[Night]:
    """What machines will bring, read before the product runs."""
    cluster = Cluster(data)
    cluster.start()
    try:
        engine = open_database(cluster)
        with Session(engine) as session:
            found = list(nights(session, read_clock(session), every=1, most=reports))
        engine.dispose()
    finally:
        cluster.stop()
    return found


def _time(name: str, act: Callable[[], object], times: int = 7) -> None:
    taken = []
    for _ in range(times):
        begun = time.perf_counter()
        act()
        taken.append(time.perf_counter() - begun)
    show(name, statistics.median(taken) * 1000, "ms")


def _bring(port: int, key: str, brought: list[Night]) -> float:
    """Seconds that reports take through the door, several senders at a time."""
    left: SimpleQueue[Night] = SimpleQueue()
    for one in brought:
        left.put(one)
    wrong: list[str] = []
    threads = [threading.Thread(target=_send, args=(port, key, left, wrong)) for _ in range(SENDERS)]
    begun = time.perf_counter()
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    took = time.perf_counter() - begun
    if wrong:
        show(f"Reports that were not taken, the first: {wrong[0]}", len(wrong), "")
    return took


def _send(port: int, key: str, left: SimpleQueue[Night], wrong: list[str]) -> None:
    """Bring reports until none is left."""
    connection = http.client.HTTPConnection("127.0.0.1", port, timeout=60)
    headers = {"Authorization": f"Bearer {key}", "Content-Type": "text/plain"}
    at = quote(datetime.now(UTC).strftime("%Y-%m-%dT00:00:00Z"))
    while True:
        try:
            one = left.get_nowait()
        except Empty:
            return
        address = f"/api/v1/reports?tag={quote(one.tag)}&serial={quote(one.serial)}&at={at}"
        connection.request("POST", address, one.words.encode(), headers)
        reply = connection.getresponse()
        body = reply.read()
        if reply.status != 201:
            wrong.append(f"{one.tag}: {reply.status} {body[:200]!r}")
