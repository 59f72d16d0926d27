"""The application over a copy of the demo that may be hurt, and who attacks it."""

from __future__ import annotations

import threading
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import pytest
from sqlalchemy import Engine, text
from werkzeug.serving import ThreadedWSGIServer

from almanac.launch.cluster import Cluster
from almanac.launch.databases import administer
from almanac.store.engine import connect
from almanac.web.app import create_app


@dataclass(frozen=True)
class Target:
    """What the attacks need of a running product."""

    address: str
    engine: Engine

    def scalar(self, query: str, **values: Any) -> Any:
        with self.engine.connect() as connection:
            return connection.scalar(text(query), values)


@pytest.fixture(scope="module")
def target(cluster: Cluster, demo_template: str) -> Iterator[Target]:
    administer(cluster, "DROP DATABASE IF EXISTS attacked WITH (FORCE)", f"CREATE DATABASE attacked TEMPLATE {demo_template}")
    engine = connect(cluster.url("attacked"))
    server = ThreadedWSGIServer("127.0.0.1", 0, create_app(engine, secret_key="attacked"))
    server.daemon_threads = False
    thread = threading.Thread(target=server.serve_forever)
    thread.start()
    yield Target(f"http://127.0.0.1:{server.server_port}", engine)
    server.shutdown()
    server.server_close()
    thread.join()
    engine.dispose()
