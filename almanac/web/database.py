"""One database session a request, committed once at the edge and only when the view succeeded."""

from __future__ import annotations

import logging
from collections.abc import Iterator
from contextlib import contextmanager

from flask import Flask, current_app, g
from sqlalchemy import Connection, Engine
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from almanac.services.answers.ask import has_pending, keep_pending
from almanac.store import queue
from almanac.store.marks import wrote

LOG = logging.getLogger(__name__)


def session() -> Session:
    """The session of this request."""
    if "session" not in g:
        g.session = Session(current_app.extensions["engine"], expire_on_commit=False)
    found: Session = g.session
    return found


def unhurried() -> None:
    """What rests on what this request writes is computed again when somebody looks, not at once: one of thousands in a night."""
    g.unhurried = True


def commit() -> None:
    """Make what this request wrote permanent. With it goes the wish for what rests on it to be computed again."""
    session().flush()
    if current_app.config["WORKERS"] and not g.get("unhurried") and wrote(session()):
        queue.enqueue(session(), queue.REFRESH, {}, lock=queue.REFRESH, priority=20, anew=True)
    session().commit()


@contextmanager
def closing(app: Flask) -> Iterator[Session]:
    """The session that this request or piece of work uses from now on; closed at the end, and what was computed with it is kept."""
    try:
        yield session()
    finally:
        close(app)


def close(app: Flask) -> None:
    """Close the session in use, and keep what was computed with it."""
    opened: Session | None = g.pop("session", None)
    if opened is None:
        return
    opened.close()
    keep_answers(app, opened)


@contextmanager
def one_moment() -> Iterator[Connection]:
    """A connection that sees one moment, for what is read table by table; apart from the request's own."""
    engine = current_app.extensions["engine"]
    if isinstance(engine, Connection):
        yield engine
        return
    with engine.connect().execution_options(isolation_level="REPEATABLE READ") as connection, connection.begin():
        yield connection


def keep_answers(app: Flask, used: Session) -> None:
    """Keep what was computed with a session so far, for all processes."""
    if not has_pending(used):
        return
    try:
        with Session(app.extensions["engine"]) as own:
            keep_pending(used, own)
            own.commit()
    except SQLAlchemyError:  # an answer is computed again where it was not kept
        LOG.warning("answers were not kept", exc_info=True)


def register(app: Flask, engine: Engine | Connection) -> None:
    """Give an application its engine; whatever was not committed is rolled back when the request ends."""
    app.extensions["engine"] = engine

    @app.teardown_appcontext
    def _close(_: BaseException | None) -> None:
        close(app)
