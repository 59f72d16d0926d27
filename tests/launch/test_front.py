"""The server buffers: silent and half-sent connections take no thread, and a request that drips for ever is ended."""

from __future__ import annotations

import contextlib
import socket
import threading
import time
import urllib.request
from collections.abc import Iterator
from typing import Any

import pytest

from almanac.launch import front
from almanac.launch.front import THREADS, Front


def application(_: dict[str, Any], start: Any) -> list[bytes]:
    start("200 OK", [("Content-Type", "text/plain")])
    return [b"here"]


@pytest.fixture
def port() -> Iterator[int]:
    listening = socket.socket()
    listening.bind(("127.0.0.1", 0))
    listening.listen(64)
    listening.setblocking(False)
    server = Front(application, listening)
    stop = threading.Event()

    def run() -> None:
        while not stop.is_set():
            server._turn()

    thread = threading.Thread(target=run)
    thread.start()
    yield int(listening.getsockname()[1])
    stop.set()
    server.pull_trigger()
    thread.join()
    server.task_dispatcher.shutdown()
    server.asyncore.close_all(server._map)


def ask(port: int) -> bytes:
    with urllib.request.urlopen(f"http://127.0.0.1:{port}/", timeout=10) as reply:
        found: bytes = reply.read()
    return found


@contextlib.contextmanager
def held(port: int, words: bytes, count: int) -> Iterator[list[socket.socket]]:
    opened = [socket.create_connection(("127.0.0.1", port)) for _ in range(count)]
    for connection in opened:
        connection.sendall(words)
    yield opened
    for connection in opened:
        connection.close()


@pytest.mark.parametrize(
    "words", [b"", b"GET / HTTP/1.1\r\nHost: a\r\nX: ", b"POST / HTTP/1.1\r\nHost: a\r\nContent-Length: 9\r\n\r\nhalf"]
)
def test_half_a_request_takes_no_thread(port: int, words: bytes) -> None:
    with held(port, words, 4 * THREADS):
        assert ask(port) == b"here"


def test_a_request_that_drips_is_ended(port: int, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(front, "HEADER_SECONDS", 0.2)
    with held(port, b"GET / HTTP/1.1\r\nX: ", 1) as (connection,):
        deadline = time.monotonic() + 30
        with contextlib.suppress(BrokenPipeError, ConnectionResetError):
            while time.monotonic() < deadline:
                connection.sendall(b"a")
                connection.settimeout(0.2)
                with contextlib.suppress(TimeoutError):
                    if connection.recv(1) == b"":
                        break
        assert time.monotonic() < deadline
