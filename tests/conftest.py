"""One private PostgreSQL for the whole run, one database filled with the demo, everything rolled back after each test."""

from __future__ import annotations

import os
import shutil
import tempfile
from collections.abc import Iterator
from functools import partial
from pathlib import Path

import pytest
from hypothesis import settings
from sqlalchemy import Connection, Engine
from sqlalchemy.orm import Session

from almanac.demo.load import draw, load
from almanac.launch.cluster import Cluster
from almanac.launch.databases import administer
from almanac.services.accounts import HASHER
from almanac.services.calibration.backtest import backtest
from almanac.services.clock import Clock, read_clock
from almanac.store.engine import connect, migrate
from almanac.web.views import calibration

# How long an example takes says more of a busy machine than of the code.
settings.register_profile("almanac", deadline=None)
settings.load_profile("almanac")

PASSWORDS = {"quay": "test-lead-password", "pell": "test-bench-password", "ledger": "test-reader-password"}


@pytest.fixture(scope="session")
def cluster() -> Iterator[Cluster]:
    folder = Path(tempfile.mkdtemp(prefix="almanac-test-", dir="/tmp"))
    folder.chmod(0o711)
    found = Cluster(folder, durable=False)
    found.start()
    yield found
    found.stop()
    shutil.rmtree(folder, ignore_errors=True)


def _database(cluster: Cluster, name: str, template: str = "template1") -> Engine:
    administer(cluster, f"DROP DATABASE IF EXISTS {name} WITH (FORCE)", f"CREATE DATABASE {name} TEMPLATE {template}")
    return connect(cluster.url(name))


@pytest.fixture(scope="session")
def demo_template(cluster: Cluster) -> str:
    """A database with the demo company, closed to connections so that others can be copied from it."""
    engine = _database(cluster, "demo_template")
    migrate(engine)
    load(engine, draw(password_hashes={login: HASHER.hash(password) for login, password in PASSWORDS.items()}))
    engine.dispose()
    return "demo_template"


@pytest.fixture(scope="session")
def demo_engine(cluster: Cluster, demo_template: str) -> Iterator[Engine]:
    engine = _database(cluster, "demo", demo_template)
    yield engine
    engine.dispose()


@pytest.fixture(scope="session")
def empty_engine(cluster: Cluster) -> Iterator[Engine]:
    engine = _database(cluster, "bare")
    migrate(engine)
    yield engine
    engine.dispose()


def _rolled_back(engine: Engine) -> Iterator[Connection]:
    with engine.connect() as connection:
        transaction = connection.begin()
        connection.begin_nested()
        yield connection
        transaction.rollback()


@pytest.fixture
def demo_connection(demo_engine: Engine) -> Iterator[Connection]:
    yield from _rolled_back(demo_engine)


@pytest.fixture
def session(demo_connection: Connection) -> Iterator[Session]:
    """A session on the demo company; whatever it commits is undone after the test."""
    with Session(demo_connection, expire_on_commit=False, join_transaction_mode="create_savepoint") as found:
        yield found


@pytest.fixture
def empty_session(empty_engine: Engine) -> Iterator[Session]:
    """A session on a database that has its schema and nothing else."""
    for connection in _rolled_back(empty_engine):
        with Session(connection, expire_on_commit=False, join_transaction_mode="create_savepoint") as found:
            yield found


@pytest.fixture
def clock(session: Session) -> Clock:
    return read_clock(session)


@pytest.fixture(autouse=True)
def _few_quarters(monkeypatch: pytest.MonkeyPatch) -> None:
    """The page of the backtest tries one past quarter of the demo: twelve take minutes, and say nothing more of the product."""
    monkeypatch.setattr(calibration, "backtest", partial(backtest, most=1))


@pytest.fixture(autouse=True, scope="session")
def _no_day_from_outside() -> None:
    os.environ.pop("ALMANAC_AS_OF", None)
