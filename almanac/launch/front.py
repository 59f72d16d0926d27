"""The web process: waitress in front of the application, on a socket the launcher opened.

Waitress reads a request whole in one event loop before a thread of the application sees it, and buffers what a slow client has
not read yet. Silent and half-sent connections therefore hold a file descriptor each and nothing else; they are closed after a while.
"""

from __future__ import annotations

import json
import os
import signal
import socket
import sys
import time
import weakref
from types import FrameType
from typing import Any

import click
from waitress.server import TcpWSGIServer

from almanac.launch.logs import log_to
from almanac.web.app import LARGEST_REQUEST

THREADS = 8
SILENT_SECONDS = 30
"""A connection on which nothing moves is closed."""
HEADER_SECONDS, BODY_SECONDS = 30, 300
"""A request has to be there by then, however steadily it drips."""
MOST_CONNECTIONS = 2000
LARGEST_HEADER = 64 * 1024
DRAIN_SECONDS = 8.0


def _proxy() -> dict[str, Any]:
    """Whose word on where a request comes from is taken: that of a proxy on this machine, where the environment says there is one."""
    if not os.environ.get("ALMANAC_PROXY"):
        return {}
    return {"trusted_proxy": "127.0.0.1", "trusted_proxy_count": 1, "trusted_proxy_headers": {"x-forwarded-for"}}


class Front(TcpWSGIServer):  # type: ignore[misc]
    """Waitress's server, which also closes connections whose request takes too long to arrive."""

    def __init__(self, application: Any, listening: socket.socket) -> None:
        self._began: weakref.WeakKeyDictionary[Any, float] = weakref.WeakKeyDictionary()
        super().__init__(
            application,
            _sock=listening,
            bind_socket=False,
            sockinfo=(listening.family, listening.type, None, listening.getsockname()),
            threads=THREADS,
            channel_timeout=SILENT_SECONDS,
            cleanup_interval=5,
            connection_limit=MOST_CONNECTIONS,
            backlog=1024,
            asyncore_use_poll=True,
            asyncore_loop_timeout=1,
            max_request_header_size=LARGEST_HEADER,
            max_request_body_size=LARGEST_REQUEST,
            clear_untrusted_proxy_headers=True,
            **_proxy(),
            ident=None,
        )

    def maintenance(self, now: float) -> None:
        """Close what is silent, and what has been sending one request for too long."""
        super().maintenance(now)
        for channel in self.active_channels.values():
            arriving = channel.request
            if arriving is None:
                continue
            began = self._began.setdefault(arriving, now)
            if now - began > (BODY_SECONDS if arriving.headers_finished else HEADER_SECONDS):
                channel.will_close = True

    def serve(self) -> None:
        """Answer until SIGTERM or SIGINT, then finish what has begun and end."""
        stopping = False

        def stop(_signal: int, _frame: FrameType | None) -> None:
            nonlocal stopping
            stopping = True

        signal.signal(signal.SIGTERM, stop)
        signal.signal(signal.SIGINT, stop)
        while not stopping:
            self._turn()
        self._drain()

    def _turn(self) -> None:
        self.asyncore.loop(timeout=self.adj.asyncore_loop_timeout, map=self._map, use_poll=True, count=1)

    def _drain(self) -> None:
        """Take no new connection; requests that were read whole get their answer."""
        self.accepting = False
        deadline = time.monotonic() + DRAIN_SECONDS
        while time.monotonic() < deadline and any(one.requests or one.total_outbufs_len for one in self.active_channels.values()):
            self._turn()
        self.task_dispatcher.shutdown(timeout=1)


@click.command()
@click.option("--socket", "descriptor", type=int, required=True, help="File descriptor of the listening socket.")
@click.option("--log", "log_file", required=True, help="File the log is written to.")
def main(descriptor: int, log_file: str) -> None:
    """Serve the application on a socket that the launcher opened.

    Everything is imported while the launcher still starts the database; where that is comes as one line of JSON on standard input,
    secrets among it, which so stand in no list of processes and in no environment. Without that line it ends.
    """
    log_to(log_file)
    from almanac.web.wsgi import production_app

    words = sys.stdin.readline()
    if not words.strip():
        return
    told = json.loads(words)
    listening = socket.socket(fileno=descriptor)
    listening.setblocking(False)
    Front(production_app(told["database"], told["secret"]), listening).serve()


if __name__ == "__main__":
    main()
