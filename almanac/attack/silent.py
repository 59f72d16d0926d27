"""What two hundred silent or half-sent connections do to everybody else's answers."""

from __future__ import annotations

import contextlib
import socket
import time
from collections.abc import Iterator
from dataclasses import dataclass

from almanac.attack.product import Person

CONNECTIONS = 200
HALF = b"POST /api/v1/session HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Type: application/json\r\nContent-Length: 100000\r\n\r\n{"
HEADER = b"GET /api/v1/outlook HTTP/1.1\r\nHost: 127.0.0.1\r\nX-Half: "


@dataclass(frozen=True)
class Slowed:
    """95th percentile of the time to an answer, in milliseconds, without and with them."""

    before_ms: float
    with_silent_ms: float
    with_half_ms: float
    with_headers_ms: float

    @property
    def worst_change(self) -> float:
        """The largest rise against before."""
        return max(self.with_silent_ms, self.with_half_ms, self.with_headers_ms) / self.before_ms - 1.0


@contextlib.contextmanager
def _held(port: int, words: bytes, count: int) -> Iterator[None]:
    """Connections that said so much and then nothing."""
    opened = []
    try:
        for _ in range(count):
            connection = socket.create_connection(("127.0.0.1", port), timeout=10)
            opened.append(connection)
            connection.sendall(words)
        yield
    finally:
        for connection in opened:
            connection.close()


def measure(person: Person, port: int, *, requests: int = 150, connections: int = CONNECTIONS) -> Slowed:
    """The same reads without them, and beside each sort of them."""
    path = "/api/v1/jobs"
    _p95(person, path, 30)
    before = _p95(person, path, requests)
    found = []
    for words in (b"", HALF, HEADER):
        with _held(port, words, connections):
            found.append(_p95(person, path, requests))
    return Slowed(before, *found)


def _p95(person: Person, path: str, count: int) -> float:
    taken = []
    for _ in range(count):
        begun = time.perf_counter()
        person.get(path).raise_for_status()
        taken.append(time.perf_counter() - begun)
    return sorted(taken)[int(0.95 * count)] * 1000
