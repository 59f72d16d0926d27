"""One database session a request, committed once at the edge and only when the view succeeded."""

from __future__ import annotations

from collections.abc import Callable

from flask import Flask, current_app, g
from sqlalchemy import Connection, Engine
from sqlalchemy.orm import Session


def session() -> Session:
    """The session of this request."""
    if "session" not in g:
        g.session = Session(current_app.extensions["engine"], expire_on_commit=False)
    found: Session = g.session
    return found


def commit() -> None:
    """Make what this request wrote permanent."""
    session().commit()
    current_app.extensions["committed"]()


def register(app: Flask, engine: Engine | Connection, committed: Callable[[], None]) -> None:
    """Give an application its engine; whatever was not committed is rolled back when the request ends.

    committed : called after each commit
    """
    app.extensions["engine"] = engine
    app.extensions["committed"] = committed

    @app.teardown_appcontext
    def _close(_: BaseException | None) -> None:
        opened: Session | None = g.pop("session", None)
        if opened is not None:
            opened.close()
