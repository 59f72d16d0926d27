"""Bringing a cluster's database to where the application can use it: made, migrated, filled or emptied."""

from __future__ import annotations

import contextlib
from collections.abc import Iterator

from sqlalchemy import Engine, create_engine, func, select, text
from sqlalchemy.orm import Session

from almanac.demo import catalog
from almanac.demo.load import draw, load
from almanac.launch.cluster import DATABASE, Cluster
from almanac.launch.demo_bench import lay_on_the_bench
from almanac.launch.demo_reports import let_machines_report
from almanac.services.accounts import HASHER, password_matches
from almanac.store.engine import connect, migrate
from almanac.store.models import Part, Site, User


def administer(cluster: Cluster, *statements: str) -> None:
    """Run statements that cannot be part of a transaction, from the maintenance database."""
    engine = create_engine(cluster.url("postgres"), isolation_level="AUTOCOMMIT")
    with engine.connect() as connection:
        for statement in statements:
            connection.execute(text(statement))
    engine.dispose()


def exists(cluster: Cluster, name: str) -> bool:
    engine = create_engine(cluster.url("postgres"))
    with engine.connect() as connection:
        found = connection.scalar(text("SELECT 1 FROM pg_database WHERE datname = :name"), {"name": name})
    engine.dispose()
    return found is not None


def open_database(cluster: Cluster, *, reset: bool = False) -> Engine:
    """The application's database, made and migrated as needed; `reset` drops what is there."""
    if reset and exists(cluster, DATABASE):
        administer(cluster, f"DROP DATABASE {DATABASE} WITH (FORCE)")
    if not exists(cluster, DATABASE):
        administer(cluster, f"CREATE DATABASE {DATABASE}")
    engine = connect(cluster.url())
    migrate(engine)
    return engine


@contextlib.contextmanager
def one_session(cluster: Cluster) -> Iterator[Session]:
    """A session on the application's database for one command, committed at its end and closed however it ends."""
    engine = open_database(cluster)
    try:
        with Session(engine) as session:
            yield session
            session.commit()
    finally:
        engine.dispose()


def is_empty(engine: Engine) -> bool:
    """True when nobody works here yet: no user, no site, no part."""
    with Session(engine) as session:
        return not any(session.scalar(select(func.count()).select_from(table)) for table in (User, Site, Part))


def load_demo(engine: Engine) -> None:
    """Fill an empty database with the demo company and its sign-ins."""
    load(engine, draw(password_hashes={login: HASHER.hash(password) for login, _, _, password in catalog.USERS}))
    with Session(engine) as session:
        lay_on_the_bench(session)
        let_machines_report(session)
        session.commit()


def is_demo(engine: Engine) -> bool:
    """True while the demo's first user is there under the demo's password: only then are sign-ins printed."""
    login, _, _, password = catalog.USERS[0]
    with Session(engine) as session:
        user = session.scalar(select(User).where(User.login == login))
    if user is None:
        return False
    return password_matches(user.password_hash, password)
