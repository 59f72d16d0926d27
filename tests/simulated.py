"""A simulated identity provider, served on loopback for a test."""

from __future__ import annotations

import contextlib
import threading
from collections.abc import Iterator

from werkzeug.serving import make_server

from almanac.standins.provider import Simulated, simulated_app


@contextlib.contextmanager
def served() -> Iterator[Simulated]:
    """One that knows its own address."""
    server = make_server("127.0.0.1", 0, None, threaded=True)  # type: ignore[arg-type]
    provider = Simulated(f"http://127.0.0.1:{server.server_port}", "parts-almanac", "a secret")
    server.app = simulated_app(provider)
    thread = threading.Thread(target=server.serve_forever)
    thread.start()
    try:
        yield provider
    finally:
        server.shutdown()
        thread.join()
        server.server_close()
